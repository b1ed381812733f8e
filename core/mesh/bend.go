package mesh

import (
	"math"

	"perigyre/core/geom"
)

// Bend is a deformation of space along an axis of its own frame: it bends towards another axis, or twists. Below its
// base everything stays, beyond its length it goes on straight.
type Bend struct {
	Twist   bool
	Axis    int       // 0 to 2 for x to z
	Towards int       // the axis that a bend goes towards; not Axis
	Base    geom.Vec3 // where it begins
	Length  float64   // along the axis, in the frame's own unit; more than 0
}

// Point returns where a point goes when the deformation has reached an angle, in radians over the whole length. A bend
// takes the axis to an arc of the same length, and every cross section stays flat and at a right angle to it; a twist
// turns every cross section in proportion to its height, and keeps the volume (Barr, "Global and Local Deformations
// of Solid Primitives", 1984).
func (b *Bend) Point(angle float64, p geom.Vec3) geom.Vec3 {
	s := p[b.Axis] - b.Base[b.Axis]
	on := min(max(s, 0), b.Length) // along the part of the axis that bends
	a := angle * on / b.Length
	if b.Twist {
		u, v := (b.Axis+1)%3, (b.Axis+2)%3
		sin, cos := math.Sincos(a)
		x, y := p[u]-b.Base[u], p[v]-b.Base[v]
		p[u], p[v] = b.Base[u]+cos*x-sin*y, b.Base[v]+sin*x+cos*y
		return p
	}
	sin, cos := math.Sincos(a)
	along, aside := 1.0, 0.0 // chord of the arc over its length, and its sagitta's share
	if math.Abs(a) > 1e-4 {
		along, aside = sin/a, (1-cos)/a
	} else {
		along, aside = 1-a*a/6, a/2
	}
	x, rest := p[b.Towards]-b.Base[b.Towards], s-on
	p[b.Axis] = b.Base[b.Axis] + on*along + rest*cos - x*sin
	p[b.Towards] = b.Base[b.Towards] + on*aside + rest*sin + x*cos
	return p
}
