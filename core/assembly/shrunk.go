package assembly

import (
	"math"
	"slices"

	"perigyre/core/geom"
)

// thickness is about how thick the walls of a solid are, metres: twice its volume over its surface, which it is of a plate.
func (s *Solid) thickness() float64 {
	origin, volume, area := s.Bounds().Centre(), 0.0, 0.0
	for _, t := range s.triangles {
		volume += t[0].Sub(origin).Dot(t[1].Sub(origin).Cross(t[2].Sub(origin))) / 6
		area += t[1].Sub(t[0]).Cross(t[2].Sub(t[0])).Len() / 2
	}
	if area == 0 {
		return 0
	}
	return 2 * math.Abs(volume) / area
}

// Shrunk returns the surface with each of its faces a distance further in: corners go back along the mean of the normals of their
// faces, weighted by angle (Thürmer and Wüthrich, Computing Vertex Normals from Polygonal Facets, 1998), so far that their faces do.
// What is thinner than twice that turns inside out, and stays where it is but for as much.
func (s *Solid) Shrunk(by float64) *Solid {
	type corner struct {
		sum   geom.Vec3
		faces []geom.Vec3
	}
	corners := make(map[geom.Vec3]*corner, len(s.triangles)/2)
	volume := 0.0
	origin := s.Bounds().Centre()
	for _, t := range s.triangles {
		n := t[1].Sub(t[0]).Cross(t[2].Sub(t[0]))
		volume += t[0].Sub(origin).Dot(t[1].Sub(origin).Cross(t[2].Sub(origin)))
		if n.Len() < 1e-300 {
			continue
		}
		n = n.Unit()
		for k, p := range t {
			u, v := t[(k+1)%3].Sub(p), t[(k+2)%3].Sub(p)
			c := corners[p]
			if c == nil {
				c = &corner{}
				corners[p] = c
			}
			c.sum = c.sum.Add(n.Mul(math.Acos(max(-1, min(1, u.Dot(v)/(u.Len()*v.Len()))))))
			if !slices.ContainsFunc(c.faces, func(f geom.Vec3) bool { return f.Dot(n) > 0.999 }) {
				c.faces = append(c.faces, n)
			}
		}
	}
	if volume < 0 { // its faces look in
		by = -by
	}
	moved := make(map[geom.Vec3]geom.Vec3, len(corners))
	for p, c := range corners {
		n := c.sum
		if n.Len() < 1e-12 { // of a sheet: its sides look either way
			continue
		}
		n = n.Unit()
		least := 1.0
		for _, f := range c.faces {
			least = min(least, f.Dot(n))
		}
		moved[p] = p.Sub(n.Mul(by / max(least, 0.3)))
	}
	out := &Solid{triangles: slices.Clone(s.triangles), given: s.given, nodes: slices.Clone(s.nodes)}
	for k := range out.triangles {
		for c, p := range out.triangles[k] {
			if q, ok := moved[p]; ok {
				out.triangles[k][c] = q
			}
		}
	}
	out.fit()
	for k := range out.nodes {
		n := &out.nodes[k]
		n.corners = slices.Clone(n.corners)
		for i, p := range n.corners {
			if q, ok := moved[p]; ok {
				n.corners[i] = q
			}
		}
	}
	return out
}
