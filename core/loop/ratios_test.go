package loop

import (
	"fmt"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/move"
	"perigyre/core/shot"
)

// The turns after which all come round are the least common multiple of the ratios' denominators, by hand, along a train too.
func TestTurnsAfterWhichAllComeRound(t *testing.T) {
	for _, c := range []struct {
		ratios [][3]int // which part drives, 0 for the first; teeth
		want   int64
	}{
		{nil, 0},
		{[][3]int{{0, 31, 50}}, 50},                         // 0.62 to 1
		{[][3]int{{0, 16, 20}, {0, 16, 56}}, 35},            // 4/5 and 2/7
		{[][3]int{{0, 2, 1}}, 1},                            // twice as fast
		{[][3]int{{0, 16, 20}, {1, 20, 56}, {2, 3, 2}}, 35}, // a train: 4/5, 2/7, 3/7
	} {
		s := shot.New("t")
		s.Parts = []shot.Part{{ID: "p0", Name: "Driver", Kind: shot.Group, Rest: shot.AtRest}}
		for k, r := range c.ratios {
			s.Parts = append(s.Parts, shot.Part{ID: fmt.Sprint("p", k+1), Name: "Driven", Kind: shot.Group, Rest: shot.AtRest,
				Moves: []shot.Move{{ID: fmt.Sprint("m", k), Kind: "gear", Data: &move.Gear{Driver: fmt.Sprint("p", r[0]), Axis: geom.Vec3{0, 1, 0}, Frame: shot.OwnFrame, Num: r[1], Den: r[2], Mesh: "outside"}}}})
		}
		if got := Turns(s, "p0"); got != c.want {
			t.Errorf("%v: %d turns, want %d", c.ratios, got, c.want)
		}
	}
}
