package mesh

import (
	"math"

	"perigyre/core/geom"
)

// Tube sweeps a circle of the given radius along a path, with flat caps at both ends or, where
// closed, joined end to end. Its frame is carried along by the rotation of least twist from one
// tangent to the next.
func Tube(path []geom.Vec3, radius float64, sides int, closed bool) *Mesh {
	m := &Mesh{}
	n := len(path)
	tangent := func(i int) geom.Vec3 {
		a, b := max(i-1, 0), min(i+1, n-1)
		if closed {
			a, b = (i+n-1)%n, (i+1)%n
		}
		return path[b].Sub(path[a]).Unit()
	}
	t := tangent(0)
	side := t.Cross(geom.Vec3{0, 1, 0})
	if side.Len() < 0.1 {
		side = t.Cross(geom.Vec3{1, 0, 0})
	}
	side = side.Unit()
	for i, p := range path {
		next := tangent(i)
		if axis := t.Cross(next); axis.Len() > 1e-12 {
			side = geom.AxisAngle(axis, angle(t, next)).Rotate(side)
		}
		t = next
		up := side.Cross(t)
		for s := 0; s < sides; s++ {
			sin, cos := math.Sincos(2 * math.Pi * float64(s) / float64(sides))
			m.Positions = append(m.Positions, p.Add(side.Mul(radius*cos)).Add(up.Mul(radius*sin)).F32())
			m.UV = append(m.UV, [2]float32{float32(s) / float32(sides), float32(i) / float32(n)})
		}
	}
	at := func(i, s int) uint32 { return uint32(i%n*sides + s%sides) }
	rings := n - 1
	if closed {
		rings = n
	}
	for i := 0; i < rings; i++ {
		for s := 0; s < sides; s++ {
			m.Indices = append(m.Indices, at(i, s), at(i, s+1), at(i+1, s), at(i, s+1), at(i+1, s+1), at(i+1, s))
		}
	}
	if !closed {
		for s := 1; s+1 < sides; s++ {
			m.Indices = append(m.Indices, at(0, 0), at(0, s+1), at(0, s), at(n-1, 0), at(n-1, s), at(n-1, s+1))
		}
	}
	if m.Volume() < 0 { // the frame's handedness decides the winding
		for t := 0; t < len(m.Indices); t += 3 {
			m.Indices[t+1], m.Indices[t+2] = m.Indices[t+2], m.Indices[t+1]
		}
	}
	m.MakeNormals(DefaultCrease)
	return m
}

// Box returns a closed box with the given edge lengths about the origin.
func Box(size geom.Vec3) *Mesh {
	m := &Mesh{}
	for axis := 0; axis < 3; axis++ {
		u, v := (axis+1)%3, (axis+2)%3
		for _, sign := range []float64{-1, 1} {
			base := uint32(len(m.Positions))
			for c := 0; c < 4; c++ {
				var p geom.Vec3
				p[axis] = sign * size[axis] / 2
				p[u] = (float64(c&1) - 0.5) * size[u]
				p[v] = (float64(c>>1) - 0.5) * size[v]
				m.Positions = append(m.Positions, p.F32())
				m.UV = append(m.UV, [2]float32{float32(c & 1), float32(c >> 1)})
			}
			if sign > 0 {
				m.Indices = append(m.Indices, base, base+1, base+3, base, base+3, base+2)
			} else {
				m.Indices = append(m.Indices, base, base+3, base+1, base, base+2, base+3)
			}
		}
	}
	m.MakeNormals(DefaultCrease)
	return m
}
