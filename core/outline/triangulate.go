package outline

import (
	"math"
	"sort"

	"perigyre/core/geom"
)

// triangulate splits a loop with holes into triangles of its points: each hole is joined to what is
// outside it by a bridge (Eberly, "Triangulation by Ear Clipping", 2002), and ears are cut off. Points
// at the ends of bridges stand twice.
func triangulate(l Loop) (points []geom.Vec2, triangles [][3]int) {
	ring := append([]geom.Vec2(nil), l.Outer...)
	holes := append([][]geom.Vec2(nil), l.Holes...)
	sort.SliceStable(holes, func(i, j int) bool { return rightmost(holes[i])[0] > rightmost(holes[j])[0] })
	for _, h := range holes {
		ring = bridge(ring, h)
	}
	return ring, clip(ring)
}

func rightmost(loop []geom.Vec2) geom.Vec2 {
	best := loop[0]
	for _, p := range loop {
		if p[0] > best[0] {
			best = p
		}
	}
	return best
}

func cross(a, b, c geom.Vec2) float64 { return (b[0]-a[0])*(c[1]-a[1]) - (b[1]-a[1])*(c[0]-a[0]) }

// bridge joins a hole to the ring round it at a corner of the ring that its rightmost point sees.
func bridge(ring, hole []geom.Vec2) []geom.Vec2 {
	m := 0
	for i, p := range hole {
		if p[0] > hole[m][0] {
			m = i
		}
	}
	p := hole[m]
	// The nearest edge straight to the right.
	at, x := -1, math.Inf(1)
	for i, a := range ring {
		b := ring[(i+1)%len(ring)]
		if (a[1] > p[1]) == (b[1] > p[1]) && a[1] != p[1] {
			continue
		}
		var hit float64
		switch {
		case a[1] == b[1]:
			continue
		default:
			hit = a[0] + (b[0]-a[0])*(p[1]-a[1])/(b[1]-a[1])
		}
		if hit >= p[0] && hit < x && math.Min(a[1], b[1]) <= p[1] && math.Max(a[1], b[1]) >= p[1] {
			x, at = hit, i
			if j := (i + 1) % len(ring); ring[j][0] > a[0] {
				at = j
			}
		}
	}
	if at < 0 {
		at = 0
	}
	// Corners inside the triangle of point, hit and candidate would block the view: the one nearest to
	// the horizontal is taken.
	q, hit := ring[at], geom.Vec2{x, p[1]}
	best, flattest := at, math.Inf(1)
	for i, c := range ring {
		if c[0] < p[0] || !within(p, hit, q, c) && c != q {
			continue
		}
		slope := math.Abs(c[1]-p[1]) / math.Max(1e-300, c[0]-p[0])
		if slope < flattest && visibleFrom(ring, i, p) {
			best, flattest = i, slope
		}
	}
	out := append([]geom.Vec2(nil), ring[:best+1]...)
	out = append(out, hole[m:]...)
	out = append(out, hole[:m+1]...)
	return append(out, ring[best:]...)
}

// visibleFrom reports whether p lies within the corner i of the ring, so that a bridge may end there.
func visibleFrom(ring []geom.Vec2, i int, p geom.Vec2) bool {
	n := len(ring)
	a, b, c := ring[(i+n-1)%n], ring[i], ring[(i+1)%n]
	if cross(a, b, c) >= 0 {
		return cross(a, b, p) >= 0 && cross(b, c, p) >= 0
	}
	return cross(a, b, p) >= 0 || cross(b, c, p) >= 0
}

// within reports whether p lies in the triangle or on its edge, whichever way round it is.
func within(a, b, c, p geom.Vec2) bool {
	x, y, z := cross(a, b, p), cross(b, c, p), cross(c, a, p)
	return x >= 0 && y >= 0 && z >= 0 || x <= 0 && y <= 0 && z <= 0
}

// clip cuts ears off a ring. One without a proper ear, from rounding, loses its flattest corner.
func clip(ring []geom.Vec2) [][3]int {
	n := len(ring)
	next, prev := make([]int, n), make([]int, n)
	for i := range n {
		next[i], prev[i] = (i+1)%n, (i+n-1)%n
	}
	ear := func(i int) bool {
		a, b, c := prev[i], i, next[i]
		if cross(ring[a], ring[b], ring[c]) <= 0 {
			return false
		}
		for k := next[c]; k != a; k = next[k] {
			p := ring[k]
			if p == ring[a] || p == ring[b] || p == ring[c] {
				continue // a bridge's other end
			}
			if cross(ring[a], ring[b], p) >= 0 && cross(ring[b], ring[c], p) >= 0 && cross(ring[c], ring[a], p) >= 0 {
				return false
			}
		}
		return true
	}
	out := make([][3]int, 0, n-2)
	left, at, misses := n, 0, 0
	for left > 3 {
		cut := ear(at)
		if !cut && misses > left { // no ear is left: take the flattest corner that is not turned in much
			best, flat := at, math.Inf(1)
			for k, c := 0, at; k < left; k, c = k+1, next[c] {
				if f := math.Abs(cross(ring[prev[c]], ring[c], ring[next[c]])); f < flat {
					best, flat = c, f
				}
			}
			at, cut = best, true
		}
		if !cut {
			at, misses = next[at], misses+1
			continue
		}
		a, c := prev[at], next[at]
		out = append(out, [3]int{a, at, c})
		next[a], prev[c] = c, a
		left, misses = left-1, 0
		at = next[c] // leave a corner between ears: rounder triangles
	}
	return append(out, [3]int{prev[at], at, next[at]})
}
