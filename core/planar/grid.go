package planar

import (
	"math"
	"math/bits"

	"perigyre/core/geom"
)

// point is a place on the grid. Its coordinates are less than 2^26 on either side of 0, so that every product of two
// differences, and of their doubles, is exact in 64 bits.
type point struct{ x, y int64 }

func (p point) sub(q point) point { return point{p.x - q.x, p.y - q.y} }

// before is the order of the sweep: from left to right, and upwards on an upright line.
func (p point) before(q point) bool { return p.x < q.x || p.x == q.x && p.y < q.y }

func (p point) compare(q point) int {
	switch {
	case p == q:
		return 0
	case p.before(q):
		return -1
	}
	return 1
}

// cross is positive where v lies counter-clockwise of u.
func cross(u, v point) int64 { return u.x*v.y - u.y*v.x }

// side is positive where c lies on the left of the way from a to b.
func side(a, b, c point) int64 { return cross(b.sub(a), c.sub(a)) }

// Bits of the larger side of the drawing that the grid tells apart, and of a number of single precision.
const gridBits, floatBits = 21, 24

// grid takes places of the plane to points and back. Its step is a power of two, so that points come back to where they
// were when they are taken to a grid as fine once more, and such that points are exact in single precision: what is
// counter-clockwise on the grid still is in a mesh.
type grid struct {
	step   float64
	ox, oy float64 // of the origin, in steps
}

// gridOver returns the grid of a box.
func gridOver(lo, hi geom.Vec2) grid {
	size := math.Max(hi[0]-lo[0], hi[1]-lo[1])
	if !(size > 0) {
		size = 1
	}
	far := math.Max(math.Max(math.Abs(lo[0]), math.Abs(hi[0])), math.Max(math.Abs(lo[1]), math.Abs(hi[1])))
	_, e := math.Frexp(size) // size < 2^e
	_, f := math.Frexp(far)
	step := math.Ldexp(1, max(e-gridBits, f-floatBits))
	return grid{step, math.Round((lo[0] + hi[0]) / 2 / step), math.Round((lo[1] + hi[1]) / 2 / step)}
}

func (g grid) to(p geom.Vec2) point {
	return point{int64(math.Round(p[0]/g.step) - g.ox), int64(math.Round(p[1]/g.step) - g.oy)}
}

func (g grid) from(p point) geom.Vec2 {
	return geom.Vec2{(float64(p.x) + g.ox) * g.step, (float64(p.y) + g.oy) * g.step}
}

// meeting returns the point of the grid whose pixel holds the place where two lines cross, and false where they run
// side by side or do not reach each other. The arithmetic is exact: a pixel holds its left and its lower edge.
func meeting(a, b, c, d point) (point, bool) {
	u, v, w := b.sub(a), d.sub(c), c.sub(a)
	whole := cross(u, v)
	if whole == 0 {
		return point{}, false
	}
	t, s := cross(w, v), cross(w, u)
	if whole < 0 {
		whole, t, s = -whole, -t, -s
	}
	if t < 0 || t > whole || s < 0 || s > whole {
		return point{}, false
	}
	return point{a.x + part(t, u.x, whole), a.y + part(t, u.y, whole)}, true
}

// part returns n/d of length, rounded half up.
func part(n, length, d int64) int64 {
	far, add := uint64(length), uint64(d)
	if length < 0 {
		far, add = uint64(-length), uint64(d-1)
	}
	hi, lo := bits.Mul64(2*uint64(n), far)
	lo, carry := bits.Add64(lo, add, 0)
	q, _ := bits.Div64(hi+carry, lo, 2*uint64(d))
	if length < 0 {
		return -int64(q)
	}
	return int64(q)
}

// box is an upright rectangle with its edges.
type box struct{ lo, hi point }

func boxOf(a, b point) box {
	return box{point{min(a.x, b.x), min(a.y, b.y)}, point{max(a.x, b.x), max(a.y, b.y)}}
}

func (b box) with(c box) box {
	return box{point{min(b.lo.x, c.lo.x), min(b.lo.y, c.lo.y)}, point{max(b.hi.x, c.hi.x), max(b.hi.y, c.hi.y)}}
}

func (b box) within(c box) box {
	return box{point{max(b.lo.x, c.lo.x), max(b.lo.y, c.lo.y)}, point{min(b.hi.x, c.hi.x), min(b.hi.y, c.hi.y)}}
}

func (b box) apart(c box) bool {
	return b.lo.x > c.hi.x || c.lo.x > b.hi.x || b.lo.y > c.hi.y || c.lo.y > b.hi.y
}

// reaches reports whether the line from p to q meets the box (separating axes: those of the box, and across the line).
func (b box) reaches(p, q point) bool {
	if b.apart(boxOf(p, q)) {
		return false
	}
	s := side(p, q, b.lo)
	for _, c := range [3]point{b.hi, {b.lo.x, b.hi.y}, {b.hi.x, b.lo.y}} {
		if t := side(p, q, c); t == 0 || (t > 0) != (s > 0) {
			return true
		}
	}
	return s == 0
}

// passes reports whether the line from p to q goes through the pixel of c, which holds its left and its lower edge.
func passes(p, q, c point) bool {
	// In half steps, so that the corners are on the grid.
	p, q, c = point{2 * p.x, 2 * p.y}, point{2 * q.x, 2 * q.y}, point{2 * c.x, 2 * c.y}
	if min(p.x, q.x) > c.x+1 || max(p.x, q.x) < c.x-1 || min(p.y, q.y) > c.y+1 || max(p.y, q.y) < c.y-1 {
		return false
	}
	corner := side(p, q, point{c.x - 1, c.y - 1})
	left, right := corner > 0, corner < 0
	for _, k := range [3]point{{c.x + 1, c.y - 1}, {c.x - 1, c.y + 1}, {c.x + 1, c.y + 1}} {
		s := side(p, q, k)
		left, right = left || s > 0, right || s < 0
	}
	if left && right {
		// Ends lie on even numbers and edges on odd ones: a line that reaches the edge goes in.
		return min(p.x, q.x) < c.x+1 && max(p.x, q.x) > c.x-1 && min(p.y, q.y) < c.y+1 && max(p.y, q.y) > c.y-1
	}
	return corner == 0 // it touches a corner: the one that the pixel holds
}
