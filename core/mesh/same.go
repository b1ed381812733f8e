package mesh

import (
	"math"

	"perigyre/core/geom"
)

// Same returns the movement that lays mesh b on mesh a, where b is a moved and turned: the same
// triangles over vertices in the same order, within 1e-4 of its size. That is how programs write the
// same part placed several times.
func Same(a, b *Mesh) (geom.Mat4, bool) {
	if len(a.Positions) != len(b.Positions) || len(a.Indices) != len(b.Indices) || len(a.Positions) < 3 {
		return geom.Identity, false
	}
	for i := range a.Indices {
		if a.Indices[i] != b.Indices[i] {
			return geom.Identity, false
		}
	}
	size := a.Bounds().Size().Len()
	fa, i, j, ok := frameOf(a, 0, 0)
	if !ok {
		return geom.Identity, false
	}
	fb, _, _, ok := frameOf(b, i, j)
	if !ok {
		return geom.Identity, false
	}
	inv, ok := fb.Inverse()
	if !ok {
		return geom.Identity, false
	}
	m := fa.Mul(inv)
	for k, p := range b.Positions {
		if !(m.Point(geom.V3(p)).Sub(geom.V3(a.Positions[k])).Len() <= 1e-4*size) {
			return geom.Identity, false
		}
	}
	return m, true
}

// frameOf returns a frame at vertex 0 by the vertices i and j, or by the farthest from it and the one
// farthest from the line between them where they are 0.
func frameOf(m *Mesh, i, j int) (geom.Mat4, int, int, bool) {
	o := geom.V3(m.Positions[0])
	if i == 0 {
		far := 0.0
		for k, p := range m.Positions {
			if d := geom.V3(p).Sub(o).Len(); d > far {
				i, far = k, d
			}
		}
	}
	x := geom.V3(m.Positions[i]).Sub(o).Unit()
	if j == 0 {
		off := 0.0
		for k, p := range m.Positions {
			if d := x.Cross(geom.V3(p).Sub(o)).Len(); d > off {
				j, off = k, d
			}
		}
	}
	z := x.Cross(geom.V3(m.Positions[j]).Sub(o)).Unit()
	if i == 0 || j == 0 || z == (geom.Vec3{}) || math.IsNaN(z[0]) {
		return geom.Identity, 0, 0, false
	}
	y := z.Cross(x)
	return geom.TRS(o, geom.QuatFromAxes(x, y, z), geom.Vec3{1, 1, 1}), i, j, true
}
