package outline

import (
	"math"

	"perigyre/core/geom"
)

// Affine takes (x, y) to (ax + cy + e, bx + dy + f); its numbers are in the order of SVG's matrix(a b c d e f).
type Affine [6]float64

// Same leaves everything where it is.
var Same = Affine{1, 0, 0, 1, 0, 0}

// Moved, Scaled and Turned are the affine maps of their names; Turned by radians, from x towards y.
func Moved(x, y float64) Affine  { return Affine{1, 0, 0, 1, x, y} }
func Scaled(x, y float64) Affine { return Affine{x, 0, 0, y, 0, 0} }
func Turned(angle float64) Affine {
	sin, cos := math.Sincos(angle)
	return Affine{cos, sin, -sin, cos, 0, 0}
}

// Mul returns the map that applies n, then m.
func (m Affine) Mul(n Affine) Affine {
	return Affine{
		m[0]*n[0] + m[2]*n[1], m[1]*n[0] + m[3]*n[1],
		m[0]*n[2] + m[2]*n[3], m[1]*n[2] + m[3]*n[3],
		m[0]*n[4] + m[2]*n[5] + m[4], m[1]*n[4] + m[3]*n[5] + m[5],
	}
}

// Point returns where a point goes.
func (m Affine) Point(p geom.Vec2) geom.Vec2 {
	return geom.Vec2{m[0]*p[0] + m[2]*p[1] + m[4], m[1]*p[0] + m[3]*p[1] + m[5]}
}

// Det returns by what areas grow, negative where the map mirrors.
func (m Affine) Det() float64 { return m[0]*m[3] - m[1]*m[2] }

// Inverse returns the map back, or false where there is none.
func (m Affine) Inverse() (Affine, bool) {
	d := m.Det()
	if k := 1 / d; d == 0 || math.IsInf(k, 0) || math.IsNaN(k) {
		return Affine{}, false
	}
	n := Affine{m[3] / d, -m[1] / d, -m[2] / d, m[0] / d, 0, 0}
	p := n.Point(geom.Vec2{m[4], m[5]})
	n[4], n[5] = -p[0], -p[1]
	return n, true
}

// Stretch returns the most that the map lengthens anything: its larger singular value.
func (m Affine) Stretch() float64 {
	s := m[0]*m[0] + m[1]*m[1] + m[2]*m[2] + m[3]*m[3]
	d := m.Det()
	return math.Sqrt((s + math.Sqrt(math.Max(0, s*s-4*d*d))) / 2)
}

// Finite reports whether all numbers are.
func (m Affine) Finite() bool {
	for _, v := range m {
		if math.IsNaN(v) || math.IsInf(v, 0) {
			return false
		}
	}
	return true
}
