package motion

import (
	"math"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

// FlexAngle returns the angle in radians that a flex has reached over its whole length at time t.
func FlexAngle(m *shot.Move, t Time) float64 {
	if m.Muted {
		return 0
	}
	t = t.of(m)
	m = Pinned(m, t)
	return m.Flex.Angle * Progress(t, m)
}

// Flexed returns where a point of the part's own frame goes when the flex has reached an angle. A bend takes
// the axis to an arc of the same length, and every cross section stays flat and at a right angle to it; a
// twist turns every cross section in proportion to its height, and keeps the volume (Barr, "Global and Local
// Deformations of Solid Primitives", 1984).
func Flexed(f *shot.Flex, angle float64, p geom.Vec3) geom.Vec3 {
	s := p[f.Axis] - f.Base[f.Axis]
	on := min(max(s, 0), f.Length) // along the part of the axis that flexes
	a := angle * on / f.Length
	if f.Shape == "twist" {
		u, v := (f.Axis+1)%3, (f.Axis+2)%3
		sin, cos := math.Sincos(a)
		x, y := p[u]-f.Base[u], p[v]-f.Base[v]
		p[u], p[v] = f.Base[u]+cos*x-sin*y, f.Base[v]+sin*x+cos*y
		return p
	}
	sin, cos := math.Sincos(a)
	along, aside := 1.0, 0.0 // chord of the arc over its length, and its sagitta's share
	if math.Abs(a) > 1e-4 {
		along, aside = sin/a, (1-cos)/a
	} else {
		along, aside = 1-a*a/6, a/2
	}
	x, rest := p[f.Towards]-f.Base[f.Towards], s-on
	p[f.Axis] = f.Base[f.Axis] + on*along + rest*cos - x*sin
	p[f.Towards] = f.Base[f.Towards] + on*aside + rest*sin + x*cos
	return p
}
