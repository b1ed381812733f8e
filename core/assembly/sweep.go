package assembly

import (
	"math"

	"perigyre/core/geom"
)

// Stops reports whether a surface that moves along a way, as far as that goes, meets another one: whether some point of the other lies
// ahead of a point of it. For translation that is exact: where the shadows of two triangles along the way overlap, how far one is
// ahead of the other is linear, so that corners of the overlap tell. Triangles that the way runs along throw no shadow; they meet
// nothing but with their edges, which are those of others. Surfaces that pass through each other at rest meet; Shrunk parts them.
func Stops(a, b *Solid, way geom.Vec3) bool {
	if a.Empty() || b.Empty() {
		return false
	}
	s := sweep{way: way.Unit()}
	s.side = across(s.way)
	s.up = s.way.Cross(s.side)
	s.fine = 1e-7 * min(a.Size(), b.Size())
	type pair struct{ i, k int }
	stack := append(make([]pair, 0, 128), pair{})
	for len(stack) > 0 {
		p := stack[len(stack)-1]
		stack = stack[:len(stack)-1]
		x, y := &a.nodes[p.i], &b.nodes[p.k]
		if !s.reaches(&x.box, &y.box) {
			continue
		}
		switch {
		case x.right == 0 && y.right == 0:
			var others [leaf]triangle
			for k := y.first; k < y.last; k++ {
				others[k-y.first] = s.seen(&b.triangles[k])
			}
			for i := x.first; i < x.last; i++ {
				t := s.seen(&a.triangles[i])
				for k := range others[:y.last-y.first] {
					if s.ahead(&t, &others[k]) {
						return true
					}
				}
			}
		case y.right == 0 || x.right != 0 && x.last-x.first >= y.last-y.first:
			stack = append(stack, pair{p.i + 1, p.k}, pair{x.right, p.k})
		default:
			stack = append(stack, pair{p.i, p.k + 1}, pair{p.i, y.right})
		}
	}
	return false
}

// across is a unit vector across another.
func across(v geom.Vec3) geom.Vec3 {
	least := 0
	for k := range v {
		if math.Abs(v[k]) < math.Abs(v[least]) {
			least = k
		}
	}
	axis := geom.Vec3{}
	axis[least] = 1
	return axis.Cross(v).Unit()
}

// sweep is a way with two axes across it.
type sweep struct {
	way, side, up geom.Vec3
	fine          float64 // what is less counts as nothing, metres
}

// reaches reports whether a box that goes along the way meets another one.
func (s *sweep) reaches(a, b *geom.Box) bool {
	from, to := 0.0, math.Inf(1)
	for k, v := range s.way {
		low, high := b.Min[k]-a.Max[k], b.Max[k]-a.Min[k] // of the distance along this axis
		switch {
		case v > 1e-12:
			from, to = max(from, low/v), min(to, high/v)
		case v < -1e-12:
			from, to = max(from, high/v), min(to, low/v)
		case low > 0 || high < 0:
			return false
		}
		if from > to {
			return false
		}
	}
	return true
}

// seen is a triangle along the way: two coordinates across it, and one along it.
func (s *sweep) seen(t *triangle) (out triangle) {
	for k, p := range t {
		out[k] = geom.Vec3{p.Dot(s.side), p.Dot(s.up), p.Dot(s.way)}
	}
	return out
}

func turn(a, b, c geom.Vec3) float64 { return (b[0]-a[0])*(c[1]-a[1]) - (b[1]-a[1])*(c[0]-a[0]) }

// ahead reports whether some of a triangle lies before another one along the way, where they overlap across it.
func (s *sweep) ahead(a, b *triangle) bool {
	for k := range 2 {
		if max(a[0][k], a[1][k], a[2][k]) < min(b[0][k], b[1][k], b[2][k]) || max(b[0][k], b[1][k], b[2][k]) < min(a[0][k], a[1][k], a[2][k]) {
			return false
		}
	}
	if max(b[0][2], b[1][2], b[2][2]) <= min(a[0][2], a[1][2], a[2][2]) {
		return false
	}
	area := turn(b[0], b[1], b[2])
	long := max(math.Hypot(b[1][0]-b[0][0], b[1][1]-b[0][1]), math.Hypot(b[2][0]-b[0][0], b[2][1]-b[0][1]))
	if math.Abs(area) < s.fine*long {
		return false
	}
	q := *b
	if area < 0 {
		q[1], q[2] = q[2], q[1]
	}
	// The first clipped by the edges of the other, as they lie across the way (Sutherland and Hodgman 1974).
	var rings [2][9]geom.Vec3
	now, n := 0, copy(rings[0][:], a[:])
	for k := range 3 {
		from, to := q[k], q[(k+1)%3]
		list, out := rings[now][:n], rings[1-now][:0]
		for i, p := range list {
			next := list[(i+1)%len(list)]
			x, y := turn(from, to, p), turn(from, to, next)
			if x >= 0 {
				out = append(out, p)
			}
			if x > 0 && y < 0 || x < 0 && y > 0 {
				out = append(out, p.Add(next.Sub(p).Mul(x/(x-y))))
			}
		}
		if now, n = 1-now, len(out); n == 0 {
			return false
		}
	}
	list := rings[now][:n]
	wide := 0.0
	for _, p := range list[1:] {
		wide = max(wide, math.Hypot(p[0]-list[0][0], p[1]-list[0][1]))
	}
	if wide < s.fine {
		return false
	}
	for _, p := range list {
		u, v := turn(q[2], q[0], p)/math.Abs(area), turn(q[0], q[1], p)/math.Abs(area) // of the second and third corner
		if z := q[0][2] + u*(q[1][2]-q[0][2]) + v*(q[2][2]-q[0][2]); z > p[2]+s.fine {
			return true
		}
	}
	return false
}
