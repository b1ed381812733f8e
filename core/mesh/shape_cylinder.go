package mesh

import (
	"perigyre/core/geom"
)

// CylinderShape is a cylinder with rounded edges.
var CylinderShape = defineShape(shapeSpec{
	kind: "cylinder", find: "disc can rod", measures: []measure{length("radius", "Radius", radiusOf), length("height", "Height", heightOf), bevelOf, sidesOf},
	first: func(s float64) Shape { return Shape{Radius: two(s / 2), Height: s, Bevel: two(s / 40)} },
	build: func(s *Shape, sides int) *Mesh {
		return Lathe(roundedProfile([]geom.Vec2{{0, 0}, {s.Radius, 0}, {s.Radius, s.Height}, {0, s.Height}}, s.Bevel), sides, DefaultCrease)
	},
})
