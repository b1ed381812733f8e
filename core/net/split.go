// Package net finds how things that are folded from flat panels unfold: the panels of a mesh, and the hinges that they turn about.
// Points are in one frame, whatever its unit; angles are radians.
package net

import (
	"math"

	"perigyre/core/geom"
)

// flat is how far the normals of one panel's triangles may be from each other, radians.
const flat = math.Pi / 180

// Split returns the flat regions of a surface, each as the numbers of its triangles: triangles that share an edge and look the same way.
func Split(points []geom.Vec3, triangles []uint32) [][]int {
	n := len(triangles) / 3
	normals := make([]geom.Vec3, n)
	across := map[[2]geom.Vec3][]int{} // triangles by edge
	for t := range n {
		a, b, c := points[triangles[3*t]], points[triangles[3*t+1]], points[triangles[3*t+2]]
		normals[t] = b.Sub(a).Cross(c.Sub(a)).Unit()
		for _, e := range [3][2]geom.Vec3{{a, b}, {b, c}, {c, a}} {
			across[sorted(e[0], e[1])] = append(across[sorted(e[0], e[1])], t)
		}
	}
	var out [][]int
	seen := make([]bool, n)
	for first := range n {
		if seen[first] || normals[first] == (geom.Vec3{}) {
			continue
		}
		region := []int{first}
		seen[first] = true
		for k := 0; k < len(region); k++ {
			t := region[k]
			for c := range 3 {
				for _, o := range across[sorted(points[triangles[3*t+c]], points[triangles[3*t+(c+1)%3]])] {
					if !seen[o] && normals[o].Dot(normals[first]) > math.Cos(flat) {
						seen[o] = true
						region = append(region, o)
					}
				}
			}
		}
		out = append(out, region)
	}
	return out
}

// sorted is an edge whichever way round it is gone.
func sorted(a, b geom.Vec3) [2]geom.Vec3 {
	for k := range a {
		if a[k] != b[k] {
			if a[k] > b[k] {
				return [2]geom.Vec3{b, a}
			}
			break
		}
	}
	return [2]geom.Vec3{a, b}
}
