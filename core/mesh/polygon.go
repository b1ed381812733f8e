package mesh

import (
	"context"
	"math"

	"perigyre/core/geom"
	"perigyre/core/planar"
)

// LongestPolygon is how many corners a polygon may have at most.
const LongestPolygon = 100_000

// TriangulatePolygon splits a flat polygon into triangles of its corners' numbers, wound as it is. A convex one becomes a
// fan. A concave one is divided exactly, whatever its corners do: where a hole is joined to the outline by a doubled edge, it
// is a hole. One that crosses itself where it has no corner is fanned: there would have to be corners that it does not have.
func TriangulatePolygon(points []geom.Vec3) [][3]int {
	n := len(points)
	if n < 3 {
		return nil
	}
	var normal geom.Vec3 // Newell's: the sum over the edges, robust for concave corners
	for i := range points {
		p, q := points[i].Sub(points[0]), points[(i+1)%n].Sub(points[0])
		normal = normal.Add(p.Cross(q))
	}
	if n > 3 && !convex(points, normal) {
		if out := divided(points, normal); out != nil {
			return out
		}
	}
	out := make([][3]int, 0, n-2)
	for k := 2; k < n; k++ {
		out = append(out, [3]int{0, k - 1, k})
	}
	return out
}

// convex reports whether no corner turns in, and the corners go round once.
func convex(points []geom.Vec3, normal geom.Vec3) bool {
	n := len(points)
	turns := 0.0
	for i := range points {
		a, b := points[(i+1)%n].Sub(points[i]), points[(i+2)%n].Sub(points[(i+1)%n])
		c := a.Cross(b)
		if c.Dot(normal) < 0 {
			return false
		}
		turns += math.Atan2(c.Len(), a.Dot(b))
	}
	return turns < 3*math.Pi
}

// divided divides a polygon in the plane, or returns nil where that takes corners that it does not have.
func divided(points []geom.Vec3, normal geom.Vec3) (out [][3]int) {
	// Seen along the axis that it faces most, the right way round.
	axis := 0
	for k := range 3 {
		if math.Abs(normal[k]) > math.Abs(normal[axis]) {
			axis = k
		}
	}
	x, y := (axis+1)%3, (axis+2)%3
	if normal[axis] < 0 {
		x, y = y, x
	}
	flat := make([]geom.Vec2, len(points))
	for i, p := range points {
		flat[i] = geom.Vec2{p[x] - points[0][x], p[y] - points[0][y]}
	}
	a, err := planar.Arrange(context.Background(), planar.Layer{Lines: [][]geom.Vec2{flat}})
	if err != nil {
		return nil
	}
	corner := make([]int, a.Points())
	for i := range corner {
		corner[i] = -1
	}
	for i, p := range flat {
		if k := a.Nearest(p); k >= 0 {
			corner[k] = i
		}
	}
	faces, err := a.Faces(context.Background(), func(c *planar.Cover) int {
		if a.Inside(c, 0) {
			return 0
		}
		return planar.Outside
	})
	if err != nil {
		return nil
	}
	for _, t := range faces.Triangles {
		i, j, k := corner[t.Corners[0]], corner[t.Corners[1]], corner[t.Corners[2]]
		if i < 0 || j < 0 || k < 0 {
			return nil
		}
		out = append(out, [3]int{i, j, k})
	}
	return out
}
