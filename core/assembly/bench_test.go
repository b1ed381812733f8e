package assembly

import (
	"math"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/mesh"
)

// made is a solid of a shape.
func made(s mesh.Shape) *Solid {
	m := s.Build()
	points := make([]geom.Vec3, len(m.Positions))
	for k, v := range m.Positions {
		points[k] = geom.V3(v)
	}
	return NewSolid(points, m.Indices, geom.Vec3{1, 1, 1})
}

// gears are two wheels of 18 and 36 teeth in mesh, over a turn of the smaller one, twice 96 frames.
func gears() (a, b Body, way Course) {
	wheel := func(teeth int) Body {
		return Body{made(mesh.Shape{Kind: mesh.GearShape, Gear: &mesh.Gear{Teeth: teeth, Module: 2e-3, Width: 8e-3, Pressure: 20 * math.Pi / 180, Bore: 5e-3}}), Turns{teeth, 1, geom.Vec3{}}}
	}
	a, b = wheel(36), wheel(18)
	for k := range 193 {
		turn := 2 * math.Pi * float64(k) / 192
		big := geom.TRS(geom.Vec3{}, geom.AxisAngle(geom.Vec3{0, 1, 0}, -turn/2), geom.Vec3{1, 1, 1})
		small := geom.TRS(geom.Vec3{0.054, 0, 0}, geom.AxisAngle(geom.Vec3{0, 1, 0}, turn+math.Pi/18), geom.Vec3{1, 1, 1})
		back, _ := big.Inverse()
		way = append(way, back.Mul(small))
	}
	return a, b, way
}

// BenchmarkMeetGears looks at two wheels in mesh over a turn.
func BenchmarkMeetGears(b *testing.B) {
	x, y, way := gears()
	b.ReportMetric(float64(len(x.triangles)+len(y.triangles)), "triangles")
	for b.Loop() {
		Meet(x, y, way, 1e-4, 1e-4)
	}
}
