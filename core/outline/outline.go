// Package outline holds flat regions with holes and makes solids of them. Boolean operations, insets
// and strokes are those of the package canvas; what is ours is the solid.
package outline

import (
	"math"

	"github.com/tdewolff/canvas"

	"perigyre/core/geom"
)

// Region is a flat area, its y upwards: outer loops run counter-clockwise, holes clockwise, and
// nothing overlaps. The zero Region is empty.
type Region struct{ path *canvas.Path }

// New returns the area that a path fills, its curves flattened to a tolerance and its overlaps
// resolved.
func New(p *canvas.Path, evenOdd bool, tolerance float64) Region {
	rule := canvas.NonZero
	if evenOdd {
		rule = canvas.EvenOdd
	}
	return Region{p.Flatten(tolerance).Settle(rule)}
}

// Empty reports whether there is no area.
func (r Region) Empty() bool { return r.path == nil || r.path.Empty() }

// Minus returns what of r is not in o.
func (r Region) Minus(o Region) Region {
	if r.Empty() || o.Empty() {
		return r
	}
	return Region{r.path.Not(o.path)}
}

// Plus returns what is in r or in o.
func (r Region) Plus(o Region) Region {
	switch {
	case r.Empty():
		return o
	case o.Empty():
		return r
	}
	return Region{r.path.Or(o.path)}
}

// Inset returns the area that is at least d from the outline.
func (r Region) Inset(d, tolerance float64) Region {
	if r.Empty() || d <= 0 {
		return r
	}
	return Region{r.path.Offset(-d, tolerance).Flatten(tolerance).Settle(canvas.Positive)}
}

// Loops returns the outer loops, each with the holes in it.
func (r Region) Loops() []Loop {
	if r.Empty() {
		return nil
	}
	var out []Loop
	for _, p := range r.path.Split() {
		var points []geom.Vec2
		for _, c := range p.Coords() {
			q := geom.Vec2{c.X, c.Y}
			if len(points) == 0 || q != points[len(points)-1] {
				points = append(points, q)
			}
		}
		for len(points) > 1 && points[0] == points[len(points)-1] {
			points = points[:len(points)-1]
		}
		if len(points) < 3 {
			continue
		}
		if signedArea(points) > 0 || len(out) == 0 {
			out = append(out, Loop{Outer: points})
			continue
		}
		// A hole belongs to the outer loop that it lies in; the smallest, where loops lie in loops.
		best := len(out) - 1
		least := math.Inf(1)
		for i := range out {
			if a := signedArea(out[i].Outer); a < least && contains(out[i].Outer, points[0]) {
				best, least = i, a
			}
		}
		out[best].Holes = append(out[best].Holes, points)
	}
	return out
}

// Loop is an outline with the holes in it.
type Loop struct {
	Outer []geom.Vec2
	Holes [][]geom.Vec2
}

// Area returns the area of the region.
func (r Region) Area() float64 {
	sum := 0.0
	for _, l := range r.Loops() {
		sum += signedArea(l.Outer)
		for _, h := range l.Holes {
			sum += signedArea(h)
		}
	}
	return sum
}

// Bounds returns the lowest and highest corner of the region's box.
func (r Region) Bounds() (lo, hi geom.Vec2) {
	if r.Empty() {
		return lo, hi
	}
	b := r.path.Bounds()
	return geom.Vec2{b.X0, b.Y0}, geom.Vec2{b.X1, b.Y1}
}

// signedArea is the shoelace formula: positive for a counter-clockwise loop.
func signedArea(loop []geom.Vec2) float64 {
	sum := 0.0
	for i, p := range loop {
		q := loop[(i+1)%len(loop)]
		sum += p[0]*q[1] - q[0]*p[1]
	}
	return sum / 2
}

func contains(loop []geom.Vec2, p geom.Vec2) bool {
	in := false
	for i, a := range loop {
		b := loop[(i+1)%len(loop)]
		if (a[1] > p[1]) != (b[1] > p[1]) && p[0] < a[0]+(b[0]-a[0])*(p[1]-a[1])/(b[1]-a[1]) {
			in = !in
		}
	}
	return in
}
