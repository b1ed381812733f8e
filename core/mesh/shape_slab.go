package mesh

import (
	"perigyre/core/geom"
)

// SlabShape is a box whose lower edges are hard.
var SlabShape = defineShape(shapeSpec{
	kind: "slab", find: "plate board", measures: []measure{widthOf, tallOf, depthOf, bevelOf},
	first: func(s float64) Shape { return Shape{Size: geom.Vec3{2 * s, two(s / 4), 2 * s}, Bevel: two(s / 25)} },
	build: func(s *Shape, _ int) *Mesh { return roundedBox(s.Size, s.Bevel, true) },
})
