package assembly

import (
	"math"

	"perigyre/core/geom"
)

// to returns the distance from a point to the surface, and the nearest point of it, if that is nearer than a limit.
func (s *Solid) to(p geom.Vec3, limit float64) (float64, geom.Vec3, bool) {
	best, at := limit, p
	var visit func(i int, near float64)
	visit = func(i int, near float64) {
		if near >= best {
			return
		}
		n := &s.nodes[i]
		if n.right == 0 {
			for k := n.first; k < n.last; k++ {
				q := s.triangles[k].closest(p)
				if d := q.Sub(p).Len(); d < best {
					best, at = d, q
				}
			}
			return
		}
		l, r := gapTo(s.nodes[i+1].box, p), gapTo(s.nodes[n.right].box, p)
		if l <= r {
			visit(i+1, l)
			visit(n.right, r)
		} else {
			visit(n.right, r)
			visit(i+1, l)
		}
	}
	if !s.Empty() {
		visit(0, gapTo(s.nodes[0].box, p))
	}
	return best, at, best < limit
}

// rays are along no edge that anybody models.
var rays = [3]geom.Vec3{{1, 1.2345e-3, 2.3456e-3}, {-3.4567e-3, 1, 4.5678e-3}, {5.6789e-3, -6.789e-3, -1}}

// Holds reports whether a point is inside the surface: what rays from it pass, counted by the way that it faces, so that shells in
// one another and doubled faces do not confuse it. Two of three rays decide, since models have holes.
func (s *Solid) Holds(p geom.Vec3) bool {
	if s.Empty() || gapTo(s.nodes[0].box, p) > 0 {
		return false
	}
	votes := 0
	for k := range rays {
		if s.winding(p, rays[k]) != 0 {
			votes++
		}
		if votes == 2 || votes+2-k < 2 {
			break
		}
	}
	return votes >= 2
}

// winding counts the faces that a ray passes, those that it leaves by as 1 and those that it enters by as -1.
func (s *Solid) winding(p, d geom.Vec3) (n int) {
	s.along(p, d, math.Inf(1), func(t *triangle, det, _ float64) bool {
		if det > 0 {
			n--
		} else {
			n++
		}
		return false
	})
	return n
}

// along tells the triangles that a ray passes before a distance, in units of d, until one ends it.
func (s *Solid) along(p, d geom.Vec3, limit float64, hit func(t *triangle, det, at float64) bool) bool {
	var inv geom.Vec3
	for k := range d {
		inv[k] = 1 / d[k]
	}
	var stack [64]int
	n := 1
	for n > 0 {
		n--
		i := stack[n]
		x := &s.nodes[i]
		near, far := 0.0, limit
		for k := range p {
			a, b := (x.box.Min[k]-p[k])*inv[k], (x.box.Max[k]-p[k])*inv[k]
			if a > b {
				a, b = b, a
			}
			if a > near {
				near = a
			}
			if b < far {
				far = b
			}
		}
		if near > far*(1+1e-12)+1e-300 {
			continue
		}
		if x.right != 0 {
			stack[n], stack[n+1] = x.right, i+1
			n += 2
			continue
		}
		for k := x.first; k < x.last; k++ {
			t := &s.triangles[k]
			e, f := t[1].Sub(t[0]), t[2].Sub(t[0])
			h := d.Cross(f)
			det := e.Dot(h)
			if det == 0 {
				continue
			}
			r := p.Sub(t[0])
			u, q := r.Dot(h)/det, r.Cross(e)
			v, at := d.Dot(q)/det, f.Dot(q)/det
			if u >= 0 && v >= 0 && u+v <= 1 && at > 0 && at < limit && hit(t, det, at) {
				return true
			}
		}
	}
	return false
}

// Blocks reports whether the surface lies between two points, which are not counted themselves.
func (s *Solid) Blocks(from, to geom.Vec3) bool {
	if s.Empty() {
		return false
	}
	return s.along(from, to.Sub(from), 1-1e-3, func(_ *triangle, _, at float64) bool { return at > 1e-3 })
}

// Depth is how deep two solids lie in each other.
type Depth struct {
	Depth  float64   // metres: the most that a point of the surface of one is away from the surface of the other, inside of it
	At, To geom.Vec3 // that point, and the nearest one of the other surface, in the frame of the first solid
}

// tries are how many places of faces that cross are looked at, and how many corners.
const tries = 48

// plain is how many triangles two solids have together of which the faces may all lie in each other's planes, as those of boxes do.
const plain = 2000

// closely is the same where one meeting is looked at by itself.
const closely = 1000

// Overlap returns how deep the second solid, carried by a rigid motion into the frame of the first, lies in it or it in the other,
// if that is deeper than a limit and their surfaces pass through each other: of corners, up to a number, and of faces that pass
// through, by halving them. What lies inside of the other whole passes through nothing.
func Overlap(a, b *Solid, m geom.Mat4, limit float64) (Depth, bool) {
	return overlap(a, b, m, limit, tries)
}

func overlap(a, b *Solid, m geom.Mat4, limit float64, tries int) (Depth, bool) {
	back, ok := m.Inverse()
	if !ok || a.Empty() || b.Empty() {
		return Depth{}, false
	}
	ofA, ofB := crossing(a, b, m, tries)
	if len(ofA) == 0 && len(a.triangles)+len(b.triangles) > plain {
		return Depth{}, false
	}
	if len(ofA) == 0 {
		// Faces in one plane all round pass through nothing, and yet one may be pushed into the other: part of it is inside then, and
		// part of it outside.
		if d, ok := b.deepestIn(a, m, limit, b.meeting(a, m, tries/2), tries); ok && b.sticksOut(a, m) {
			return d, true
		}
		if d, ok := a.deepestIn(b, back, limit, a.meeting(b, back, tries/2), tries); ok && a.sticksOut(b, back) {
			return Depth{d.Depth, m.Point(d.At), m.Point(d.To)}, true
		}
		return Depth{}, false
	}
	out, found := b.deepestIn(a, m, limit, ofB, tries) // of b's surface in a
	if found {
		limit = out.Depth
	}
	if d, ok := a.deepestIn(b, back, limit, ofA, tries); ok {
		return Depth{d.Depth, m.Point(d.At), m.Point(d.To)}, true
	}
	return out, found
}

// crossing returns the triangles of two solids that pass through each other, by number.
func crossing(a, b *Solid, m geom.Mat4, tries int) (ofA, ofB []int) {
	inA, inB := map[int]bool{}, map[int]bool{}
	pairs(a, b, m, 0, func(p, q int, u, t *triangle) bool {
		if inA[p] && inB[q] || !u.crosses(t) {
			return false
		}
		if !inA[p] {
			inA[p], ofA = true, append(ofA, p)
		}
		if !inB[q] {
			inB[q], ofB = true, append(ofB, q)
		}
		return len(ofA) > tries && len(ofB) > tries
	})
	return ofA, ofB
}

// leaves tells the leaves whose boxes meet the box round another solid, into whose frame m takes them.
func (s *Solid) leaves(o *Solid, m geom.Mat4, tell func(n *node)) {
	var visit func(i int)
	visit = func(i int) {
		n := &s.nodes[i]
		switch {
		case Apart(o.nodes[0].box, around(n.box, m)) > 0:
		case n.right != 0:
			visit(i + 1)
			visit(n.right)
		default:
			tell(n)
		}
	}
	visit(0)
}

// meeting returns triangles whose boxes meet the box round another solid, into whose frame m takes them, at most so many.
func (s *Solid) meeting(o *Solid, m geom.Mat4, most int) (out []int) {
	var all []int
	s.leaves(o, m, func(n *node) {
		for k := n.first; k < n.last; k++ {
			all = append(all, k)
		}
	})
	for k := 0; k < len(all); k += 1 + len(all)/most {
		out = append(out, all[k])
	}
	return out
}

// sticksOut reports whether a corner lies outside of another solid, and not on its surface.
func (s *Solid) sticksOut(o *Solid, m geom.Mat4) bool {
	least := 1e-4 * math.Min(s.Size(), o.Size())
	for i := range s.nodes {
		for _, p := range s.nodes[i].corners {
			if q := m.Point(p); !o.Holds(q) {
				if _, _, near := o.to(q, least); !near {
					return true
				}
			}
		}
	}
	return false
}

// deepestIn returns how deep the deepest point of the surface lies in another solid, into whose frame m takes it. The triangles that
// pass through it are told.
func (s *Solid) deepestIn(o *Solid, m geom.Mat4, limit float64, through []int, tries int) (out Depth, found bool) {
	out.Depth = limit
	try := func(p geom.Vec3) {
		if !o.Holds(p) {
			return
		}
		if d, q, _ := o.to(p, math.Inf(1)); d > out.Depth {
			out, found = Depth{d, p, q}, true
		}
	}
	var within []geom.Vec3
	s.leaves(o, m, func(n *node) {
		for _, p := range n.corners {
			within = append(within, m.Point(p))
		}
	})
	for k := 0; k < len(within); k += 1 + len(within)/tries {
		try(within[k])
	}
	var list []triangle // the largest first, as far as they are halved
	for _, k := range through {
		list = append(list, s.triangles[k].moved(m))
	}
	for n := 0; n < len(list) && n < tries; n++ {
		t := &list[n]
		if n < len(through) {
			for _, p := range t {
				try(p)
			}
		}
		k, long := 0, 0.0 // the longest edge is halved
		for i := range t {
			if l := t[i].Sub(t[(i+1)%3]).Len(); l > long {
				k, long = i, l
			}
		}
		half := t[k].Add(t[(k+1)%3]).Mul(0.5)
		try(half)
		if d, _, near := o.to(half, long+out.Depth); near && long-d > out.Depth || o.Holds(half) {
			list = append(list, triangle{t[k], half, t[(k+2)%3]}, triangle{half, t[(k+1)%3], t[(k+2)%3]})
		}
	}
	return out, found
}
