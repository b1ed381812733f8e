package check

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"perigyre/core/assembly"
	"perigyre/core/edit"
	"perigyre/core/move"
	"perigyre/core/pose"
)

// shifts are by how many frames a move is tried earlier and later.
var shifts = []float64{2, 4, 8, 12, 16, 24, 32, 48}

// apart is the mend of two things that pass through each other: one move that acts on one of them and not on the other is played
// earlier or later, by so much that they have the most room. It is tried on the whole shot.
func (f *Facts) apart(m met, known [][2]int) []Mend {
	if m.grows {
		return nil // it has nothing to do with when
	}
	type try struct {
		edits []edit.Edit
		words string
		room  float64
		by    float64
		part  int
	}
	var list []try
	s := f.Pose.Shot
	end := float64(s.Frames)
	mine, other := f.chain(m.a), f.chain(m.b)
	for k, c := range [2][]int{mine, other} {
		for _, i := range c {
			if slices.Contains([2][]int{other, mine}[k], i) {
				break // it moves both
			}
			for j := range s.Parts[i].Moves {
				mv := &s.Parts[i].Moves[j]
				if mv.Muted || mv.Span == nil || !move.Poses(mv) && !move.ActsOnMembers(mv) {
					continue
				}
				for _, by := range shifts {
					for _, by := range [2]float64{by, -by} {
						if mv.Span.From+by < 0 || mv.Span.To+by > end {
							continue
						}
						edits := []edit.Edit{{Change: &edit.SetMove{Move: mv.ID, Patch: edit.Patch(fmt.Sprintf(`{"span":{"from":%g,"to":%g}}`, mv.Span.From+by, mv.Span.To+by))}}}
						way := "later"
						if by < 0 {
							way = "earlier"
						}
						if f.ctx.Err() != nil {
							return nil
						}
						if room, ok := f.clear(m, edits); ok {
							list = append(list, try{edits, fmt.Sprintf("Play the %s of %s %g frames %s", mv.Kind, s.Parts[i].Name, math.Abs(by), way), room, math.Abs(by), i})
						}
					}
				}
			}
		}
	}
	tenths := func(room float64) float64 { return math.Round(room * 1e4) } // of a millimetre
	slices.SortStableFunc(list, func(a, b try) int {
		return cmp.Or(cmp.Compare(tenths(b.room), tenths(a.room)), cmp.Compare(a.by, b.by))
	})
	for _, t := range list[:min(1, len(list))] {
		if f.ctx.Err() != nil {
			return nil
		}
		now := f.try(t.edits)
		if now == nil {
			continue
		}
		left, _ := f.meetings(now.Pose, func(i int) bool { return s.Parts[i].Copies != nil || f.Pose.Index.Within(i, t.part) })
		if !slices.ContainsFunc(left, func(l met) bool { return l.key() == m.key() || !slices.Contains(known, l.key()) }) {
			return []Mend{{t.words, t.edits}}
		}
	}
	return nil
}

// chain is a piece and all that it is in.
func (f *Facts) chain(q piece) (out []int) {
	for i := q.carrier; i >= 0; i = f.Pose.Index.Parent(i) {
		out = append(out, i)
	}
	return out
}

// clear is how far apart two things are at least after edits, on every other frame; false where they touch.
func (f *Facts) clear(m met, edits []edit.Edit) (float64, bool) {
	done, err := edit.Apply(f.Pose.Shot, edits, edit.Env{Assets: f.Geometry})
	if err != nil {
		return 0, false
	}
	p, err := f.piecesOf(pose.New(done.Shot), often)
	if err != nil {
		return 0, false
	}
	i, k := slices.Index(p.list, m.a), slices.Index(p.list, m.b)
	if i < 0 || k < 0 {
		return 0, false
	}
	pair := [2]int{min(i, k), max(i, k)}
	least := math.Inf(1)
	for _, step := range []int{8, 2} { // first whether it can be
		for t := 0; t < len(p.times); t += step {
			at, err := p.at(p.time(t), pair[:])
			if err != nil {
				return 0, false
			}
			x, sx, okA := rigid(at[0])
			y, sy, okB := rigid(at[1])
			a, errA := p.solid(pair[0], sx)
			b, errB := p.solid(pair[1], sy)
			back, ok := x.Inverse()
			if !okA || !okB || errA != nil || errB != nil || !ok {
				continue
			}
			least = math.Min(least, math.Min(a.Size(), b.Size())/20) // more room than that is as good
			if step == 8 {
				if assembly.Nearer(a, b, back.Mul(y), 0) {
					return 0, false
				}
			} else if g, near := assembly.Nearest(a, b, back.Mul(y), least); near {
				if least = g.Distance; least == 0 {
					return 0, false
				}
			}
		}
	}
	return least, least > 0
}

// key names what passes through what, by what carries them.
func (m *met) key() [2]int {
	a, b := m.a.group(), m.b.group()
	return [2]int{min(a, b), max(a, b)}
}
