// Package outline holds drawings as lines and curves, makes flat areas of what they fill and of what a pen draws along
// them, and solids of the areas.
package outline

import (
	"context"
	"math"
	"slices"

	"perigyre/core/geom"
	"perigyre/core/planar"
)

// Region is a flat area: outer loops run counter-clockwise, holes clockwise, and nothing overlaps. The zero Region is
// empty.
type Region struct{ loops [][]geom.Vec2 }

// Area is an area as it is drawn: closed lines and a winding rule.
type Area struct {
	Lines [][]geom.Vec2
	Rule  planar.Rule
}

// Fill returns what a path fills, its curves made straight to a tolerance. What is open is closed.
func Fill(p Path, rule planar.Rule, tolerance float64) Area {
	a := Area{Rule: rule}
	for _, l := range p.Flatten(tolerance) {
		if len(l.Points) > 2 {
			a.Lines = append(a.Lines, l.Points)
		}
	}
	return a
}

// Area returns the region as it would be drawn.
func (r Region) Area() Area { return Area{Lines: r.loops} }

// Transform returns the area where an affine map takes it.
func (a Area) Transform(m Affine) Area {
	out := Area{make([][]geom.Vec2, len(a.Lines)), a.Rule}
	for i, l := range a.Lines {
		out.Lines[i] = make([]geom.Vec2, len(l))
		for k, p := range l {
			out.Lines[i][k] = m.Point(p)
		}
	}
	return out
}

func layers(areas ...Area) []planar.Layer {
	out := make([]planar.Layer, len(areas))
	for i, a := range areas {
		out[i] = planar.Layer(a)
	}
	return out
}

// Regions divides the plane by areas and returns regions of it, which may overlap, by number: of calls add for each that a
// place belongs to. Errors are those of planar.Arrange.
func Regions(ctx context.Context, n int, areas []Area, of func(inside func(area int) bool, add func(region int))) ([]Region, error) {
	a, err := planar.Arrange(ctx, layers(areas...)...)
	if err != nil {
		return nil, err
	}
	out := make([]Region, n)
	for i, loops := range a.Outlines(n, func(c *planar.Cover, add func(int)) {
		of(func(k int) bool { return a.Inside(c, k) }, add)
	}) {
		out[i].loops = loops
	}
	return out, nil
}

// Combine returns the region of the places that in takes, by which of the areas they are inside.
func Combine(ctx context.Context, areas []Area, in func(inside func(area int) bool) bool) (Region, error) {
	r, err := Regions(ctx, 1, areas, func(inside func(int) bool, add func(int)) {
		if in(inside) {
			add(0)
		}
	})
	if err != nil {
		return Region{}, err
	}
	return r[0], nil
}

// Resolve returns the region of one area.
func (a Area) Resolve(ctx context.Context) (Region, error) {
	return Combine(ctx, []Area{a}, func(inside func(int) bool) bool { return inside(0) })
}

// Visible returns what is seen of areas that are painted one on the other, the first at the bottom. Each hides those below
// it from a number on: 0 for an opaque one, its own for one that can be seen through.
func Visible(ctx context.Context, areas []Area, hides []int) ([]Region, error) {
	a, err := planar.Arrange(ctx, layers(areas...)...)
	if err != nil {
		return nil, err
	}
	out := make([]Region, len(areas))
	for i, loops := range a.Outlines(len(areas), func(c *planar.Cover, add func(int)) {
		hidden := len(areas) // from here on
		for k := range c.Down() {
			if k >= hidden || !a.Inside(c, k) {
				continue
			}
			add(k)
			if hides[k] < k {
				if hidden = hides[k]; hidden == 0 {
					return
				}
			}
		}
	}) {
		out[i].loops = loops
	}
	return out, nil
}

// Empty reports whether there is no area.
func (r Region) Empty() bool { return len(r.loops) == 0 }

// Inset returns the area that is at least d from the outline.
func (r Region) Inset(ctx context.Context, d, tolerance float64) (Region, error) {
	if r.Empty() || d <= 0 {
		return r, nil
	}
	lines := make([]Polyline, len(r.loops))
	for i, l := range r.loops {
		lines[i] = reversed(Polyline{l, make([]bool, len(l)), true})
	}
	pen := Pen{Width: 2 * d, Join: RoundJoin}
	if crowded(lines, d/2) {
		edge, err := Stroke(ctx, lines, pen, tolerance)
		if err != nil {
			return Region{}, err
		}
		return Combine(ctx, []Area{r.Area(), edge}, func(inside func(int) bool) bool { return inside(0) && !inside(1) })
	}
	// The line beside the outline winds round a place once, less for every piece of the outline that is too near.
	s := &strokes{pen, d, tolerance}
	in := Area{Rule: planar.Positive}
	for _, l := range lines {
		beside := s.right(l)
		slices.Reverse(beside)
		in.Lines = append(in.Lines, beside)
	}
	return in.Resolve(ctx)
}

func (r Region) corners() int {
	n := 0
	for _, l := range r.loops {
		n += len(l)
	}
	return n
}

// length returns how long all outlines are.
func (r Region) length() float64 {
	sum := 0.0
	for _, l := range r.loops {
		for i, p := range l {
			sum += l[(i+1)%len(l)].Sub(p).Len()
		}
	}
	return sum
}

// Size returns the area of the region.
func (r Region) Size() float64 {
	sum := 0.0
	for _, l := range r.loops {
		for i, p := range l {
			q := l[(i+1)%len(l)]
			sum += (p[0]-l[0][0])*(q[1]-l[0][1]) - (q[0]-l[0][0])*(p[1]-l[0][1])
		}
	}
	return sum / 2
}

// Bounds returns the lowest and highest corner of the region's box.
func (r Region) Bounds() (lo, hi geom.Vec2) {
	if r.Empty() {
		return lo, hi
	}
	lo, hi = geom.Vec2{math.Inf(1), math.Inf(1)}, geom.Vec2{math.Inf(-1), math.Inf(-1)}
	for _, l := range r.loops {
		for _, p := range l {
			lo = geom.Vec2{math.Min(lo[0], p[0]), math.Min(lo[1], p[1])}
			hi = geom.Vec2{math.Max(hi[0], p[0]), math.Max(hi[1], p[1])}
		}
	}
	return lo, hi
}

// Contains reports whether a point lies in the region.
func (r Region) Contains(p geom.Vec2) bool {
	in := false
	for _, l := range r.loops {
		for i, a := range l {
			b := l[(i+1)%len(l)]
			if (a[1] > p[1]) != (b[1] > p[1]) && p[0] < a[0]+(b[0]-a[0])*(p[1]-a[1])/(b[1]-a[1]) {
				in = !in
			}
		}
	}
	return in
}
