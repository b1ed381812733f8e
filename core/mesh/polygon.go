package mesh

import "perigyre/core/geom"

// TriangulatePolygon splits a flat polygon without holes into len(points) - 2 triangles of its
// corners' numbers, by cutting off ears: corners that stick out and hold no other corner. Convex
// polygons become fans. A polygon that crosses itself is split somehow, but always into as many.
func TriangulatePolygon(points []geom.Vec3) [][3]int {
	n := len(points)
	if n < 3 {
		return nil
	}
	var normal geom.Vec3 // Newell's: the sum over the edges, robust for concave corners
	for i := range points {
		normal = normal.Add(points[i].Cross(points[(i+1)%n]))
	}
	out := make([][3]int, 0, n-2)
	left := make([]int, n)
	for i := range left {
		left[i] = i
	}
	for len(left) > 3 {
		ear := 1 // a polygon with no proper ear is cut here all the same
		for k := range left {
			at := (k + 1) % len(left) // begins at 1, so that convex polygons fan out from corner 0
			if isEar(points, left, at, normal) {
				ear = at
				break
			}
		}
		m := len(left)
		out = append(out, [3]int{left[(ear+m-1)%m], left[ear], left[(ear+1)%m]})
		left = append(left[:ear], left[ear+1:]...)
	}
	return append(out, [3]int{left[0], left[1], left[2]})
}

func isEar(points []geom.Vec3, left []int, at int, normal geom.Vec3) bool {
	m := len(left)
	i, j := (at+m-1)%m, (at+1)%m
	a, b, c := points[left[i]], points[left[at]], points[left[j]]
	side := func(p, q, r geom.Vec3) float64 { return q.Sub(p).Cross(r.Sub(p)).Dot(normal) }
	if side(a, b, c) <= 0 {
		return false
	}
	for k, v := range left {
		if k == i || k == at || k == j {
			continue
		}
		if p := points[v]; side(a, b, p) >= 0 && side(b, c, p) >= 0 && side(c, a, p) >= 0 {
			return false
		}
	}
	return true
}
