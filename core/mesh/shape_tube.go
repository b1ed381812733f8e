package mesh

import (
	"perigyre/core/geom"
)

// TubeShape is a round section along a path.
var TubeShape = defineShape(shapeSpec{
	kind: "tube", find: "pipe cable wire hose", measures: []measure{length("thick", "Radius of the section", thickOf)},
	first: func(s float64) Shape {
		return Shape{Thick: two(s / 20), Points: []geom.Vec3{{-s / 2, s / 20, 0}, {0, s / 2, 0}, {s / 2, s / 20, 0}}}
	},
	build: func(s *Shape, sides int) *Mesh { return Tube(s.Points, s.Thick, max(12, sides/4), false) },
})

func init() { pointNames[TubeShape] = []string{"x", "y"} }
