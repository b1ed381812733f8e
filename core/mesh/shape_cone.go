package mesh

import (
	"perigyre/core/geom"
)

// ConeShape is a cone, or a frustum.
var ConeShape = defineShape(shapeSpec{
	kind: "cone", find: "frustum funnel",
	measures: []measure{length("radius", "Radius", radiusOf), rounding("top", "Radius at the top", func(s *Shape) *float64 { return &s.Top }), length("height", "Height", heightOf), bevelOf, sidesOf},
	first:    func(s float64) Shape { return Shape{Radius: two(s / 2), Height: s} },
	build: func(s *Shape, sides int) *Mesh {
		return Lathe(roundedProfile([]geom.Vec2{{0, 0}, {s.Radius, 0}, {s.Top, s.Height}, {0, s.Height}}, s.Bevel), sides, DefaultCrease)
	},
})
