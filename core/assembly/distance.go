package assembly

import (
	"math"

	"perigyre/core/geom"
)

// Gap is the line between the two nearest points of two surfaces, in the frame of the first.
type Gap struct {
	Distance float64 // metres; 0 where they touch or pass through each other
	From, To geom.Vec3
}

// Nearest returns the nearest points of two solids, the second carried by a rigid motion into the frame of the first, if they are
// nearer than a limit. It stops at the first touch.
func Nearest(a, b *Solid, m geom.Mat4, limit float64) (Gap, bool) {
	out, found := Gap{Distance: limit}, false
	if a.Empty() || b.Empty() {
		return out, false
	}
	var visit func(i, k int, near float64)
	visit = func(i, k int, near float64) {
		if near >= out.Distance && (found || near > limit) || out.Distance == 0 {
			return
		}
		x, y := &a.nodes[i], &b.nodes[k]
		if x.right == 0 && y.right == 0 {
			for q := y.first; q < y.last; q++ {
				t := b.triangles[q].moved(m)
				for p := x.first; p < x.last; p++ {
					if g := a.triangles[p].nearest(&t); g.Distance < out.Distance || !found && g.Distance <= limit {
						out, found = g, true
					}
				}
			}
			return
		}
		var pairs [2][2]int
		if y.right == 0 || x.right != 0 && x.last-x.first >= y.last-y.first {
			pairs = [2][2]int{{i + 1, k}, {x.right, k}}
		} else {
			pairs = [2][2]int{{i, k + 1}, {i, y.right}}
		}
		var gaps [2]float64
		for n, p := range pairs {
			gaps[n] = Apart(a.nodes[p[0]].box, around(b.nodes[p[1]].box, m))
		}
		if gaps[1] < gaps[0] {
			pairs[0], pairs[1], gaps[0], gaps[1] = pairs[1], pairs[0], gaps[1], gaps[0]
		}
		visit(pairs[0][0], pairs[0][1], gaps[0])
		visit(pairs[1][0], pairs[1][1], gaps[1])
	}
	visit(0, 0, Apart(a.nodes[0].box, around(b.nodes[0].box, m)))
	return out, found
}

// enough is how many boxes and triangles are tried against each other before two solids count as near: flat faces in one plane
// are near each other everywhere, and cross nowhere.
const enough = 12_000

// Nearer reports whether two solids come as near as a distance; at 0, whether an edge of one passes through a face of the other.
func Nearer(a, b *Solid, m geom.Mat4, distance float64) bool {
	if a.Empty() || b.Empty() {
		return false
	}
	return pairs(a, b, m, distance, func(_, _ int, u, t *triangle) bool {
		return distance > 0 && u.nearest(t).Distance <= distance || distance == 0 && u.crosses(t)
	})
}

// pairs tells the triangles of two solids whose boxes are as near as a distance, the second ones in the frame of the first, until
// one ends it, or enough have been tried. At 0 what lies in one plane is left out: it passes through nothing.
func pairs(a, b *Solid, m geom.Mat4, distance float64, tell func(p, q int, u, t *triangle) bool) bool {
	return pairsOf(a, b, m, distance, enough, tell)
}

// pairsOf does so, and tries as many as it is told.
func pairsOf(a, b *Solid, m geom.Mat4, distance float64, enough int, tell func(p, q int, u, t *triangle) bool) bool {
	v := visitor{m: m, least: distance, left: enough}
	if distance == 0 {
		v.least = -1e-6 * math.Min(a.Size(), b.Size())
	}
	for k := range v.abs {
		v.abs[k] = geom.Vec3{math.Abs(m[k]), math.Abs(m[4+k]), math.Abs(m[8+k])}
	}
	type pair struct{ i, k int }
	stack := make([]pair, 1, 128)
	var t triangle
	for len(stack) > 0 {
		top := stack[len(stack)-1]
		stack = stack[:len(stack)-1]
		x, y := &a.nodes[top.i], &b.nodes[top.k]
		if v.left--; v.left < 0 {
			return true
		}
		if v.clear(&x.box, &y.box) {
			continue
		}
		switch {
		case x.right == 0 && y.right == 0:
			v.left -= 8
			for q := y.first; q < y.last; q++ {
				t = b.triangles[q].moved(m)
				box := t.box()
				if apart(&x.box, &box, v.least) {
					continue
				}
				for p := x.first; p < x.last; p++ {
					u := &a.triangles[p]
					other := u.box()
					if apart(&other, &box, v.least) {
						continue
					}
					v.left -= 4
					if distance > 0 {
						v.left -= 16
					}
					if tell(p, q, u, &t) {
						return true
					}
				}
			}
		case y.right == 0 || x.right != 0 && x.last-x.first >= y.last-y.first:
			stack = append(stack, pair{x.right, top.k}, pair{top.i + 1, top.k})
		default:
			stack = append(stack, pair{top.i, y.right}, pair{top.i, top.k + 1})
		}
	}
	return false
}

// visitor is a walk through two trees.
type visitor struct {
	m     geom.Mat4
	abs   [3]geom.Vec3 // its turn without signs, by rows
	least float64
	left  int
}

// clear reports whether a box and a carried one are further apart than what counts.
func (v *visitor) clear(a, b *geom.Box) bool {
	var c, h geom.Vec3
	for k := range c {
		c[k], h[k] = (b.Min[k]+b.Max[k])/2, (b.Max[k]-b.Min[k])/2
	}
	m := &v.m
	for k := range c {
		at := m[k]*c[0] + m[4+k]*c[1] + m[8+k]*c[2] + m[12+k]
		half := v.abs[k][0]*h[0] + v.abs[k][1]*h[1] + v.abs[k][2]*h[2]
		if a.Min[k]-at-half > v.least || at-half-a.Max[k] > v.least {
			return true
		}
	}
	return false
}

// apart reports whether two boxes are further apart than a distance along an axis.
func apart(a, b *geom.Box, distance float64) bool {
	for k := range a.Min {
		if a.Min[k]-b.Max[k] > distance || b.Min[k]-a.Max[k] > distance {
			return true
		}
	}
	return false
}

// crosses reports whether an edge of one of two triangles passes through the other.
func (t *triangle) crosses(u *triangle) bool {
	_, ok := t.crossing(u)
	return ok
}

func (t *triangle) crossing(u *triangle) (geom.Vec3, bool) {
	for i := range 3 {
		if p, ok := u.pierced(t[i], t[(i+1)%3]); ok {
			return p, true
		}
		if p, ok := t.pierced(u[i], u[(i+1)%3]); ok {
			return p, true
		}
	}
	return geom.Vec3{}, false
}

// nearest returns the nearest points of two triangles: those of an edge and an edge, or of a corner and a face, unless an edge
// passes through a face (Ericson, Real-Time Collision Detection, 2005, section 5.1.9 and 5.1.10).
func (t *triangle) nearest(u *triangle) Gap {
	best := Gap{Distance: math.Inf(1)}
	for i := range 3 {
		for k := range 3 {
			if p, q := segments(t[i], t[(i+1)%3], u[k], u[(k+1)%3]); p.Sub(q).Len() < best.Distance {
				best = Gap{p.Sub(q).Len(), p, q}
			}
		}
	}
	for i := range 3 {
		if p := u.closest(t[i]); p.Sub(t[i]).Len() < best.Distance {
			best = Gap{p.Sub(t[i]).Len(), t[i], p}
		}
		if p := t.closest(u[i]); p.Sub(u[i]).Len() < best.Distance {
			best = Gap{p.Sub(u[i]).Len(), p, u[i]}
		}
	}
	if p, ok := t.crossing(u); ok {
		return Gap{0, p, p}
	}
	return best
}

// least is the share of an edge at its ends that does not pass through what it touches.
const least = 1e-7

// pierced returns where a line between two points passes through the triangle (Möller and Trumbore 1997).
func (t *triangle) pierced(a, b geom.Vec3) (geom.Vec3, bool) {
	d, e, f := b.Sub(a), t[1].Sub(t[0]), t[2].Sub(t[0])
	h := d.Cross(f)
	det := e.Dot(h)
	if det == 0 {
		return geom.Vec3{}, false
	}
	s := a.Sub(t[0])
	u, q := s.Dot(h)/det, s.Cross(e)
	v, at := d.Dot(q)/det, f.Dot(q)/det
	return a.Add(d.Mul(at)), u >= 0 && v >= 0 && u+v <= 1 && at > least && at < 1-least
}

// closest returns the point of the triangle that is nearest to p, by the region of Voronoi that p lies in (Ericson, section 5.1.5).
func (t *triangle) closest(p geom.Vec3) geom.Vec3 {
	ab, ac, ap := t[1].Sub(t[0]), t[2].Sub(t[0]), p.Sub(t[0])
	d1, d2 := ab.Dot(ap), ac.Dot(ap)
	if d1 <= 0 && d2 <= 0 {
		return t[0]
	}
	bp := p.Sub(t[1])
	d3, d4 := ab.Dot(bp), ac.Dot(bp)
	if d3 >= 0 && d4 <= d3 {
		return t[1]
	}
	vc := d1*d4 - d3*d2
	if vc <= 0 && d1 >= 0 && d3 <= 0 && d1 != d3 {
		return t[0].Add(ab.Mul(d1 / (d1 - d3)))
	}
	cp := p.Sub(t[2])
	d5, d6 := ab.Dot(cp), ac.Dot(cp)
	if d6 >= 0 && d5 <= d6 {
		return t[2]
	}
	vb := d5*d2 - d1*d6
	if vb <= 0 && d2 >= 0 && d6 <= 0 && d2 != d6 {
		return t[0].Add(ac.Mul(d2 / (d2 - d6)))
	}
	va := d3*d6 - d5*d4
	if va <= 0 && d4-d3 >= 0 && d5-d6 >= 0 && (d4-d3)+(d5-d6) > 0 {
		return t[1].Add(t[2].Sub(t[1]).Mul((d4 - d3) / ((d4 - d3) + (d5 - d6))))
	}
	sum := va + vb + vc
	if sum == 0 {
		return t[0]
	}
	return t[0].Add(ab.Mul(vb / sum)).Add(ac.Mul(vc / sum))
}

// segments returns the nearest points of two lines between points (Ericson, section 5.1.9).
func segments(p, p2, q, q2 geom.Vec3) (geom.Vec3, geom.Vec3) {
	d, e, r := p2.Sub(p), q2.Sub(q), p.Sub(q)
	a, b, c, f, g := d.Dot(d), d.Dot(e), d.Dot(r), e.Dot(r), e.Dot(e)
	s, t := 0.0, 0.0
	switch {
	case a == 0 && g == 0:
	case a == 0:
		t = clamp(f / g)
	case g == 0:
		s = clamp(-c / a)
	default:
		if den := a*g - b*b; den > 0 {
			s = clamp((b*f - c*g) / den)
		}
		switch t = (b*s + f) / g; {
		case t < 0:
			t, s = 0, clamp(-c/a)
		case t > 1:
			t, s = 1, clamp((b-c)/a)
		}
	}
	return p.Add(d.Mul(s)), q.Add(e.Mul(t))
}

func clamp(v float64) float64 { return math.Max(0, math.Min(1, v)) }
