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
	var out []geom.Vec2
	for i, s := range stops {
		here := geom.Vec2{s.r, s.y}
		if s.round == 0 || i == 0 || i == len(stops)-1 {
			out = append(out, mm2(here))
			continue
		}
		before, after := geom.Vec2{stops[i-1].r, stops[i-1].y}, geom.Vec2{stops[i+1].r, stops[i+1].y}
		a, b := towards(here, before), towards(here, after)
		half := math.Acos(math.Max(-1, math.Min(1, a[0]*b[0]+a[1]*b[1]))) / 2
		cut := math.Min(s.round/math.Tan(half), 0.49*math.Min(before.Sub(here).Len(), after.Sub(here).Len()))
		radius := cut * math.Tan(half)
		middle := geom.Vec2{a[0] + b[0], a[1] + b[1]}
		l := middle.Len()
		d := radius / math.Sin(half)
		centre := geom.Vec2{here[0] + middle[0]/l*d, here[1] + middle[1]/l*d}
		from := math.Atan2(here[1]+a[1]*cut-centre[1], here[0]+a[0]*cut-centre[0])
		to := math.Atan2(here[1]+b[1]*cut-centre[1], here[0]+b[0]*cut-centre[0])
		sweep := math.Remainder(to-from, 2*math.Pi)
		const steps = 6
		for k := range steps + 1 {
			sin, cos := math.Sincos(from + sweep*float64(k)/steps)
			out = append(out, mm2(geom.Vec2{centre[0] + radius*cos, centre[1] + radius*sin}))
		}
	}
	return out
}

func mm2(p geom.Vec2) geom.Vec2 { return geom.Vec2{p[0] / 1000, p[1] / 1000} }

func towards(from, to geom.Vec2) geom.Vec2 {
	d := to.Sub(from)
	l := d.Len()
	return geom.Vec2{d[0] / l, d[1] / l}
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
