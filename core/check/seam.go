package check

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"perigyre/core/edit"
	"perigyre/core/loop"
	"perigyre/core/move"
	"perigyre/core/shot"
)

// The seam: something that is seen jumps or changes where the loop begins anew. Moves and pins that do not come back by
// themselves are named as the cause, of the part or of what it is in; if they are brought back by something else, so that
// nothing jumps, there is nothing to find.
func init() {
	register(10, func(f *Facts) (out []Finding) {
		if f.Seam.Closes {
			return nil
		}
		s, x := f.Pose.Shot, f.Pose.Index
		told := map[string]bool{}
		open := map[string][]*loop.Closing{} // by part
		for k := range f.Closings {
			if c := &f.Closings[k]; !c.Closes {
				open[c.Part] = append(open[c.Part], c)
			}
		}
		for _, g := range f.Seam.Gaps {
			if !g.Jumps() {
				continue
			}
			causes := false
			value, unit := number(g)
			for i := x.Part(g.Part); i >= 0; i = x.Parent(i) {
				for _, c := range open[s.Parts[i].ID] {
					causes = true
					if told[c.Part+" "+c.Move] {
						continue
					}
					told[c.Part+" "+c.Move] = true
					out = append(out, Finding{
						Kind: "seam", Weight: Blocks, Title: s.Parts[i].Name + " jumps at the seam", Parts: []string{c.Part}, Frames: f.seam(), Value: value, Unit: unit, Mends: mendsOf(c), Lines: arrow(f.seam()[0], g),
						Why: fmt.Sprintf("It %s; in the picture %s %s. The loop would hitch once each time round.", c.Words, s.Parts[x.Part(g.Part)].Name, jump(g)),
					})
				}
			}
			if !causes && !told[g.Part] {
				told[g.Part] = true
				out = append(out, other(f, g))
			}
		}
		if len(out) == 0 {
			return nil
		}
		if all := f.closeAll(); all != nil && len(out) > 1 {
			out[0].Mends = append(out[0].Mends, *all)
		}
		out[0].Mends = append(out[0].Mends, f.lengths(out[0].Mends)...)
		out[0].Mends = append(out[0].Mends, f.marches()...)
		return out
	})
}

// closeAll is the one mend that closes everything: of each move that does not come back the mend that changes its speed the least,
// said in percent, and of others the first; nil where that does not close the shot, or there is only one.
func (f *Facts) closeAll() *Mend {
	var edits []edit.Edit
	var words []string
	for k := range f.Closings {
		c := &f.Closings[k]
		if c.Closes {
			continue
		}
		mends := slices.DeleteFunc(mendsOf(c), func(m Mend) bool { // other lengths cannot be mixed
			return slices.ContainsFunc(m.Edits, func(e edit.Edit) bool { _, timing := e.Change.(*edit.SetTiming); return timing })
		})
		if len(mends) == 0 {
			return nil
		}
		best, said := mends[0], ""
		least := math.Inf(1)
		for _, m := range mends {
			if by, ok := f.faster(m); ok && math.Abs(by) < least-1e-9 {
				best, least, said = m, math.Abs(by), fmt.Sprintf(", speed %+.3g %%", by*100)
			}
		}
		edits = append(edits, best.Edits...)
		words = append(words, fmt.Sprintf("%s: %s%s", f.name(c.Part), strings.ToLower(best.Words[:1])+best.Words[1:], said))
	}
	if len(words) < 2 {
		return nil
	}
	if now := f.try(edits); now == nil || !now.Seam.Closes {
		return nil
	}
	return &Mend{"Close all (" + strings.Join(words, "; ") + ")", edits}
}

// faster is by what share a mend makes a move go faster that goes round; false where that cannot be said.
func (f *Facts) faster(m Mend) (float64, bool) {
	s := f.Pose.Shot
	for _, e := range m.Edits {
		r, ok := e.Change.(*edit.ReplaceMoves)
		if !ok {
			continue
		}
		for k := range r.Moves {
			now := &r.Moves[k]
			_, was := s.Move(now.ID)
			if was == nil || !move.CountsLaps(was) && move.Period(s, was) == 0 || now.After != was.After {
				continue
			}
			a, b := move.Laps(s, was), move.Laps(s, now)
			if a != 0 {
				return b*f.span(was)/(a*f.span(now)) - 1, true
			}
		}
	}
	return 0, false
}

// span is how many frames a move takes; one with a clock of its own the same whatever they are.
func (f *Facts) span(m *shot.Move) float64 {
	if m.Span == nil || move.Period(f.Pose.Shot, m) > 0 {
		return float64(f.Pose.Shot.Frames)
	}
	return m.Span.Long()
}

// maxLengths are offered.
const maxLengths = 2

// lengths are other lengths of the loop at which all of it closes, but those that are offered already.
func (f *Facts) lengths(offered []Mend) (out []Mend) {
	for _, n := range loop.Lengths(f.Pose.Shot) {
		edits := []edit.Edit{{Change: &edit.SetTiming{Frames: &n}}}
		if n == f.Pose.Shot.Frames || len(out) == maxLengths || slices.ContainsFunc(offered, func(m Mend) bool {
			t, ok := m.Edits[0].Change.(*edit.SetTiming)
			return ok && t.Frames != nil && *t.Frames == n
		}) {
			continue
		}
		if now := f.try(edits); now != nil && now.Seam.Closes {
			out = append(out, Mend{fmt.Sprintf("Make the loop %d frames long, where all of it closes (%+d)", n, n-f.Pose.Shot.Frames), edits})
		}
	}
	return out
}

// seam is where the loop begins anew: from its last frame over to its first.
func (f *Facts) seam() *[2]float64 { return &[2]float64{float64(f.Pose.Shot.Frames - 1), 0} }

// other is a jump that no move of the part itself, or of what it is in, explains: what the camera does, or what it follows.
func other(f *Facts, g loop.Gap) Finding {
	out := Finding{Kind: "seam", Weight: Blocks, Title: f.Pose.Shot.Parts[f.Pose.Index.Part(g.Part)].Name + " jumps at the seam", Parts: []string{g.Part}, Frames: f.seam(), Lines: arrow(f.seam()[0], g)}
	out.Value, out.Unit = number(g)
	out.Why = fmt.Sprintf("In the picture it %s where the loop begins anew, by what the camera or another part does.", jump(g))
	for k := range f.Closings {
		if c := &f.Closings[k]; !c.Closes {
			for _, m := range mendsOf(c) {
				m.Words = fmt.Sprintf("%s: %s", f.Pose.Shot.Parts[f.Pose.Index.Part(c.Part)].Name, m.Words)
				out.Mends = append(out.Mends, m)
			}
		}
	}
	return out
}
