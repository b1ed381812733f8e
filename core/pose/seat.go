package pose

import (
	"perigyre/core/geom"
	"perigyre/core/move"
)

// Guided is a part that has a guide line from where it sits.
type Guided struct {
	Part   int
	Rest   geom.Mat4 // where it sits, in its parent's frame
	Middle geom.Vec3 // of the box round it, with all in it, in its own frame
	Drawn  bool      // it is to be seen in the picture itself
}

// Guided returns the parts with guide lines: those that moves of groups take apart, and that are not hidden.
func (e *Evaluator) Guided(g Surfaces) ([]Guided, error) {
	var out []Guided
	hidden := e.Index.Hidden()
	for i := range e.parts {
		drawn, any := false, false
		for _, s := range e.parts[i].members {
			if has, seen := move.Guides(s.Move); has {
				any, drawn = true, drawn || seen
			}
		}
		if !any || hidden[i] {
			continue
		}
		middle, ok, err := e.middle(i, g)
		if err != nil {
			return nil, err
		}
		if ok {
			out = append(out, Guided{i, e.parts[i].rest, middle, drawn})
		}
	}
	return out, nil
}

// Line is where the guide line begins and ends in the room, while every part is where world says; false where the part sits.
func (d *Guided) Line(e *Evaluator, world []geom.Mat4) (from, to geom.Vec3, ok bool) {
	seat := d.Rest
	if up := e.Index.Parent(d.Part); up >= 0 {
		seat = world[up].Mul(seat)
	}
	from, to = seat.Point(d.Middle), world[d.Part].Point(d.Middle)
	return from, to, from.Sub(to).Len() > 1e-9
}

// middle is that of the box round a part with all in it, as they are at rest, in its own frame; false for nothing. It is worked out once.
func (e *Evaluator) middle(part int, g Surfaces) (geom.Vec3, bool, error) {
	if got, ok := e.middles.Load(part); ok {
		m := got.(geom.Box)
		return m.Centre(), !m.Empty(), nil
	}
	box := geom.EmptyBox()
	back, ok := e.AtRest(part).Inverse()
	for i := range e.Shot.Parts {
		p := &e.Shot.Parts[i]
		if !ok || !e.Index.Within(i, part) || p.Mesh == nil && p.Shaped() == nil {
			continue
		}
		points, _, err := g.Surface(p)
		if err != nil {
			return geom.Vec3{}, false, err
		}
		to := back.Mul(e.AtRest(i))
		for _, q := range points {
			box = box.With(to.Point(q))
		}
	}
	e.middles.Store(part, box)
	return box.Centre(), !box.Empty(), nil
}
