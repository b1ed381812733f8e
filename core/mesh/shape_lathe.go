package mesh

import (
	"fmt"

	"perigyre/core/geom"
)

// LatheShape is a profile that goes round the upright axis.
var LatheShape = defineShape(shapeSpec{
	kind: "lathe", find: "revolve profile vase bottle", measures: []measure{sidesOf},
	first: func(s float64) Shape {
		return Shape{Points: []geom.Vec3{{0, 0, 0}, {s / 2, 0, 0}, {s / 3, s / 2, 0}, {s / 2.5, s, 0}, {0, s, 0}}}
	},
	check: func(s *Shape) error {
		for i, p := range s.Points {
			if p[0] < 0 {
				return fmt.Errorf("point %d of a lathe is behind the axis", i+1)
			}
		}
		return nil
	},
	build: func(s *Shape, sides int) *Mesh {
		profile := make([]geom.Vec2, len(s.Points))
		for i, p := range s.Points {
			profile[i] = geom.Vec2{p[0], p[1]}
		}
		return Lathe(profile, sides, DefaultCrease)
	},
})

func init() { pointNames[LatheShape] = []string{"Radius", "Height"} }
