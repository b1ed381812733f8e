package mesh

import (
	"perigyre/core/geom"
)

// ColumnShape is a column with a base and a head.
var ColumnShape = defineShape(shapeSpec{
	kind: "column", find: "pillar pedestal", measures: []measure{length("radius", "Radius", radiusOf), length("height", "Height", heightOf), bevelOf},
	first: func(s float64) Shape { return Shape{Radius: two(s * 0.8), Height: 2 * s, Bevel: two(s / 60)} },
	build: func(s *Shape, sides int) *Mesh {
		w, h, r := s.Radius*0.16, s.Radius*0.22, s.Radius
		return Lathe(roundedProfile([]geom.Vec2{{0, 0}, {r, 0}, {r, h}, {r - w, h}, {r - w, s.Height - h}, {r, s.Height - h}, {r, s.Height}, {0, s.Height}}, s.Bevel), sides, DefaultCrease)
	},
})
