package bvh

import "math"

// Vec is a point or direction in single precision.
type Vec struct{ X, Y, Z float32 }

// Add returns v + w.
func (v Vec) Add(w Vec) Vec { return Vec{v.X + w.X, v.Y + w.Y, v.Z + w.Z} }

// Sub returns v - w.
func (v Vec) Sub(w Vec) Vec { return Vec{v.X - w.X, v.Y - w.Y, v.Z - w.Z} }

// Mul returns s v.
func (v Vec) Mul(s float32) Vec { return Vec{v.X * s, v.Y * s, v.Z * s} }

// Dot returns the scalar product.
func (v Vec) Dot(w Vec) float32 { return v.X*w.X + v.Y*w.Y + v.Z*w.Z }

// Cross returns the vector product.
func (v Vec) Cross(w Vec) Vec {
	return Vec{v.Y*w.Z - v.Z*w.Y, v.Z*w.X - v.X*w.Z, v.X*w.Y - v.Y*w.X}
}

// axis returns component 0, 1 or 2.
func (v Vec) axis(a int) float32 {
	switch a {
	case 0:
		return v.X
	case 1:
		return v.Y
	}
	return v.Z
}

// Matrix is an affine 3 x 4 matrix as columns X, Y, Z and translation T.
type Matrix struct{ X, Y, Z, T Vec }

// Point returns the image of a point.
func (m *Matrix) Point(v Vec) Vec { return m.Vector(v).Add(m.T) }

// Vector returns the image of a direction.
func (m *Matrix) Vector(v Vec) Vec {
	return Vec{
		m.X.X*v.X + m.Y.X*v.Y + m.Z.X*v.Z,
		m.X.Y*v.X + m.Y.Y*v.Y + m.Z.Y*v.Z,
		m.X.Z*v.X + m.Y.Z*v.Y + m.Z.Z*v.Z,
	}
}

// Normal returns the image of a normal under the transpose of the inverse; call it on the inverse.
func (m *Matrix) Normal(n Vec) Vec { return Vec{m.X.Dot(n), m.Y.Dot(n), m.Z.Dot(n)} }

// Unit returns v at length 1, or v itself if it has no length.
func (v Vec) Unit() Vec {
	l := v.Dot(v)
	if l == 0 {
		return v
	}
	return v.Mul(1 / float32(math.Sqrt(float64(l))))
}
