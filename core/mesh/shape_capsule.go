package mesh

import (
	"math"
)

// CapsuleShape is a cylinder with half spheres at its ends.
var CapsuleShape = defineShape(shapeSpec{
	kind: "capsule", find: "pill", measures: []measure{length("radius", "Radius", radiusOf), rounding("height", "Height", heightOf), sidesOf},
	first: func(s float64) Shape { return Shape{Radius: two(s / 4), Height: two(s / 2)} },
	build: func(s *Shape, sides int) *Mesh {
		n := max(4, sides/4)
		profile := arc(0, s.Radius, s.Radius, -math.Pi/2, 0, n)
		profile = append(profile, arc(0, s.Radius+s.Height, s.Radius, 0, math.Pi/2, n)...)
		if s.Height == 0 {
			profile = append(profile[:n], profile[n+1:]...)
		}
		return Lathe(profile, sides, math.Pi)
	},
})
