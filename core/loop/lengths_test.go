package loop

import (
	"math/big"
	"testing"

	"perigyre/core/move"
	"perigyre/core/shot"
)

// The time at which periods come round together, worked out by hand: 8/3 and 5/2 meet after 40; 2.5 s at 24000/1001 frames a second
// are 60000/1001 frames, and meet 36 frames after 180000 / gcd(1001, 1).
func TestPeriodsTogether(t *testing.T) {
	for _, c := range []struct {
		periods [][2]int64
		want    [2]int64
	}{
		{[][2]int64{{12, 1}, {18, 1}}, [2]int64{36, 1}},
		{[][2]int64{{8, 3}, {5, 2}}, [2]int64{40, 1}},
		{[][2]int64{{3, 4}, {5, 4}}, [2]int64{15, 4}},
		{[][2]int64{{60000, 1001}, {36, 1}}, [2]int64{180000, 1}},
	} {
		var list []*big.Rat
		for _, p := range c.periods {
			list = append(list, big.NewRat(p[0], p[1]))
		}
		if got := Together(list); got.Cmp(big.NewRat(c.want[0], c.want[1])) != 0 {
			t.Errorf("%v: %v, want %v", c.periods, got, c.want)
		}
	}
	if f := fraction(60000.0 / 1001); f.Cmp(big.NewRat(60000, 1001)) != 0 {
		t.Errorf("%v", f)
	}
	if f := fraction(1.0 / 3e6); f != nil && f.Num().Int64() != 0 {
		t.Errorf("a number that is no fraction: %v", f)
	}
	s := shot.New("t")
	s.Parts = []shot.Part{{Moves: []shot.Move{
		{ID: "a", Kind: "float", Data: &move.Float{Height: 1, Period: 28}}, {ID: "b", Kind: "float", Data: &move.Float{Height: 1, Period: 35}},
	}}}
	if got := Lengths(s); len(got) != 1 || got[0] != 140 { // 140 of 96; 280 is more than twice as long
		t.Errorf("%v", got)
	}
}
