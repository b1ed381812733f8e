// Package lighting knows where lights stand: their bearings, the places that put a highlight or a shadow where it is wanted,
// and rigs. Places are in the room, y up, metres; z is the front.
package lighting

import (
	"math"

	"perigyre/core/geom"
)

// Bearing is where something stands as seen from a middle: radians round from the room's front, to the left of somebody who
// looks at the front from before it, and above the level; and how far away, metres.
type Bearing struct {
	Left     float64 `json:"left"`
	High     float64 `json:"high"`
	Distance float64 `json:"distance"`
}

// BearingOf returns the bearing of a place from a middle.
func BearingOf(middle, at geom.Vec3) Bearing {
	d := at.Sub(middle)
	far := d.Len()
	if far < 1e-12 {
		return Bearing{}
	}
	return Bearing{math.Atan2(-d[0], d[2]), math.Asin(math.Min(1, math.Max(-1, d[1]/far))), far}
}

// Direction is the unit vector from the middle.
func (b Bearing) Direction() geom.Vec3 {
	sin, cos := math.Sincos(b.Left)
	up, level := math.Sincos(b.High)
	return geom.Vec3{-sin * level, up, cos * level}
}

// From returns the place.
func (b Bearing) From(middle geom.Vec3) geom.Vec3 {
	return middle.Add(b.Direction().Mul(b.Distance))
}

// Facing is where a light stands and how it is turned so that it shines, along its -z, on a place.
func Facing(from, on geom.Vec3) geom.Mat4 {
	return geom.TRS(from, geom.LookAlong(on.Sub(from)), geom.Vec3{1, 1, 1})
}
