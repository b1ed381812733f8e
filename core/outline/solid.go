package outline

import (
	"math"

	"perigyre/core/geom"
	"perigyre/core/mesh"
)

// level is the region at a height.
type level struct {
	region Region
	z      float64
}

// Extrude returns the solid's faces (front, back and bevels) and its sides, from z = 0 to the depth,
// facing +z. A bevel wider than the region or half the depth allows is made as wide as they do.
func Extrude(s mesh.Extrusion, r Region, tolerance float64) (faces, sides *mesh.Mesh) {
	levels := levelsOf(s, r, tolerance)
	front := levels[len(levels)-1]
	faces, sides = &mesh.Mesh{}, &mesh.Mesh{}
	cover(faces, front.region, front.z, false)
	back := []level{{r, 0}}
	if s.Both {
		back = back[:0]
		for _, l := range levels {
			back = append(back, level{l.region, s.Depth - l.z})
		}
	}
	low, high := back[0], levels[0]
	for k := 0; k+1 < len(levels); k++ {
		strip(faces, levels[k], levels[k+1], false)
	}
	for k := 0; k+1 < len(back); k++ {
		strip(faces, back[k], back[k+1], true)
	}
	last := back[len(back)-1]
	cover(faces, last.region, last.z, true)
	walls(sides, r, low.z, high.z)
	faces.MakeNormals(mesh.DefaultCrease)
	sides.MakeNormals(mesh.DefaultCrease)
	return faces, sides
}

// levels returns the region at the heights of the front bevel, from the outline inwards.
func levelsOf(s mesh.Extrusion, r Region, tolerance float64) []level {
	width := s.Width
	limit := s.Depth
	if s.Both {
		limit = s.Depth / 2
	}
	width = math.Min(width, limit*0.999)
	if s.Bevel == mesh.NoBevel || width <= 0 {
		return []level{{r, s.Depth}}
	}
	for try := 0; r.Inset(width, tolerance).Area() < 1e-3*r.Area(); try++ {
		if width *= 0.8; try > 30 {
			return []level{{r, s.Depth}}
		}
	}
	steps := 1
	if s.Bevel == mesh.RoundBevel {
		steps = max(1, s.Steps)
	}
	out := []level{{r, s.Depth - width}}
	for k := 1; k <= steps; k++ {
		sin, cos := math.Sincos(math.Pi / 2 * float64(k) / float64(steps))
		out = append(out, level{r.Inset(width*(1-cos), tolerance), s.Depth - width*(1-sin)})
	}
	return out
}

func add(m *mesh.Mesh, p geom.Vec2, z float64) {
	m.Positions = append(m.Positions, [3]float32{float32(p[0]), float32(p[1]), float32(z)})
}

func face(m *mesh.Mesh, base uint32, t [3]int, flip bool) {
	a, b, c := base+uint32(t[0]), base+uint32(t[1]), base+uint32(t[2])
	if flip {
		b, c = c, b
	}
	m.Indices = append(m.Indices, a, b, c)
}

// cover fills a region at a height, facing the front or, flipped, the back.
func cover(m *mesh.Mesh, r Region, z float64, flip bool) {
	for _, l := range r.Loops() {
		points, triangles := triangulate(l)
		base := uint32(len(m.Positions))
		for _, p := range points {
			add(m, p, z)
		}
		for _, t := range triangles {
			face(m, base, t, flip)
		}
	}
}

// strip covers what is between a region and a smaller one in it, each at its height: the flat area
// between them, whose points are lifted by the outline that they are on.
func strip(m *mesh.Mesh, outer, inner level, flip bool) {
	high := map[geom.Vec2]bool{}
	for _, l := range inner.region.Loops() {
		for _, loop := range append([][]geom.Vec2{l.Outer}, l.Holes...) {
			for _, p := range loop {
				high[p] = true
			}
		}
	}
	for _, l := range outer.region.Minus(inner.region).Loops() {
		points, triangles := triangulate(l)
		base := uint32(len(m.Positions))
		for _, p := range points {
			z := outer.z
			if high[p] {
				z = inner.z
			}
			add(m, p, z)
		}
		for _, t := range triangles {
			face(m, base, t, flip)
		}
	}
}

// walls stand on the outline between two heights.
func walls(m *mesh.Mesh, r Region, low, high float64) {
	for _, l := range r.Loops() {
		for _, loop := range append([][]geom.Vec2{l.Outer}, l.Holes...) {
			base, n := uint32(len(m.Positions)), uint32(len(loop))
			for _, p := range loop {
				add(m, p, low)
				add(m, p, high)
			}
			for i := range n {
				a, b := base+2*i, base+2*((i+1)%n)
				m.Indices = append(m.Indices, a, b, b+1, a, b+1, a+1)
			}
		}
	}
}
