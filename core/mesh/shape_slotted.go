package mesh

import (
	"fmt"
	"math"

	"perigyre/core/geom"
)

// SlottedShape is a ring of a rectangular section with rounded edges, open over a gap: retaining rings, brackets, clips.
var SlottedShape = defineShape(shapeSpec{
	kind: "slotted ring", find: "ring gap open retaining clip bracket c", measures: []measure{
		length("radius", "Outer radius", radiusOf), length("width", "Width of the section", func(s *Shape) *float64 { return &s.Size[0] }), length("height", "Height", heightOf),
		{Measure: Measure{Name: "gap", Label: "Gap", Unit: "angle", Most: 2*math.Pi - 0.01}, at: func(s *Shape) *float64 { return &s.Gap }}, bevelOf, sidesOf,
	},
	first: func(s float64) Shape {
		return Shape{Radius: two(s / 2), Size: geom.Vec3{two(s / 8)}, Height: two(s / 8), Gap: math.Pi / 6, Bevel: two(s / 64)}
	},
	check: func(s *Shape) error {
		if s.Size[0] >= s.Radius {
			return fmt.Errorf("a slotted ring's section, %g wide, is less than its outer radius of %g", s.Size[0], s.Radius)
		}
		return nil
	},
	build: func(s *Shape, sides int) *Mesh {
		bevel := math.Min(s.Bevel, math.Min(s.Size[0], s.Height)/2*0.999)
		in, out := s.Radius-s.Size[0], s.Radius
		section := []geom.Vec2{{in, 0}, {out, 0}, {out, s.Height}, {in, s.Height}}
		if bevel > 0 {
			section = nil
			for _, c := range []struct{ x, y, quarters float64 }{{in + bevel, bevel, 2}, {out - bevel, bevel, 3}, {out - bevel, s.Height - bevel, 0}, {in + bevel, s.Height - bevel, 1}} {
				section = append(section, arc(c.x, c.y, bevel, c.quarters*math.Pi/2, (c.quarters+1)*math.Pi/2, 6)...)
			}
		}
		return swept(section, s.Gap/2, 2*math.Pi-s.Gap/2, max(3, int(math.Round(float64(sides)*(1-s.Gap/(2*math.Pi))))))
	},
})

// swept turns a closed section of (radius, height) about the upright axis from one angle to another, from z to x, and closes both ends.
func swept(section []geom.Vec2, from, to float64, sides int) *Mesh {
	m := &Mesh{}
	n := len(section)
	whole := to-from >= 2*math.Pi-1e-9
	for k := range sides + 1 {
		a := from + (to-from)*float64(k)/float64(sides)
		if whole && k == sides {
			a = from
		}
		sin, cos := math.Sincos(a)
		for _, p := range section {
			m.Positions = append(m.Positions, [3]float32{float32(p[0] * sin), float32(p[1]), float32(p[0] * cos)})
		}
	}
	at := func(k, i int) uint32 { return uint32(k*n + i%n) }
	for k := range sides {
		for i := range n {
			m.Indices = append(m.Indices, at(k, i), at(k+1, i), at(k, i+1), at(k, i+1), at(k+1, i), at(k+1, i+1))
		}
	}
	if !whole {
		for i := 1; i+1 < n; i++ { // sections are convex
			m.Indices = append(m.Indices, at(0, 0), at(0, i), at(0, i+1), at(sides, 0), at(sides, i+1), at(sides, i))
		}
	}
	if m.Volume() < 0 {
		for t := 0; t < len(m.Indices); t += 3 {
			m.Indices[t+1], m.Indices[t+2] = m.Indices[t+2], m.Indices[t+1]
		}
	}
	m.MakeNormals(DefaultCrease)
	return m
}
