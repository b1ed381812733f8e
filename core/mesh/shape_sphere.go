package mesh

import (
	"math"
)

// SphereShape is a sphere.
var SphereShape = defineShape(shapeSpec{
	kind: "sphere", find: "ball globe", measures: []measure{length("radius", "Radius", radiusOf), sidesOf},
	first: func(s float64) Shape { return Shape{Radius: two(s / 2)} },
	build: func(s *Shape, sides int) *Mesh {
		return Lathe(arc(0, s.Radius, s.Radius, -math.Pi/2, math.Pi/2, max(8, sides/2)), sides, math.Pi)
	},
})
