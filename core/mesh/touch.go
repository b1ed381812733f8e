package mesh

import (
	"math"

	"perigyre/core/geom"
)

// Touch reports whether a vertex of one mesh is within a distance of a face of the other, or an edge of one
// passes through a face of the other. Both meshes are in one frame.
func Touch(a, b *Mesh, near float64) bool {
	room := a.Bounds().Grown(near).Intersection(b.Bounds().Grown(near))
	if room.Empty() {
		return false
	}
	return meets(a, b, room, near) || meets(b, a, room, near)
}

// meets tries the vertices and edges of a against the faces of b, all within a room. The faces are kept in
// a grid of cells.
func meets(a, b *Mesh, room geom.Box, near float64) bool {
	size := room.Size()
	cell := math.Max(math.Max(size[0], math.Max(size[1], size[2]))/32, 2*near)
	key := func(p geom.Vec3) [3]int {
		q := p.Sub(room.Min)
		return [3]int{int(math.Floor(q[0] / cell)), int(math.Floor(q[1] / cell)), int(math.Floor(q[2] / cell))}
	}
	faces := map[[3]int][]int{}
	for t := range b.Triangles() {
		box := geom.EmptyBox().With(b.corner(t, 0)).With(b.corner(t, 1)).With(b.corner(t, 2)).Grown(near).Intersection(room)
		if box.Empty() {
			continue
		}
		between(key(box.Min), key(box.Max), func(cell [3]int) bool {
			faces[cell] = append(faces[cell], t)
			return false
		})
	}
	for _, v := range a.Positions {
		p := geom.V3(v)
		if !room.Holds(p) {
			continue
		}
		for _, t := range faces[key(p)] {
			if distanceToTriangle(p, b.corner(t, 0), b.corner(t, 1), b.corner(t, 2)) <= near {
				return true
			}
		}
	}
	for t := range a.Triangles() {
		for k := range 3 {
			p, q := a.corner(t, k), a.corner(t, (k+1)%3)
			box := geom.EmptyBox().With(p).With(q).Intersection(room)
			if box.Empty() {
				continue
			}
			if between(key(box.Min), key(box.Max), func(cell [3]int) bool {
				for _, f := range faces[cell] {
					if crosses(p, q, b.corner(f, 0), b.corner(f, 1), b.corner(f, 2)) {
						return true
					}
				}
				return false
			}) {
				return true
			}
		}
	}
	return false
}

// between visits the cells of a box until one of them says that it is enough, and reports whether one did.
func between(lo, hi [3]int, visit func([3]int) bool) bool {
	for x := lo[0]; x <= hi[0]; x++ {
		for y := lo[1]; y <= hi[1]; y++ {
			for z := lo[2]; z <= hi[2]; z++ {
				if visit([3]int{x, y, z}) {
					return true
				}
			}
		}
	}
	return false
}

// distanceToTriangle is Ericson's closest point (Real-Time Collision Detection, 5.1.5).
func distanceToTriangle(p, a, b, c geom.Vec3) float64 {
	ab, ac, ap := b.Sub(a), c.Sub(a), p.Sub(a)
	d1, d2 := ab.Dot(ap), ac.Dot(ap)
	if d1 <= 0 && d2 <= 0 {
		return ap.Len()
	}
	bp := p.Sub(b)
	d3, d4 := ab.Dot(bp), ac.Dot(bp)
	if d3 >= 0 && d4 <= d3 {
		return bp.Len()
	}
	if vc := d1*d4 - d3*d2; vc <= 0 && d1 >= 0 && d3 <= 0 {
		return p.Sub(a.Add(ab.Mul(d1 / (d1 - d3)))).Len()
	}
	cp := p.Sub(c)
	d5, d6 := ab.Dot(cp), ac.Dot(cp)
	if d6 >= 0 && d5 <= d6 {
		return cp.Len()
	}
	if vb := d5*d2 - d1*d6; vb <= 0 && d2 >= 0 && d6 <= 0 {
		return p.Sub(a.Add(ac.Mul(d2 / (d2 - d6)))).Len()
	}
	if va := d3*d6 - d5*d4; va <= 0 && d4 >= d3 && d5 >= d6 {
		return p.Sub(b.Add(c.Sub(b).Mul((d4 - d3) / ((d4 - d3) + (d5 - d6))))).Len()
	}
	n := ab.Cross(ac)
	return math.Abs(n.Dot(ap)) / n.Len()
}

// crosses reports whether a segment passes through a triangle (Moller and Trumbore 1997).
func crosses(p, q, a, b, c geom.Vec3) bool {
	d, ab, ac := q.Sub(p), b.Sub(a), c.Sub(a)
	h := d.Cross(ac)
	det := ab.Dot(h)
	if det == 0 {
		return false
	}
	s := p.Sub(a)
	u := s.Dot(h) / det
	g := s.Cross(ab)
	v, t := d.Dot(g)/det, ac.Dot(g)/det
	return u >= 0 && v >= 0 && u+v <= 1 && t >= 0 && t <= 1
}
