package mesh

import (
	"math"

	"perigyre/core/geom"
)

// arc returns n + 1 points of a circle in a profile's plane, from one angle to another.
func arc(x, y, radius, from, to float64, n int) []geom.Vec2 {
	out := make([]geom.Vec2, n+1)
	for i := range out {
		sin, cos := math.Sincos(from + (to-from)*float64(i)/float64(n))
		out[i] = geom.Vec2{x + radius*cos, y + radius*sin}
		if math.Abs(out[i][0]) < 1e-12*radius {
			out[i][0] = 0 // on the axis exactly
		}
	}
	return out
}

// roundedProfile replaces the corners of a profile, but for its ends, by arcs of a radius, or of as
// much of it as the sides leave room for.
func roundedProfile(stops []geom.Vec2, radius float64) []geom.Vec2 {
	if radius == 0 {
		return stops
	}
	out := []geom.Vec2{stops[0]}
	for i := 1; i+1 < len(stops); i++ {
		out = append(out, Fillet(stops[i-1], stops[i], stops[i+1], radius, 6)...)
	}
	return append(out, stops[len(stops)-1])
}

// Fillet returns steps + 1 points of the arc that rounds the corner at b between a and c, with the
// radius or as much of it as half of each side leaves room for.
func Fillet(a, b, c geom.Vec2, radius float64, steps int) []geom.Vec2 {
	u, v := a.Sub(b), c.Sub(b)
	lu, lv := u.Len(), v.Len()
	if lu == 0 || lv == 0 {
		return []geom.Vec2{b}
	}
	u, v = geom.Vec2{u[0] / lu, u[1] / lu}, geom.Vec2{v[0] / lv, v[1] / lv}
	half := math.Acos(math.Max(-1, math.Min(1, u[0]*v[0]+u[1]*v[1]))) / 2
	if radius == 0 || half < 1e-6 || half > math.Pi/2-1e-6 {
		return []geom.Vec2{b}
	}
	cut := math.Min(radius/math.Tan(half), 0.49*math.Min(lu, lv))
	radius = cut * math.Tan(half)
	middle := geom.Vec2{u[0] + v[0], u[1] + v[1]}
	d := radius / math.Sin(half) / middle.Len()
	centre := geom.Vec2{b[0] + middle[0]*d, b[1] + middle[1]*d}
	from := math.Atan2(b[1]+u[1]*cut-centre[1], b[0]+u[0]*cut-centre[0])
	to := math.Atan2(b[1]+v[1]*cut-centre[1], b[0]+v[0]*cut-centre[0])
	return arc(centre[0], centre[1], radius, from, from+math.Remainder(to-from, 2*math.Pi), steps)
}
