package mesh

import (
	"math"
)

// GearShape is a spur gear with involute teeth.
var GearShape = defineShape(shapeSpec{
	kind: "gear", find: "cog teeth wheel",
	measures: []measure{
		length("module", "Module", func(s *Shape) *float64 { return &s.Gear.Module }),
		{Measure: Measure{Name: "teeth", Label: "Teeth", Unit: "count", Least: 6, Most: 400}, whole: func(s *Shape) *int { return &s.Gear.Teeth }},
		{Measure: Measure{Name: "pressure", Label: "Pressure angle", Unit: "angle", Least: 0.17, Most: 0.53}, at: func(s *Shape) *float64 { return &s.Gear.Pressure }},
		length("width", "Width", func(s *Shape) *float64 { return &s.Gear.Width }),
		rounding("bore", "Bore, or outer radius", func(s *Shape) *float64 { return &s.Gear.Bore }),
		{Measure: Measure{Name: "inside", Label: "Teeth inside a ring", Unit: "flag", Most: 1}, flag: func(s *Shape) *bool { return &s.Gear.Inside }, then: func(s *Shape) {
			g := s.Gear // what is a bore becomes the outside, and the other way round
			if g.Bore = g.Module * float64(g.Teeth) / 6; g.Inside {
				g.Bore = g.Module * float64(g.Teeth+6) / 2
			}
		}},
	},
	first: func(s float64) Shape {
		return Shape{Gear: &Gear{Module: two(s / 24), Teeth: 24, Pressure: 20 * math.Pi / 180, Width: two(s / 6), Bore: two(s / 8)}}
	},
	lacks: func(s *Shape) bool { return s.Gear == nil },
	check: func(s *Shape) error { return s.Gear.Check() },
	build: func(s *Shape, _ int) *Mesh { return s.Gear.Build() },
})
