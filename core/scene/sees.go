package scene

import (
	"perigyre/core/framing"
	"perigyre/core/geom"
)

// Sees returns where a point of the camera's own frame (right, up, back) is in the picture, from -1 at the left and the bottom
// to 1, and whether it is in it. One that is not before the camera is far outside.
func (c *Camera) Sees(p geom.Vec3) (at geom.Vec2, in bool) {
	p[2] = min(p[2], -1e-9)
	x, y, _ := framing.View{Width: c.Width, Height: c.Height, X: c.X, Y: c.Y, Flat: c.Flat}.Seen(p)
	return geom.Vec2{x, y}, p[2] < -1e-9 && x >= -1 && x <= 1 && y >= -1 && y <= 1
}

// Clip returns the corners of what of a triangle lies in the picture, as shares of its own three corners, which are given in the
// camera's frame. It has none where nothing of it does (Sutherland and Hodgman, Reentrant Polygon Clipping, 1974).
func (c *Camera) Clip(t [3]geom.Vec3) []geom.Vec3 {
	near := 1e-6
	planes := []func(p geom.Vec3) float64{
		func(p geom.Vec3) float64 { return -p[2] - near },
		func(p geom.Vec3) float64 { return c.edge(p, 0, 1) },
		func(p geom.Vec3) float64 { return c.edge(p, 0, -1) },
		func(p geom.Vec3) float64 { return c.edge(p, 1, 1) },
		func(p geom.Vec3) float64 { return c.edge(p, 1, -1) },
	}
	shares := []geom.Vec3{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}}
	at := func(s geom.Vec3) geom.Vec3 { return t[0].Mul(s[0]).Add(t[1].Mul(s[1])).Add(t[2].Mul(s[2])) }
	for _, inside := range planes {
		var out []geom.Vec3
		for i, s := range shares {
			n := shares[(i+1)%len(shares)]
			a, b := inside(at(s)), inside(at(n))
			if a >= 0 {
				out = append(out, s)
			}
			if (a >= 0) != (b >= 0) {
				out = append(out, s.Add(n.Sub(s).Mul(a/(a-b))))
			}
		}
		if shares = out; len(shares) == 0 {
			return nil
		}
	}
	return shares
}

// edge is how far a point is inside one of the picture's sides: the right or left one of axis 0, the upper or lower one of 1. It is
// linear in the point.
func (c *Camera) edge(p geom.Vec3, axis int, side float64) float64 {
	half, shift := c.Width, c.X
	if axis == 1 {
		half, shift = c.Height, c.Y
	}
	depth := -p[2]
	if c.Flat {
		return half - side*p[axis]
	}
	return half*depth - side*(p[axis]-shift*depth)
}

// Beyond tells of which sides a point of the camera's own frame is outside: behind the camera, and beyond the right, left, upper
// and lower edge of the picture.
func (c *Camera) Beyond(p geom.Vec3) [5]bool {
	return [5]bool{p[2] >= 0, c.edge(p, 0, 1) < 0, c.edge(p, 0, -1) < 0, c.edge(p, 1, 1) < 0, c.edge(p, 1, -1) < 0}
}
