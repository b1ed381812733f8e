package outline

import (
	"context"
	"math"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/planar"
)

// Extrude returns the solid's faces (front, back and bevels) and its sides, from z = 0 to the depth,
// facing +z. A bevel wider than the region or half the depth allows is made as wide as they do. All of it comes from one
// division of the plane, so that its parts share their corners.
func Extrude(ctx context.Context, s mesh.Extrusion, r Region, tolerance float64) (faces, sides *mesh.Mesh, err error) {
	insets, heights, err := levels(ctx, s, r, tolerance)
	if err != nil {
		return nil, nil, err
	}
	areas := []Area{r.Area()}
	for _, in := range insets {
		areas = append(areas, in.Area())
	}
	a, err := planar.Arrange(ctx, layers(areas...)...)
	if err != nil {
		return nil, nil, err
	}
	// A place of the region belongs to the level that counts the insets it is in.
	level := func(c *planar.Cover) int {
		if !a.Inside(c, 0) {
			return planar.Outside
		}
		n := 0
		for k := range insets {
			if a.Inside(c, k+1) {
				n++
			}
		}
		return n
	}
	front, err := a.Faces(ctx, level)
	if err != nil {
		return nil, nil, err
	}
	back := front
	if !s.Both && len(insets) > 0 {
		if back, err = a.Faces(ctx, func(c *planar.Cover) int { return min(level(c), 0) }); err != nil {
			return nil, nil, err
		}
	}
	// A corner is as high as the outermost outline that it is on.
	high := make([]int, a.Points())
	for i := range high {
		high[i] = len(insets)
	}
	for _, e := range front.Edges {
		inner := max(e.Left, e.Right)
		if min(e.Left, e.Right) == planar.Outside {
			inner = 0
		}
		high[e.A], high[e.B] = min(high[e.A], inner), min(high[e.B], inner)
	}
	top := func(v int32) float64 { return heights[high[v]] }
	foot := func(v int32) float64 { return 0 }
	if s.Both {
		foot = func(v int32) float64 { return s.Depth - top(v) }
	}
	faces, sides = &mesh.Mesh{}, &mesh.Mesh{}
	cover(faces, a, front, top, false)
	cover(faces, a, back, foot, true)
	for _, e := range front.Edges {
		p, q := e.A, e.B
		if e.Left == planar.Outside {
			p, q = q, p
		} else if e.Right != planar.Outside {
			continue
		}
		base := uint32(len(sides.Positions))
		for _, v := range [2]int32{p, q} {
			add(sides, a.Point(v), foot(v))
			add(sides, a.Point(v), top(v))
		}
		sides.Indices = append(sides.Indices, base, base+2, base+3, base, base+3, base+1)
	}
	faces.MakeNormals(mesh.DefaultCrease)
	sides.MakeNormals(mesh.DefaultCrease)
	return faces, sides, nil
}

// levels returns the regions that the outlines of the front bevel go round, the region itself left out, and how high all
// are.
func levels(ctx context.Context, s mesh.Extrusion, r Region, tolerance float64) (insets []Region, heights []float64, err error) {
	limit := s.Depth
	if s.Both {
		limit = s.Depth / 2
	}
	width := math.Min(s.Width, limit*0.999)
	if s.Bevel == mesh.NoBevel || width <= 0 {
		return nil, []float64{s.Depth}, nil
	}
	// What is convex is nowhere deeper than twice its area by its outline; a strip is as deep as that once. With many
	// corners, where every try takes long, that will do.
	deep, many := 2.2, r.corners() > 2000
	if many {
		deep = 0.9
	}
	if strip := r.Size() / r.length(); many && width > 4*strip {
		width = deep * strip
	}
	for try := 0; ; try++ {
		in, err := r.Inset(ctx, width, tolerance)
		if err != nil {
			return nil, nil, err
		}
		if in.Size() >= 1e-3*r.Size() {
			break
		}
		if width = math.Min(0.8*width, deep*r.Size()/r.length()); try > 30 {
			return nil, []float64{s.Depth}, nil
		}
	}
	steps := 1
	if s.Bevel == mesh.RoundBevel {
		steps = max(1, s.Steps)
	}
	heights = []float64{s.Depth - width}
	for k := 1; k <= steps; k++ {
		sin, cos := math.Sincos(math.Pi / 2 * float64(k) / float64(steps))
		in, err := r.Inset(ctx, width*(1-cos), tolerance)
		if err != nil {
			return nil, nil, err
		}
		insets, heights = append(insets, in), append(heights, s.Depth-width*(1-sin))
	}
	return insets, heights, nil
}

func add(m *mesh.Mesh, p geom.Vec2, z float64) {
	m.Positions = append(m.Positions, [3]float32{float32(p[0]), float32(p[1]), float32(z)})
}

// cover adds the triangles of faces at the heights of their corners, facing the front or, flipped, the back.
func cover(m *mesh.Mesh, a *planar.Arrangement, f *planar.Faces, z func(v int32) float64, flip bool) {
	known := map[int32]uint32{}
	corner := func(v int32) uint32 {
		k, ok := known[v]
		if !ok {
			k = uint32(len(m.Positions))
			known[v] = k
			add(m, a.Point(v), z(v))
		}
		return k
	}
	for _, t := range f.Triangles {
		i, j, k := corner(t.Corners[0]), corner(t.Corners[1]), corner(t.Corners[2])
		if flip {
			j, k = k, j
		}
		m.Indices = append(m.Indices, i, j, k)
	}
}
