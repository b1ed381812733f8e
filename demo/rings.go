package demo

import (
	"fmt"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/shot"
)

// Rings is what plans are measured on: 50 pins of 2,000 triangles that stand in 50 rings of 2,000, ten high, in the group "all".
func Rings() *shot.Shot {
	s := shot.New("rings")
	s.Parts = append(s.Parts, shot.Part{ID: "all", Name: "All", Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{}})
	for k := range 100 {
		shape := &mesh.Shape{Kind: mesh.LatheShape, Sides: 250, Points: []geom.Vec3{{0.01, 0, 0}, {0.02, 0, 0}, {0.02, 0.02, 0}, {0.01, 0.02, 0}, {0.01, 0, 0}}}
		if k%2 == 1 {
			shape.Points = []geom.Vec3{{0, 0, 0}, {0.01, 0, 0}, {0.01, 0.01, 0}, {0.01, 0.02, 0}, {0, 0.02, 0}}
		}
		rest := shot.AtRest
		rest.Position = geom.Vec3{0.04 * float64(k/2%5), 0.02 * float64(k/10), 0}
		s.Parts = append(s.Parts, shot.Part{ID: fmt.Sprint("p", k), Name: fmt.Sprint("Part ", k), Parent: "all", Kind: shot.Made, Rest: rest, Shape: shape, Moves: []shot.Move{}})
	}
	return s
}
