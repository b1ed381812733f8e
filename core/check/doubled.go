package check

import (
	"fmt"
	"math"

	"perigyre/core/edit"
	"perigyre/core/loop"
	"perigyre/core/shot"
)

// stir is how far something has to move from one frame to the next for its rest to be seen, pixels.
const stir = 0.3

// The doubled frame: something goes the same way before the seam and after it, and shows on the last frame what it shows on the
// first, so that one picture of the loop is there twice. Common practice, no source: the pin at the end repeats the first
// frame, and people take the last frame away by hand.
func init() {
	register(12, func(f *Facts) (out []Finding) {
		for _, part := range doubled(f) {
			one := Finding{
				Kind: "doubled", Weight: Blocks, Title: f.name(part) + " shows its first frame twice", Parts: []string{part},
				Frames: f.seam(), Value: 1, Unit: "frames",
				Why: fmt.Sprintf("Frame %d shows what frame 0 shows, though it moves before and after: the loop stands still for a frame each time round. Its end belongs on frame %d, which is not rendered.", f.Pose.Shot.Frames-1, f.Pose.Shot.Frames),
			}
			for _, m := range undoubled(f.Pose.Shot, part) {
				if now := f.try(m.Edits); now != nil && now.Seam.Closes && len(doubled(now)) == 0 {
					one.Mends = append(one.Mends, m)
				}
			}
			out = append(out, one)
		}
		return out
	})
}

// doubled returns the parts of which the last frame is the first one again.
func doubled(f *Facts) (out []string) {
	s := f.Pose.Shot
	n := float64(s.Frames)
	if s.Ending != shot.Loop || s.Frames < 4 || len(f.Pose.Animated()) == 0 {
		return nil
	}
	over := pixels(f.between(n-1, 0))
	resting := false
	for _, v := range over {
		resting = resting || v <= loop.Proved
	}
	if !resting {
		return nil
	}
	before, after, all := pixels(f.between(n-2, n-1)), pixels(f.between(0, 1)), pixels(f.between(n-2, 1))
	for i := range s.Parts { // in their order
		id := s.Parts[i].ID
		v, moves := over[id]
		b, a := before[id], after[id]
		goesOn := all[id] > 0.7*(a+b) // what turns round at the seam comes back to where it was
		if moves && v <= loop.Proved && math.Min(a, b) > stir && goesOn {
			out = append(out, id)
		}
	}
	return out
}

// undoubled are mends that may help: the last pins stand on frame N, or the loop is a frame shorter.
func undoubled(s *shot.Shot, part string) (out []Mend) {
	n := float64(s.Frames)
	var edits []edit.Edit
	for i := range s.Parts {
		p := &s.Parts[i]
		for k := range p.Tracks {
			t := &p.Tracks[k]
			if len(t.Pins) > 1 && math.Abs(t.Pins[len(t.Pins)-1].Time-(n-1)) < shot.SamePin {
				from := n - 1
				edits = append(edits, edit.Edit{Change: &edit.SetPin{PinRef: edit.PinRef{Part: p.ID, Value: t.Value, Time: n}, From: &from}})
			}
		}
		for k := range p.Moves {
			m := &p.Moves[k]
			if m.Span != nil && math.Abs(m.Span.To-(n-1)) < shot.SamePin {
				edits = append(edits, edit.Edit{Change: &edit.SetMove{Move: m.ID, Patch: edit.Patch(fmt.Sprintf(`{"span":{"to":%d}}`, s.Frames))}})
			}
		}
	}
	if len(edits) > 0 {
		out = append(out, Mend{fmt.Sprintf("Let what ends on frame %d end on %d", s.Frames-1, s.Frames), edits})
	}
	shorter := s.Frames - 1
	return append(out, Mend{fmt.Sprintf("Make the loop %d frames long", shorter), []edit.Edit{{Change: &edit.SetTiming{Frames: &shorter}}}})
}
