package exploded

import (
	"reflect"
	"testing"

	"perigyre/core/assembly"
)

// Of five that leave as one, one leaves the others later, and two of these cannot part: they are opened with what they are left with,
// and not with what has left them. What stays is opened with what cannot leave it.
func TestWhatIsOpenedTogether(t *testing.T) {
	as := func(list ...int) (out assembly.Step) {
		for _, k := range list {
			out.Pieces = append(out.Pieces, assembly.Leaving{Piece: k})
		}
		return out
	}
	p := assembly.Plan{Stays: 6, Steps: []assembly.Step{as(7), as(0, 1, 2, 3), as(3)}, Stuck: []assembly.Stuck{{Piece: 0}, {Piece: 2}, {Piece: 4}}}
	want := [][]int{{0, 1, 2}, {3}, {4, 5, 6}, {7}} // 5 has no step, and stands as what stays
	if got := apart(p, 8); !reflect.DeepEqual(got, want) {
		t.Errorf("%v, want %v", got, want)
	}
}
