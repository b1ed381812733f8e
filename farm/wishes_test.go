package farm

import "testing"

// Of what several programs wish a worker does what lets it rest most, of those that use what it draws; it is refused where all refuse it.
func TestWishesTogether(t *testing.T) {
	no := answer{From: "aaaa", Why: "it is another build"}
	work, pause, drain := answer{From: "bbbb", Wish: Work, Takes: 1}, answer{From: "cccc", Wish: Pause, Takes: 1}, answer{From: "dddd", Wish: Drain, Takes: 8}
	for _, c := range []struct {
		list []answer
		want answer
	}{
		{nil, answer{}},
		{[]answer{no}, answer{Why: no.Why}},
		{[]answer{no, work}, work},
		{[]answer{work, no}, work},
		{[]answer{work, drain}, drain},
		{[]answer{drain, pause, work}, answer{From: "cccc", Wish: Pause, Takes: 8}},
	} {
		if got := together(c.list); got != c.want {
			t.Errorf("of %+v: %+v, want %+v", c.list, got, c.want)
		}
	}
}
