package mesh

import (
	"perigyre/core/geom"
)

// PlaneShape is a rectangle that lies on the floor.
var PlaneShape = defineShape(shapeSpec{
	kind: "plane", find: "floor ground sheet", measures: []measure{widthOf, depthOf},
	first: func(s float64) Shape { return Shape{Size: geom.Vec3{4 * s, 0, 4 * s}} },
	build: func(s *Shape, _ int) *Mesh { return plane(s.Size[0], s.Size[2]) },
})

// plane faces up at y = 0, with its texture once over it.
func plane(width, depth float64) *Mesh {
	x, z := float32(width/2), float32(depth/2)
	return &Mesh{
		Positions: [][3]float32{{-x, 0, z}, {x, 0, z}, {x, 0, -z}, {-x, 0, -z}},
		Normals:   [][3]float32{{0, 1, 0}, {0, 1, 0}, {0, 1, 0}, {0, 1, 0}},
		UV:        [][2]float32{{0, 1}, {1, 1}, {1, 0}, {0, 0}},
		Indices:   []uint32{0, 1, 2, 0, 2, 3},
	}
}
