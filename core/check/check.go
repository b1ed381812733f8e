// Package check finds what would ruin a render before its first frame. A kind of finding is a file: what it looks for, its
// words, and its mends, which are edits. What it decides, everyone shows: the badge, the dial, the score, the sentences, the
// Check and Render steps and the command line.
package check

import (
	"cmp"
	"context"
	"fmt"
	"slices"

	"perigyre/core/assembly"
	"perigyre/core/edit"
	"perigyre/core/framing"
	"perigyre/core/loop"
	"perigyre/core/move"
	"perigyre/core/pose"
	"perigyre/core/scene"
	"perigyre/core/shot"
	"perigyre/core/stage"
)

// Weight is how much a finding matters.
type Weight string

const (
	Blocks Weight = "blocks" // mend it before rendering
	Look   Weight = "look"   // worth a look
	Note   Weight = "note"   // said, and nothing more: it was accepted
)

// Finding is one thing that was found, with its evidence.
type Finding struct {
	Kind   string      `json:"kind"`
	Weight Weight      `json:"weight"`
	Title  string      `json:"title"`
	Why    string      `json:"why"`
	Parts  []string    `json:"parts"`            // ids of the parts that it is about
	Frames *[2]float64 `json:"frames,omitempty"` // from and to, where it is seen; the whole shot where it is left out
	Worst  *float64    `json:"worst,omitempty"`  // the frame of these on which it is worst, where that is not the first
	Value  float64     `json:"value"`            // how bad it is: more is worse
	Unit   string      `json:"unit"`             // of the value
	Mends  []Mend      `json:"mends"`
	Lines  []Line      `json:"lines,omitempty"` // where it is seen, to be drawn

	Accepted *string `json:"accepted,omitempty"` // the reason why it stays
}

// Mend is a repair in one press, and what it will change in words.
type Mend struct {
	Words string      `json:"words"`
	Edits []edit.Edit `json:"edits"`
}

// Facts are what findings are judged by. They are measured once for a version of a shot.
type Facts struct {
	Pose     *pose.Evaluator
	Geometry framing.Geometry
	Sight    *loop.Sight
	Seam     loop.Seam
	Closings []loop.Closing
	Shorter  int              // frames that show all that a loop that closes shows, once it has been looked at; 0 where it takes all
	Margins  *framing.Margins // nil where nothing is visible, or there is no camera
	Standing []stage.Standing // how the models that were brought in stand, in the order of the document
	Textures Textures         // tell what textures are like; nil where nobody looks
	Wobble   *float64         // the most that one of them is off the axis of its turntable, metres; nil without one

	solids map[int]*assembly.Solid      // of parts, in their own frames, as far as they were asked for
	built  map[solidKey]*assembly.Solid // of pieces, while something is being found: edits that are tried change no shape

	ctx    context.Context // of what is being found
	memory *Memory
	said   func(share float64)
}

// Measure works the facts out. What looks the same turned is told by sym; nil for nothing.
func Measure(u *framing.Subject, g framing.Geometry, sym scene.Symmetry) (*Facts, error) {
	sight := &loop.Sight{Pose: u.Pose, Geometry: g, Symmetry: sym}
	seam, err := sight.Prove()
	if err != nil {
		return nil, err
	}
	f := &Facts{Pose: u.Pose, Geometry: g, Sight: sight, Seam: seam, Closings: loop.Closings(u.Pose)}
	for k := range f.Closings { // nothing says that something does not close where the camera sees that it does
		if c := &f.Closings[k]; seam.Closes && !c.Closes && u.Pose.Index.Part(u.Pose.Shot.Camera) >= 0 {
			c.Closes, c.Words, c.Mends = true, "closes: not by itself, but all that is seen comes back", nil
		}
	}
	m, ok, err := u.Margins()
	if err != nil {
		return nil, err
	}
	if ok {
		f.Margins = &m
	}
	for _, s := range u.Pose.Shot.Sources {
		standing, err := stage.Measure(u.Pose.Shot, s.Root, g)
		if err != nil {
			return nil, err
		}
		f.Standing = append(f.Standing, standing)
		if off := standing.Wobble; off != nil && (f.Wobble == nil || *off > *f.Wobble) {
			f.Wobble = off
		}
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

// Watch is what goes along with looking for findings. The zero Watch is none.
type Watch struct {
	Memory *Memory             // of what was found before, so that an edit has that looked at again which it touches
	Share  func(share float64) // is told how much has been looked at, from 0 to 1, from any goroutine
}

// Find returns everything that is found; fewer, and an error, where the context ends before that. It is for one goroutine at a time.
func Find(ctx context.Context, f *Facts, w Watch) ([]Finding, error) {
	f.ctx, f.memory, f.said = ctx, w.Memory, w.Share
	if f.said == nil {
		f.said = func(float64) {}
	}
	f.built = map[solidKey]*assembly.Solid{}
	defer func() { f.built = nil }()
	out := []Finding{}
	for _, k := range kinds {
		if err := ctx.Err(); err != nil {
			return out, err
		}
		for _, one := range k.find(f) {
			if one.Mends == nil {
				one.Mends = []Mend{}
			}
			if one.Parts == nil {
				one.Parts = []string{}
			}
			accepted(f.Pose.Shot, &one)
			out = append(out, one)
		}
	}
	if f.Seam.Closes && f.Pose.Shot.Ending == shot.Loop {
		n, err := f.Sight.Shorter(ctx)
		if err != nil {
			return out, err
		}
		f.Shorter = n
	}
	f.said(1)
	return out, ctx.Err()
}

// Verdict is whether the shot comes back to its beginning, in words.
type Verdict struct {
	Closes  bool   `json:"closes"` // or has no seam
	Words   string `json:"words"`
	Shorter int    `json:"shorter,omitempty"` // so many frames show all that the loop shows; 0 where it takes all
}

// Judge says whether the loop closes: by what the camera sees at the seam, and by that alone.
func Judge(f *Facts) Verdict {
	s := f.Pose.Shot
	if s.Ending == shot.Once {
		return Verdict{Closes: true, Words: "It plays once, and has no seam."}
	}
	if f.Seam.Closes {
		out := Verdict{Closes: true, Words: fmt.Sprintf("The loop closes: frame %d, which is not rendered, is frame 0.", s.Frames)}
		if n := f.Shorter; n > 0 {
			out.Shorter = n
			out.Words += fmt.Sprintf(" Frames 0 to %d show all that it shows: %d frames are as good as %d.", n-1, n, s.Frames)
		}
		return out
	}
	worst := loop.Gap{}
	for _, g := range f.Seam.Gaps {
		if g.Pixels > worst.Pixels || worst.Pixels <= loop.Proved && g.Change > worst.Change {
			worst = g
		}
	}
	return Verdict{Words: fmt.Sprintf("The loop does not close: %s %s where it begins anew.", f.name(worst.Part), jump(worst))}
}

// jump says how far something jumps.
func jump(g loop.Gap) string {
	if g.Pixels > loop.Proved {
		return fmt.Sprintf("jumps by %.1f px", g.Pixels)
	}
	return fmt.Sprintf("changes by %.2g %%", g.Change*100)
}

// number is the gap as findings have it: pixels of the format, or percent of a change of light or colour.
func number(g loop.Gap) (float64, string) {
	if g.Pixels > loop.Proved {
		return g.Pixels, "px"
	}
	return g.Change * 100, "%"
}

// Edits returns a mend of a move as edits.
func Edits(m move.Mend) []edit.Edit {
	var out []edit.Edit
	if m.Frames > 0 {
		out = append(out, edit.Edit{Change: &edit.SetTiming{Frames: &m.Frames}})
	}
	if len(m.Moves) > 0 {
		out = append(out, edit.Edit{Change: &edit.ReplaceMoves{Moves: m.Moves}})
	}
	return out
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

// frame is a place in time, as findings have it.
func frame(v float64) *[2]float64 { return &[2]float64{v, v} }

// name is what a part is called in sentences.
func (f *Facts) name(id string) string {
	if p := f.Pose.Shot.Part(id); p != nil {
		return p.Name
	}
	return "something"
}
