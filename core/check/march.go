package check

import (
	"fmt"
	"math"

	"perigyre/core/edit"
	"perigyre/core/geom"
	"perigyre/core/loop"
	"perigyre/core/move"
	"perigyre/core/shot"
)

// marches are the marching loops that close: a row of equal copies, or the camera along it, goes by whole steps of the row, so that
// each copy stands in the end where another one stood. The slide is made as much longer or shorter as that takes.
func (f *Facts) marches() (out []Mend) {
	s := f.Pose.Shot
	for i := range s.Parts {
		c := s.Parts[i].Copies
		if c == nil || c.Kind != shot.Row && c.Kind != shot.Grid {
			continue
		}
		for _, step := range steps(c) {
			d := f.Pose.AtRest(i).Vector(step)
			for k := range s.Parts {
				for j := range s.Parts[k].Moves {
					if m, ok := f.march(k, &s.Parts[k].Moves[j], d); ok {
						out = append(out, m)
					}
				}
			}
		}
	}
	return out
}

// steps are how far copies stand from each other, in their frame.
func steps(c *shot.Spread) (out []geom.Vec3) {
	if c.Kind == shot.Row {
		return []geom.Vec3{c.Step}
	}
	for axis := range c.Step {
		var d geom.Vec3
		if d[axis] = c.Step[axis]; c.Count[axis] > 1 && d[axis] != 0 {
			out = append(out, d)
		}
	}
	return out
}

// march is one slide along a row, by the whole number of steps that is nearest; it is tried.
func (f *Facts) march(part int, m *shot.Move, step geom.Vec3) (Mend, bool) {
	slide, ok := m.Data.(*move.Slide)
	if !ok || m.Muted || slide.Frame == shot.OwnFrame || step.Len() == 0 {
		return Mend{}, false
	}
	if up := f.Pose.Index.Parent(part); up >= 0 && slide.Frame == shot.ParentFrame {
		_, q, _, _ := f.Pose.AtRest(up).Decompose()
		step = q.Inverse().Rotate(step)
	}
	along := slide.By.Dot(step) / step.Dot(step)
	if slide.By.Sub(step.Mul(along)).Len() > 0.2*slide.By.Len() {
		return Mend{}, false // it goes across the row
	}
	k := math.Round(along)
	if k == 0 {
		k = math.Copysign(1, along)
	}
	c := m.Clone()
	c.Data.(*move.Slide).By = step.Mul(k)
	edits := []edit.Edit{{Change: &edit.ReplaceMoves{Moves: []shot.Move{c}}}}
	if now := f.try(edits); now == nil || !now.Seam.Closes {
		return Mend{}, false
	}
	what := "step"
	if math.Abs(k) > 1 {
		what = "steps"
	}
	return Mend{fmt.Sprintf("Let %s march by %.0f %s of the row, %s instead of %s", f.Pose.Shot.Parts[part].Name, math.Abs(k), what, loop.Distance(step.Len()*math.Abs(k)), loop.Distance(slide.By.Len())), edits}, true
}
