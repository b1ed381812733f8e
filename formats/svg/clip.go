package svg

import (
	"slices"
	"strings"

	"perigyre/core/geom"
	"perigyre/core/outline"
	"perigyre/core/planar"
)

// clipKey is a clip path where it is used: in the units of the shape, or in those of its box.
type clipKey struct {
	n     *node
	place outline.Affine
}

// cut cuts the areas from a number on to what an element's clip path and mask leave of them.
func (r *reader) cut(n *node, set declared, s *state, from int) error {
	for _, way := range [...]struct {
		property, element string
		region            func(*node, *state, *bounds) (outline.Region, error)
	}{{"clip-path", "clipPath", r.clip}, {"mask", "mask", r.mask}} {
		v := strings.TrimSpace(set[way.property])
		if v == "" || v == "none" || from == len(r.areas) {
			continue
		}
		in, ok := strings.CutPrefix(v, "url(")
		href, _, _ := strings.Cut(in, ")")
		to := r.refer(strings.Trim(href, `"' `))
		if !ok || to == nil || to.name != way.element || slices.Contains(r.using, to) {
			r.left.Add("the property " + way.property + " that is no shape of the file")
			continue
		}
		r.using = append(r.using, to)
		region, err := way.region(to, s, r.boxOf(n, s, from))
		r.using = r.using[:len(r.using)-1]
		if err != nil {
			return err
		}
		if err := r.cutTo(from, region.Area()); err != nil {
			return err
		}
	}
	return nil
}

// cutTo keeps of the areas from a number on what lies in another.
func (r *reader) cutTo(from int, to outline.Area) error {
	lo, hi, some := boxOfLines(to.Lines)
	// A frame that is a whole rectangle leaves what is in it as it is.
	whole := some && len(to.Lines) == 1 && len(to.Lines[0]) == 4 && upright(to.Lines[0])
	for i := from; i < len(r.areas); i++ {
		a := &r.areas[i]
		x, y, ok := boxOfLines(a.Shape.Lines)
		if !ok || whole && x[0] >= lo[0] && x[1] >= lo[1] && y[0] <= hi[0] && y[1] <= hi[1] {
			continue
		}
		if !some || x[0] > hi[0] || y[0] < lo[0] || x[1] > hi[1] || y[1] < lo[1] {
			a.Shape.Lines = nil
			continue
		}
		region, err := outline.Combine(r.ctx, []outline.Area{a.Shape, to}, func(in func(int) bool) bool { return in(0) && in(1) })
		if err != nil {
			return err
		}
		a.Shape = region.Area()
	}
	return nil
}

// upright reports whether all edges of a line are level or upright.
func upright(l []geom.Vec2) bool {
	for i, p := range l {
		if q := l[(i+1)%len(l)]; p[0] != q[0] && p[1] != q[1] {
			return false
		}
	}
	return true
}

func boxOfLines(lines [][]geom.Vec2) (lo, hi geom.Vec2, ok bool) {
	for _, l := range lines {
		for _, p := range l {
			if !ok {
				lo, hi, ok = p, p, true
			}
			for k := range 2 {
				lo[k], hi[k] = min(lo[k], p[k]), max(hi[k], p[k])
			}
		}
	}
	return lo, hi, ok
}

// boxOf returns the box of an element in its own units (SVG 1.1, 7.11): of its shape, or of what its group has painted.
func (r *reader) boxOf(n *node, s *state, from int) *bounds {
	if p, ok, _ := r.shape(n, s.view); ok {
		if lo, hi, ok := p.Bounds(); ok {
			return &bounds{lo, hi}
		}
		return nil
	}
	back, ok := s.view.place.Inverse()
	if !ok {
		return nil
	}
	var lines [][]geom.Vec2
	for _, a := range r.areas[from:] {
		lines = append(lines, a.Shape.Transform(back).Lines...)
	}
	lo, hi, ok := boxOfLines(lines)
	if !ok {
		return nil
	}
	return &bounds{lo, hi}
}

// inUnits returns the state within a clip path or a mask: in the units of the shape, or in those of its box.
func inUnits(ofBox bool, s *state, box *bounds) (*state, bool) {
	in := &state{view: s.view, set: inherited, color: s.color, opacity: 1}
	if ofBox {
		if box == nil || !(box.hi[0] > box.lo[0] && box.hi[1] > box.lo[1]) {
			return nil, false
		}
		in.view = viewport{s.view.place.Mul(outline.Affine{box.hi[0] - box.lo[0], 0, 0, box.hi[1] - box.lo[1], box.lo[0], box.lo[1]}), 1, 1}
	}
	return in, true
}

// apart draws the children of an element apart from the drawing.
func (r *reader) apart(n *node, s *state) ([]Area, error) {
	outer := r.areas
	r.areas = nil
	err := r.children(n, s, len(r.using)*8)
	areas := r.areas
	r.areas = outer
	return areas, err
}

// clip returns what a clip path leaves (SVG 1.1, 14.3): the union of its shapes.
func (r *reader) clip(n *node, s *state, box *bounds) (outline.Region, error) {
	in, ok := inUnits(n.attrs["clipPathUnits"] == "objectBoundingBox", s, box)
	if !ok {
		return outline.Region{}, nil
	}
	in.cutting = true
	in, set := r.restyle(n, in)
	key := clipKey{n, in.view.place}
	if region, ok := r.clips[key]; ok {
		return region, nil
	}
	outer := r.areas
	areas, err := r.apart(n, in)
	if err != nil {
		return outline.Region{}, err
	}
	if set["clip-path"] != "" {
		r.areas = areas
		if err := r.cut(n, declared{"clip-path": set["clip-path"]}, s, 0); err != nil {
			return outline.Region{}, err
		}
		areas, r.areas = r.areas, outer
	}
	shapes := make([]outline.Area, len(areas))
	for i, a := range areas {
		shapes[i] = a.Shape
	}
	region, err := outline.Combine(r.ctx, shapes, func(inside func(int) bool) bool {
		for i := range shapes {
			if inside(i) {
				return true
			}
		}
		return false
	})
	if err == nil && len(r.clips) < 10_000 {
		r.clips[key] = region
	}
	return region, err
}

// mask returns where a mask lets more through than it holds back (SVG 1.1, 14.4): a mask of shapes in black and white, or
// that are there and not there, is one of its area.
func (r *reader) mask(n *node, s *state, box *bounds) (outline.Region, error) {
	in, ok := inUnits(n.attrs["maskContentUnits"] == "objectBoundingBox", s, box)
	if !ok {
		return outline.Region{}, nil
	}
	frame, ok := inUnits(n.attrs["maskUnits"] != "userSpaceOnUse", s, box)
	if !ok {
		return outline.Region{}, nil
	}
	in, set := r.restyle(n, in)
	areas, err := r.apart(n, in)
	if err != nil {
		return outline.Region{}, err
	}
	said := func(key, other string) string {
		if v := n.attrs[key]; v != "" {
			return v
		}
		return other
	}
	v := frame.view
	edge := rectangle(v.across(said("x", "-10%")), v.down(said("y", "-10%")), v.across(said("width", "120%")), v.down(said("height", "120%")))
	shapes := []outline.Area{outline.Fill(edge.Transform(v.place), planar.NonZero, r.tolerance)}
	weights := make([][2]float64, len(areas)) // of each area: how light and how dense it is
	soft := false
	for i, a := range areas {
		shapes = append(shapes, a.Shape)
		c := a.Paint.Color
		// The luminance of its linear colours (SVG 1.1, 14.4).
		lum := (0.2125*float64(c.R) + 0.7154*float64(c.G) + 0.0721*float64(c.B)) / 255
		if set["mask-type"] == "alpha" {
			lum = 1
		}
		weights[i] = [2]float64{lum, float64(c.A) / 255}
		soft = soft || a.Paint.Gradient != nil || lum > 0.02 && lum < 0.98 || c.A < 250
	}
	if soft {
		r.left.Add("the softness of a mask (it cuts where it lets half through)")
	}
	return outline.Combine(r.ctx, shapes, func(inside func(int) bool) bool {
		if !inside(0) {
			return false
		}
		light := 0.0
		for i, w := range weights {
			if inside(i + 1) {
				light = light*(1-w[1]) + w[0]*w[1]
			}
		}
		return light > 0.5
	})
}
