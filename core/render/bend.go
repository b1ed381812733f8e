package render

import (
	"slices"

	"perigyre/core/geom"
	"perigyre/core/mesh"
)

// soften returns meshes as a body's bones and shapes pose them, and then as its bends take them.
func soften(shapes []shape, f *mesh.Flesh, to func(geom.Vec3) geom.Vec3) []shape {
	if f != nil {
		shapes = slices.Clone(shapes)
		for i, s := range shapes {
			m := f.Posed(s.mesh)
			shapes[i] = shape{m, s.tree.Refit(m.Positions, m.Indices), m.Bounds()}
		}
	}
	if to != nil {
		shapes = flex(shapes, to)
	}
	return shapes
}

// flex bends meshes by where their points go. Normals follow from two points beside each, across its normal.
func flex(shapes []shape, to func(geom.Vec3) geom.Vec3) []shape {
	out := make([]shape, len(shapes))
	for i, s := range shapes {
		m := *s.mesh
		m.Positions = make([][3]float32, len(s.mesh.Positions))
		box := s.mesh.Bounds()
		step := box.Size().Len() * 1e-4
		for k, v := range s.mesh.Positions {
			m.Positions[k] = to(geom.V3(v)).F32()
		}
		if s.mesh.Normals != nil {
			m.Normals = make([][3]float32, len(s.mesh.Normals))
			for k, v := range s.mesh.Normals {
				m.Normals[k] = turned(to, geom.V3(s.mesh.Positions[k]), geom.V3(v), step).F32()
			}
		}
		if s.mesh.Tangents != nil {
			m.Tangents = append(m.Tangents[:0:0], s.mesh.Tangents...)
			for k, v := range s.mesh.Tangents {
				p, d := geom.V3(s.mesh.Positions[k]), geom.Vec3{float64(v[0]), float64(v[1]), float64(v[2])}
				t := to(p.Add(d.Mul(step))).Sub(to(p.Sub(d.Mul(step)))).Unit().F32()
				copy(m.Tangents[k][:3], t[:])
			}
		}
		out[i] = shape{&m, s.tree.Refit(m.Positions, m.Indices), m.Bounds()}
	}
	return out
}

// turned returns where a normal goes.
func turned(to func(geom.Vec3) geom.Vec3, p, n geom.Vec3, step float64) geom.Vec3 {
	side := geom.Vec3{1, 0, 0}
	if n[0]*n[0] > 0.5*n.Dot(n) {
		side = geom.Vec3{0, 1, 0}
	}
	u := n.Cross(side).Unit().Mul(step)
	v := n.Cross(u).Unit().Mul(step)
	return to(p.Add(u)).Sub(to(p.Sub(u))).Cross(to(p.Add(v)).Sub(to(p.Sub(v)))).Unit()
}
