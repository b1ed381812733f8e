package mesh

import (
	"math"

	"perigyre/core/geom"
)

// BoxShape is a box with rounded edges.
var BoxShape = defineShape(shapeSpec{
	kind: "box", find: "cube cuboid", measures: []measure{widthOf, tallOf, depthOf, bevelOf},
	first: func(s float64) Shape { return Shape{Size: geom.Vec3{s, s, s}, Bevel: two(s / 25)} },
	build: func(s *Shape, _ int) *Mesh { return roundedBox(s.Size, s.Bevel, false) },
})

// roundedBox is a box with rounded edges standing on y = 0; a slab keeps its lower edges hard.
func roundedBox(size geom.Vec3, bevel float64, slab bool) *Mesh {
	bevel = math.Min(bevel, 0.499*math.Min(size[0], math.Min(size[1], size[2])))
	if bevel == 0 {
		m := Box(size)
		m.Transform(geom.Translation(geom.Vec3{0, size[1] / 2, 0}))
		return m
	}
	// Rings of a rounded rectangle, inset along a profile of the edge.
	const corner = 8
	ring := func(inset float64) []geom.Vec2 {
		r := bevel - inset
		x, z := size[0]/2-bevel, size[2]/2-bevel
		var out []geom.Vec2
		for q, c := range []geom.Vec2{{x, z}, {-x, z}, {-x, -z}, {x, -z}} {
			out = append(out, arc(c[0], c[1], r, float64(q)*math.Pi/2, float64(q+1)*math.Pi/2, corner)...)
		}
		return out
	}
	type level struct{ inset, y float64 }
	var levels []level
	const steps = 8
	if slab {
		levels = append(levels, level{0, 0})
	} else {
		for i := range steps + 1 {
			sin, cos := math.Sincos(math.Pi / 2 * float64(i) / steps)
			levels = append(levels, level{bevel * (1 - sin), bevel * (1 - cos)})
		}
	}
	for i := range steps + 1 {
		sin, cos := math.Sincos(math.Pi / 2 * float64(i) / steps)
		levels = append(levels, level{bevel * (1 - cos), size[1] - bevel*(1-sin)})
	}
	m := &Mesh{}
	n := uint32(4 * (corner + 1))
	for _, l := range levels {
		for _, p := range ring(l.inset) {
			m.Positions = append(m.Positions, [3]float32{float32(p[0]), float32(l.y), float32(p[1])})
		}
	}
	for l := range uint32(len(levels) - 1) {
		for i := range n {
			a, b := l*n+i, l*n+(i+1)%n
			m.Indices = append(m.Indices, a, a+n, b, b, a+n, b+n)
		}
	}
	last := uint32(len(levels)-1) * n
	for i := uint32(1); i+1 < n; i++ {
		m.Indices = append(m.Indices, 0, i, i+1, last, last+i+1, last+i)
	}
	m.RemoveDegenerate()
	m.MakeNormals(DefaultCrease)
	return m
}
