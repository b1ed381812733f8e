package mesh

import (
	"fmt"
	"math"

	"perigyre/core/geom"
)

// TorusShape is a ring of a round section.
var TorusShape = defineShape(shapeSpec{
	kind: "torus", find: "ring doughnut", measures: []measure{length("radius", "Radius", radiusOf), length("thick", "Radius of the section", thickOf), sidesOf},
	first: func(s float64) Shape { return Shape{Radius: two(s / 2), Thick: two(s / 8)} },
	check: func(s *Shape) error {
		if s.Thick >= s.Radius {
			return fmt.Errorf("a torus's section, of radius %g, is smaller than its ring, of radius %g", s.Thick, s.Radius)
		}
		return nil
	},
	build: func(s *Shape, sides int) *Mesh {
		path := make([]geom.Vec3, sides)
		for i := range path {
			sin, cos := math.Sincos(2 * math.Pi * float64(i) / float64(sides))
			path[i] = geom.Vec3{s.Radius * sin, s.Thick, s.Radius * cos}
		}
		return Tube(path, s.Thick, max(12, sides/12*4), true)
	},
})
