package demo

import (
	"math"

	"perigyre/core/geom"
	"perigyre/core/mesh"
)

// stop is a corner of a profile, in millimetres, with the radius that it is rounded with.
type stop struct{ r, y, round float64 }

// segments of everything that is turned on a lathe.
const segments = 128

// turned makes a solid of revolution from the corners of its profile, bottom to top.
func turned(stops ...stop) *mesh.Mesh {
	return mesh.Lathe(rounded(stops), segments, mesh.DefaultCrease)
}

// rounded returns the profile in metres with its corners replaced by arcs.
func rounded(stops []stop) []geom.Vec2 {
	at := func(i int) geom.Vec2 { return geom.Vec2{stops[i].r / 1000, stops[i].y / 1000} }
	var out []geom.Vec2
	for i, s := range stops {
		if s.round == 0 || i == 0 || i == len(stops)-1 {
			out = append(out, at(i))
			continue
		}
		out = append(out, mesh.Fillet(at(i-1), at(i), at(i+1), s.round/1000, 6)...)
	}
	return out
}

// knurled is a turned solid whose outside has ridges along its length: the profile's radius is less
// by depth, in millimetres, in the grooves. Points nearer the axis than inner stay.
func knurled(ridges int, depth, inner float64, stops ...stop) *mesh.Mesh {
	m := mesh.Lathe(rounded(stops), ridges*6, mesh.DefaultCrease)
	for i, p := range m.Positions {
		r := math.Hypot(float64(p[0]), float64(p[2]))
		if r*1000 < inner {
			continue
		}
		angle := math.Atan2(float64(p[0]), float64(p[2]))
		k := 1 - depth/1000*(0.5-0.5*math.Cos(angle*float64(ridges)))/r
		m.Positions[i] = [3]float32{float32(float64(p[0]) * k), p[1], float32(float64(p[2]) * k)}
	}
	m.MakeNormals(mesh.DefaultCrease)
	return m
}

// ring is a torus about the upright axis, in millimetres.
func ring(radius, y, thick float64) *mesh.Mesh {
	path := make([]geom.Vec3, segments)
	for i := range path {
		sin, cos := math.Sincos(2 * math.Pi * float64(i) / segments)
		path[i] = geom.Vec3{radius / 1000 * sin, y / 1000, radius / 1000 * cos}
	}
	return mesh.Tube(path, thick/1000, 20, true)
}

// plate is a thin sheet bent round the upright axis, facing +z, with its texture upright on it: from
// -half to half radians, between two heights, at a radius, with a thickness, in millimetres.
func plate(radius, thick, low, high, half float64) *mesh.Mesh {
	m := &mesh.Mesh{}
	const n = 48
	point := func(i int, r, y float64) [3]float32 {
		sin, cos := math.Sincos(-half + 2*half*float64(i)/n)
		return geom.Vec3{r / 1000 * sin, y / 1000, r / 1000 * cos}.F32()
	}
	rows := [4][2]float64{{radius, low}, {radius + thick, low}, {radius + thick, high}, {radius, high}}
	for i := range n + 1 {
		for k, row := range rows {
			v := float32(1)
			if k >= 2 {
				v = 0
			}
			m.Positions = append(m.Positions, point(i, row[0], row[1]))
			m.UV = append(m.UV, [2]float32{float32(i) / n, v})
		}
	}
	for i := range uint32(n) {
		for k := range uint32(4) {
			a, b := 4*i+k, 4*i+(k+1)%4
			m.Indices = append(m.Indices, a, a+4, b, b, a+4, b+4)
		}
	}
	m.Indices = append(m.Indices, 0, 1, 3, 1, 2, 3, 4*n, 4*n+3, 4*n+1, 4*n+1, 4*n+3, 4*n+2)
	m.MakeNormals(mesh.DefaultCrease)
	return m
}
