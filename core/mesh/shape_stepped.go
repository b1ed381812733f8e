package mesh

import (
	"math"

	"perigyre/core/geom"
)

// SteppedShape is a disc with a step round its upper edge.
var SteppedShape = defineShape(shapeSpec{
	kind: "stepped disc", find: "podium plinth stage", measures: []measure{length("radius", "Radius", radiusOf), length("height", "Height", heightOf), bevelOf},
	first: func(s float64) Shape { return Shape{Radius: s, Height: two(s / 4), Bevel: two(s / 60)} },
	build: func(s *Shape, sides int) *Mesh {
		step := math.Min(s.Height/3, s.Radius/4)
		return Lathe(roundedProfile([]geom.Vec2{{0, 0}, {s.Radius, 0}, {s.Radius, s.Height - step}, {s.Radius - step, s.Height - step}, {s.Radius - step, s.Height}, {0, s.Height}}, s.Bevel), sides, DefaultCrease)
	},
})
