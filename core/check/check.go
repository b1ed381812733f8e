// Package check finds what would ruin a render before its first frame. A kind of finding is a file: what it looks for, its
// words, and its mends, which are edits. What it decides, everyone shows: the badge, the dial, the score, the sentences, the
// Check and Render steps and the command line.
package check

import (
	"cmp"
	"fmt"
	"slices"

	"perigyre/core/edit"
	"perigyre/core/framing"
	"perigyre/core/loop"
	"perigyre/core/move"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// Weight is how much a finding matters.
type Weight string

const (
	Blocks Weight = "blocks" // mend it before rendering
	Look   Weight = "look"   // worth a look
)

// Finding is one thing that was found, with its evidence.
type Finding struct {
	Kind   string   `json:"kind"`
	Weight Weight   `json:"weight"`
	Title  string   `json:"title"`
	Why    string   `json:"why"`
	Part   string   `json:"part,omitempty"`
	Frame  *float64 `json:"frame,omitempty"` // where it is seen
	Mends  []Mend   `json:"mends"`
}

// Mend is a repair in one press, and what it will change in words.
type Mend struct {
	Words string      `json:"words"`
	Edits []edit.Edit `json:"edits"`
}

// Facts are what findings are judged by. They are measured once for a version of a shot.
type Facts struct {
	Pose     *pose.Evaluator
	Seam     loop.Seam
	Closings []loop.Closing
	Margins  *framing.Margins // nil where nothing is visible, or there is no camera
	Wobble   *float64         // metres from the turntable's axis to the middle of what turns, nil without one
}

// Measure works the facts out.
func Measure(u *framing.Subject) (*Facts, error) {
	f := &Facts{Pose: u.Pose, Seam: loop.Prove(u.Pose, u.Bodies), Closings: loop.Closings(u.Pose)}
	m, ok, err := u.Margins()
	if err != nil {
		return nil, err
	}
	if ok {
		f.Margins = &m
	}
	return f, nil
}

// kinds are all kinds of findings, with their order.
var kinds []kind

type kind struct {
	order int
	find  func(f *Facts) []Finding
}

// register makes a kind of finding known. Those of a lower order come first.
func register(order int, find func(f *Facts) []Finding) {
	kinds = append(kinds, kind{order, find})
	slices.SortStableFunc(kinds, func(a, b kind) int { return cmp.Compare(a.order, b.order) })
}

// Find returns everything that is found.
func Find(f *Facts) []Finding {
	out := []Finding{}
	for _, k := range kinds {
		for _, one := range k.find(f) {
			if one.Mends == nil {
				one.Mends = []Mend{}
			}
			out = append(out, one)
		}
	}
	return out
}

// Verdict is whether the shot comes back to its beginning, in words.
type Verdict struct {
	Closes bool   `json:"closes"` // or has no seam
	Words  string `json:"words"`
}

// Judge says whether the loop closes: by what the camera sees at the seam, and by that alone.
func Judge(f *Facts) Verdict {
	s := f.Pose.Shot
	if s.Ending == shot.Once {
		return Verdict{true, "It plays once, and has no seam."}
	}
	if f.Seam.Closes {
		return Verdict{true, fmt.Sprintf("The loop closes: frame %d, which is not rendered, is frame 0.", s.Frames)}
	}
	worst := loop.Gap{}
	for _, g := range f.Seam.Gaps {
		if g.Pixels > worst.Pixels || worst.Pixels == 0 && g.Change > worst.Change {
			worst = g
		}
	}
	name := "Something"
	if p := s.Part(worst.Part); p != nil {
		name = p.Name
	}
	return Verdict{false, fmt.Sprintf("The loop does not close: %s %s where it begins anew.", name, jump(worst))}
}

// jump says how far something jumps.
func jump(g loop.Gap) string {
	if g.Pixels > loop.Proved {
		return fmt.Sprintf("jumps by %.1f px", g.Pixels)
	}
	return fmt.Sprintf("changes by %.2g %%", g.Change*100)
}

// Edits returns a mend of a move as edits.
func Edits(m move.Mend) []edit.Edit {
	if m.Frames > 0 {
		return []edit.Edit{{Change: &edit.SetTiming{Frames: &m.Frames}}}
	}
	return []edit.Edit{{Change: &edit.ReplaceMoves{Moves: m.Moves}}}
}

// mendsOf returns the mends of a closing.
func mendsOf(c *loop.Closing) (out []Mend) {
	for _, m := range c.Mends {
		out = append(out, Mend{m.Words, Edits(m)})
	}
	if c.Move == "" && !c.Closes {
		out = append(out, Mend{"Let the pins end as they begin", []edit.Edit{{Change: &edit.MatchEnds{Part: c.Part}}}})
	}
	return out
}

// MendsOf returns the repairs of a move or of pins that do not come back by themselves.
func MendsOf(c *loop.Closing) []Mend {
	if out := mendsOf(c); out != nil {
		return out
	}
	return []Mend{}
}

func frame(v float64) *float64 { return &v }
