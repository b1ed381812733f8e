package geom

import "math"

// Mat4 is an affine 4 x 4 matrix stored by columns, as glTF stores it: element (row r, column c)
// is m[4*c+r].
type Mat4 [16]float64

// Identity is the matrix that leaves everything where it is.
var Identity = Mat4{1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1}

// Translation returns the matrix that moves by v.
func Translation(v Vec3) Mat4 {
	m := Identity
	m[12], m[13], m[14] = v[0], v[1], v[2]
	return m
}

// TRS returns T(t) R(r) S(s): resize, then turn, then move (glTF 2.0, 3.5.2 "Transformations").
func TRS(t Vec3, r Quat, s Vec3) (m Mat4) {
	m.SetTRS(t, r, s)
	return m
}

// SetTRS makes it TRS of the same.
func (m *Mat4) SetTRS(t Vec3, r Quat, s Vec3) {
	x, y, z, w := r[0], r[1], r[2], r[3]
	m[0], m[1], m[2], m[3] = (1-2*(y*y+z*z))*s[0], 2*(x*y+z*w)*s[0], 2*(x*z-y*w)*s[0], 0
	m[4], m[5], m[6], m[7] = 2*(x*y-z*w)*s[1], (1-2*(x*x+z*z))*s[1], 2*(y*z+x*w)*s[1], 0
	m[8], m[9], m[10], m[11] = 2*(x*z+y*w)*s[2], 2*(y*z-x*w)*s[2], (1-2*(x*x+y*y))*s[2], 0
	m[12], m[13], m[14], m[15] = t[0], t[1], t[2], 1
}

// Mul returns the matrix that applies n first and then m. Both must be affine.
func (m Mat4) Mul(n Mat4) Mat4 {
	var p Mat4
	for c := 0; c < 4; c++ {
		a, b, d, e := n[4*c], n[4*c+1], n[4*c+2], n[4*c+3]
		p[4*c] = m[0]*a + m[4]*b + m[8]*d + m[12]*e
		p[4*c+1] = m[1]*a + m[5]*b + m[9]*d + m[13]*e
		p[4*c+2] = m[2]*a + m[6]*b + m[10]*d + m[14]*e
		p[4*c+3] = e
	}
	return p
}

// Point returns the image of the point v.
func (m Mat4) Point(v Vec3) Vec3 {
	return m.Vector(v).Add(Vec3{m[12], m[13], m[14]})
}

// Vector returns the image of the direction v, without the translation.
func (m Mat4) Vector(v Vec3) Vec3 {
	return Vec3{
		m[0]*v[0] + m[4]*v[1] + m[8]*v[2],
		m[1]*v[0] + m[5]*v[1] + m[9]*v[2],
		m[2]*v[0] + m[6]*v[1] + m[10]*v[2],
	}
}

// Transposed returns the image of v under the transposed linear part: the functional a.(m p) on
// points p is m.Transposed(a).p + a.translation, and normals transform by the inverse of it.
func (m Mat4) Transposed(v Vec3) Vec3 {
	return Vec3{
		m[0]*v[0] + m[1]*v[1] + m[2]*v[2],
		m[4]*v[0] + m[5]*v[1] + m[6]*v[2],
		m[8]*v[0] + m[9]*v[1] + m[10]*v[2],
	}
}

// Column returns column c of the linear part, or the translation for c = 3.
func (m Mat4) Column(c int) Vec3 { return Vec3{m[4*c], m[4*c+1], m[4*c+2]} }

// Det returns the determinant of the linear part: negative for a mirror.
func (m Mat4) Det() float64 { return m.Column(0).Dot(m.Column(1).Cross(m.Column(2))) }

// Inverse returns the inverse of an affine matrix, and false if it has none.
func (m Mat4) Inverse() (Mat4, bool) {
	x, y, z := m.Column(0), m.Column(1), m.Column(2)
	d := m.Det()
	if d == 0 || math.IsNaN(d) || math.IsInf(d, 0) {
		return Identity, false
	}
	// The rows of the inverse are the cross products of the columns over the determinant.
	r0, r1, r2 := y.Cross(z).Mul(1/d), z.Cross(x).Mul(1/d), x.Cross(y).Mul(1/d)
	t := m.Column(3)
	return Mat4{
		r0[0], r1[0], r2[0], 0,
		r0[1], r1[1], r2[1], 0,
		r0[2], r1[2], r2[2], 0,
		-r0.Dot(t), -r1.Dot(t), -r2.Dot(t), 1,
	}, true
}

// Decompose splits an affine matrix without shear into T R S. A mirror is put into the sign of
// the x size. The last result is false where shear makes the split inexact.
func (m Mat4) Decompose() (t Vec3, r Quat, s Vec3, exact bool) {
	x, y, z := m.Column(0), m.Column(1), m.Column(2)
	s = Vec3{x.Len(), y.Len(), z.Len()}
	if m.Det() < 0 {
		s[0] = -s[0]
	}
	if s[0] == 0 || s[1] == 0 || s[2] == 0 {
		return m.Column(3), NoTurn, s, false
	}
	x, y, z = x.Mul(1/s[0]), y.Mul(1/s[1]), z.Mul(1/s[2])
	exact = math.Abs(x.Dot(y))+math.Abs(y.Dot(z))+math.Abs(z.Dot(x)) < 1e-5
	return m.Column(3), QuatFromAxes(x, y, z), s, exact
}
