package mesh

import (
	"math"

	"perigyre/core/geom"
)

// SweepShape is a floor that bends up into a wall.
var SweepShape = defineShape(shapeSpec{
	kind: "sweep", find: "backdrop cove infinity wall", measures: []measure{widthOf, tallOf, depthOf, rounding("radius", "Radius of the bend", radiusOf)},
	first: func(s float64) Shape { return Shape{Size: geom.Vec3{8 * s, 5 * s, 8 * s}, Radius: 2 * s} },
	build: func(s *Shape, _ int) *Mesh { return sweep(s.Size, math.Min(s.Radius, math.Min(s.Size[1], s.Size[2]))) },
})

// sweep is a floor that bends up into a wall behind: width, height and depth, with the bend's radius.
func sweep(size geom.Vec3, radius float64) *Mesh {
	profile := []geom.Vec2{{size[2] / 2, 0}}
	back := -size[2] / 2
	for _, p := range arc(back+radius, radius, radius, -math.Pi/2, -math.Pi, 32) {
		profile = append(profile, p)
	}
	if size[1] > radius {
		profile = append(profile, geom.Vec2{back, size[1]})
	}
	m := &Mesh{}
	for i, p := range profile {
		for k, x := range []float64{-size[0] / 2, size[0] / 2} {
			m.Positions = append(m.Positions, [3]float32{float32(x), float32(p[1]), float32(p[0])})
			m.UV = append(m.UV, [2]float32{float32(k), float32(i) / float32(len(profile)-1)})
		}
	}
	for i := range uint32(len(profile) - 1) {
		a := 2 * i
		m.Indices = append(m.Indices, a, a+1, a+2, a+1, a+3, a+2)
	}
	m.RemoveDegenerate()
	m.MakeNormals(DefaultCrease)
	return m
}
