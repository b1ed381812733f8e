package render

import (
	"math"

	"perigyre/core/geom"
	"perigyre/core/render/bvh"
)

func vec(v geom.Vec3) bvh.Vec { return bvh.Vec{X: float32(v[0]), Y: float32(v[1]), Z: float32(v[2])} }

func rgb(c [3]float64) bvh.Vec { return vec(c) }

func mul(a, b bvh.Vec) bvh.Vec { return bvh.Vec{X: a.X * b.X, Y: a.Y * b.Y, Z: a.Z * b.Z} }

func sqrt(x float32) float32 { return float32(math.Sqrt(float64(x))) }

func abs(x float32) float32 { return math.Float32frombits(math.Float32bits(x) &^ (1 << 31)) }

func sincos(x float32) (sin, cos float32) {
	s, c := math.Sincos(float64(x))
	return float32(s), float32(c)
}

// circle returns the point of the unit circle at a share of a turn, 0 to 1: the cosine and the sine, to single precision
// by their series about the nearest quarter. Quarters are told apart without branches, which would be guessed wrong.
func circle(turn float32) (cos, sin float32) {
	quarter := int32(4*turn + 0.5)
	x := (turn - 0.25*float32(quarter)) * (2 * pi)
	y := x * x
	sin = x * (1 + y*(-1.0/6+y*(1.0/120+y*(-1.0/5040+y*(1.0/362880)))))
	cos = 1 + y*(-0.5+y*(1.0/24+y*(-1.0/720+y*(1.0/40320))))
	c, s, q := math.Float32bits(cos), math.Float32bits(sin), uint32(quarter)
	other := (c ^ s) & -(q & 1) // in odd quarters one is the other
	c, s = c^other^(q+1)<<30&(1<<31), s^other^q<<30&(1<<31)
	return math.Float32frombits(c), math.Float32frombits(s)
}

// decay returns e to the -x, x from 0 on, to 3 parts in a million: the power of 2 below it by its bits, and the rest by the series.
func decay(x float32) float32 {
	if x > 80 {
		return 0
	}
	n := int32(x/math.Ln2 + 0.5)
	r := float32(n)*math.Ln2 - x
	return math.Float32frombits(uint32(127-n)<<23) * (1 + r*(1+r*(1.0/2+r*(1.0/6+r*(1.0/24+r*(1.0/120))))))
}

// luminance of a linear Rec. 709 colour (Rec. ITU-R BT.709).
func luminance(c bvh.Vec) float32 { return 0.2126*c.X + 0.7152*c.Y + 0.0722*c.Z }

// frame is an orthonormal frame about a normal z.
type frame struct{ x, y, z bvh.Vec }

// about makes a frame from its z alone (Duff et al., "Building an Orthonormal Basis,
// Revisited", JCGT 2017).
func (f *frame) about(z bvh.Vec) {
	sign := math.Float32frombits(math.Float32bits(1) | math.Float32bits(z.Z)&(1<<31))
	a := -1 / (sign + z.Z)
	b := z.X * z.Y * a
	f.x, f.y, f.z = bvh.Vec{X: 1 + sign*z.X*z.X*a, Y: sign * b, Z: -sign * z.X}, bvh.Vec{X: b, Y: sign + z.Y*z.Y*a, Z: -z.Y}, z
}

func (f *frame) local(v bvh.Vec) bvh.Vec {
	return bvh.Vec{X: f.x.Dot(v), Y: f.y.Dot(v), Z: f.z.Dot(v)}
}

func (f *frame) room(v bvh.Vec) bvh.Vec {
	return f.x.Mul(v.X).Add(f.y.Mul(v.Y)).Add(f.z.Mul(v.Z))
}

func matrix(m geom.Mat4) bvh.Matrix {
	return bvh.Matrix{X: vec(m.Column(0)), Y: vec(m.Column(1)), Z: vec(m.Column(2)), T: vec(m.Column(3))}
}
