package mesh

import (
	"math"

	"perigyre/core/geom"
)

// Lathe turns a profile about the upright axis. The profile is a list of (radius, height) points in
// metres, from bottom to top for an outside surface; a closed solid begins and ends on the axis or
// repeats its first point at the end. Texture u runs once round, v along the profile's length from
// 0 at its start. Normals are made with the crease angle, in radians.
func Lathe(profile []geom.Vec2, segments int, crease float64) *Mesh {
	m := &Mesh{}
	length := make([]float64, len(profile))
	for i := 1; i < len(profile); i++ {
		length[i] = length[i-1] + profile[i].Sub(profile[i-1]).Len()
	}
	total := length[len(length)-1]
	ring := segments + 1 // the last column repeats the first with u = 1
	for i, p := range profile {
		for s := 0; s < ring; s++ {
			sin, cos := math.Sincos(2 * math.Pi * float64(s%segments) / float64(segments))
			m.Positions = append(m.Positions, [3]float32{float32(p[0] * sin), float32(p[1]), float32(p[0] * cos)})
			m.UV = append(m.UV, [2]float32{float32(s) / float32(segments), float32(length[i] / total)})
		}
	}
	for i := 0; i+1 < len(profile); i++ {
		for s := 0; s < segments; s++ {
			a, b := uint32(i*ring+s), uint32(i*ring+s+1)
			c, d := a+uint32(ring), b+uint32(ring)
			if profile[i][0] > 0 {
				m.Indices = append(m.Indices, a, b, c)
			}
			if profile[i+1][0] > 0 {
				m.Indices = append(m.Indices, b, d, c)
			}
		}
	}
	m.RemoveDegenerate()
	m.MakeNormals(crease)
	return m
}

// DiscPlinth returns a closed disc standing on y = 0 with a rounded upper edge: radius and height
// to its outermost and uppermost points, bevel the radius of the edge, all in metres.
func DiscPlinth(radius, height, bevel float64) *Mesh {
	bevel = math.Min(bevel, math.Min(radius, height)/2)
	profile := []geom.Vec2{{0, 0}, {radius, 0}}
	const steps = 8
	for i := 0; i <= steps; i++ {
		sin, cos := math.Sincos(math.Pi / 2 * float64(i) / steps)
		profile = append(profile, geom.Vec2{radius - bevel + bevel*cos, height - bevel + bevel*sin})
	}
	profile = append(profile, geom.Vec2{0, height})
	return Lathe(profile, 128, DefaultCrease)
}
