// Package geom holds the geometry that the rest of the core is written in: vectors, quaternions,
// matrices, boxes and circles as plain values.
//
// Conventions are those of glTF 2.0: right-handed, Y up, metres, radians, quaternions [x y z w],
// column vectors. A positive angle turns counter-clockwise seen from the tip of its axis.
package geom

import "math"

// Vec2 is a point or direction in a plane. On the floor X is room x and Y is room z.
type Vec2 [2]float64

// Sub returns v - w.
func (v Vec2) Sub(w Vec2) Vec2 { return Vec2{v[0] - w[0], v[1] - w[1]} }

// Len returns the length of v.
func (v Vec2) Len() float64 { return math.Hypot(v[0], v[1]) }

// Vec3 is a point or direction in the room.
type Vec3 [3]float64

// Add returns v + w.
func (v Vec3) Add(w Vec3) Vec3 { return Vec3{v[0] + w[0], v[1] + w[1], v[2] + w[2]} }

// Sub returns v - w.
func (v Vec3) Sub(w Vec3) Vec3 { return Vec3{v[0] - w[0], v[1] - w[1], v[2] - w[2]} }

// Mul returns s v.
func (v Vec3) Mul(s float64) Vec3 { return Vec3{v[0] * s, v[1] * s, v[2] * s} }

// Dot returns the scalar product of v and w.
func (v Vec3) Dot(w Vec3) float64 { return v[0]*w[0] + v[1]*w[1] + v[2]*w[2] }

// Cross returns the vector product of v and w.
func (v Vec3) Cross(w Vec3) Vec3 {
	return Vec3{v[1]*w[2] - v[2]*w[1], v[2]*w[0] - v[0]*w[2], v[0]*w[1] - v[1]*w[0]}
}

// Len returns the length of v.
func (v Vec3) Len() float64 { return math.Sqrt(v.Dot(v)) }

// Unit returns v at length 1, or the zero vector if v has no length.
func (v Vec3) Unit() Vec3 {
	l := v.Len()
	if l == 0 {
		return Vec3{}
	}
	return v.Mul(1 / l)
}

// Finite reports whether no component is NaN or infinite.
func (v Vec3) Finite() bool {
	s := v[0] - v[0] + v[1] - v[1] + v[2] - v[2]
	return s == 0
}

// F32 returns v in single precision.
func (v Vec3) F32() [3]float32 { return [3]float32{float32(v[0]), float32(v[1]), float32(v[2])} }

// V3 widens a single-precision triple.
func V3(a [3]float32) Vec3 { return Vec3{float64(a[0]), float64(a[1]), float64(a[2])} }
