package check

import (
	"fmt"
	"math"
	"slices"

	"perigyre/core/edit"
	"perigyre/core/geom"
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
				if now := f.try(m.Edits); now != nil && !now.opens(f, part) && !slices.Contains(doubled(now), part) {
					one.Mends = append(one.Mends, m)
				}
			}
			out = append(out, one)
		}
		return out
	})
}

// doubled returns the parts that stand still from the last frame over to the first, in what they are in, and go the same way
// before and after.
func doubled(f *Facts) (out []string) {
	s, e := f.Pose.Shot, f.Pose
	n := float64(s.Frames)
	if s.Ending != shot.Loop || s.Frames < 4 {
		return nil
	}
	hidden := e.Index.Hidden()
	var seen [2]map[string]float64
	for i := range s.Parts {
		p := &s.Parts[i]
		if len(p.Moves) == 0 && len(p.Tracks) == 0 || hidden[i] {
			continue
		}
		a, b, c, d := e.Local(i, n-2), e.Local(i, n-1), e.Local(i, 0), e.Local(i, 1)
		step := func(from, to geom.Mat4) float64 { // of what it turns, and of its way against its size
			_, q, size, _ := from.Decompose()
			_, r, _, _ := to.Decompose()
			turn := r.Unit().Mul(q.Unit().Inverse())
			angle := 2 * math.Atan2(geom.Vec3{turn[0], turn[1], turn[2]}.Len(), math.Abs(turn[3]))
			return math.Hypot(angle, to.Point(p.Pivot).Sub(from.Point(p.Pivot)).Len()/math.Max(1e-9, size.Len()))
		}
		before, over, after := step(a, b), step(b, c), step(c, d)
		goesOn := step(a, d) > 0.7*(before+after) // what turns round at the seam comes back to where it was
		if over > 1e-3*math.Min(before, after) || !goesOn {
			continue
		}
		if seen[0] == nil {
			seen[0], seen[1] = pixels(f.between(n-2, n-1)), pixels(f.between(0, 1))
		}
		if math.Min(seen[0][p.ID], seen[1][p.ID]) > stir {
			out = append(out, p.ID)
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
