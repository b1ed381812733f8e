package geom

import "math"

// Quat is a unit quaternion [x y z w] standing for a rotation.
type Quat [4]float64

// NoTurn is the rotation that leaves everything where it is.
var NoTurn = Quat{0, 0, 0, 1}

// AxisAngle returns the rotation by angle radians about axis, which need not be of unit length.
func AxisAngle(axis Vec3, angle float64) Quat {
	a := axis.Unit()
	s, c := math.Sincos(angle / 2)
	return Quat{a[0] * s, a[1] * s, a[2] * s, c}
}

// Mul returns the rotation that applies r first and then q.
func (q Quat) Mul(r Quat) Quat {
	return Quat{
		q[3]*r[0] + q[0]*r[3] + q[1]*r[2] - q[2]*r[1],
		q[3]*r[1] - q[0]*r[2] + q[1]*r[3] + q[2]*r[0],
		q[3]*r[2] + q[0]*r[1] - q[1]*r[0] + q[2]*r[3],
		q[3]*r[3] - q[0]*r[0] - q[1]*r[1] - q[2]*r[2],
	}
}

// Inverse returns the rotation that undoes q.
func (q Quat) Inverse() Quat { return Quat{-q[0], -q[1], -q[2], q[3]} }

// Unit returns q at length 1, or NoTurn if q has no length.
func (q Quat) Unit() Quat {
	l := math.Sqrt(q[0]*q[0] + q[1]*q[1] + q[2]*q[2] + q[3]*q[3])
	if l == 0 || math.IsNaN(l) || math.IsInf(l, 0) {
		return NoTurn
	}
	return Quat{q[0] / l, q[1] / l, q[2] / l, q[3] / l}
}

// Rotate returns v turned by q.
func (q Quat) Rotate(v Vec3) Vec3 {
	u := Vec3{q[0], q[1], q[2]}
	t := u.Cross(v).Mul(2)
	return v.Add(t.Mul(q[3])).Add(u.Cross(t))
}

// QuatFromAxes returns the rotation whose matrix has the orthonormal columns x, y, z.
// Shepperd's method: the largest of the four components is found first.
func QuatFromAxes(x, y, z Vec3) Quat {
	m00, m11, m22 := x[0], y[1], z[2]
	var q Quat
	switch {
	case m00+m11+m22 > 0:
		s := 2 * math.Sqrt(1+m00+m11+m22)
		q = Quat{(y[2] - z[1]) / s, (z[0] - x[2]) / s, (x[1] - y[0]) / s, s / 4}
	case m00 > m11 && m00 > m22:
		s := 2 * math.Sqrt(1+m00-m11-m22)
		q = Quat{s / 4, (x[1] + y[0]) / s, (z[0] + x[2]) / s, (y[2] - z[1]) / s}
	case m11 > m22:
		s := 2 * math.Sqrt(1+m11-m00-m22)
		q = Quat{(x[1] + y[0]) / s, s / 4, (y[2] + z[1]) / s, (z[0] - x[2]) / s}
	default:
		s := 2 * math.Sqrt(1+m22-m00-m11)
		q = Quat{(z[0] + x[2]) / s, (y[2] + z[1]) / s, s / 4, (x[1] - y[0]) / s}
	}
	return q.Unit()
}

// LookAlong returns the rotation that points -z along a direction and keeps +y as far up as it can.
func LookAlong(direction Vec3) Quat {
	back := direction.Unit().Mul(-1)
	right := Vec3{0, 1, 0}.Cross(back)
	if right.Len() < 1e-9 {
		right = Vec3{1, 0, 0}
	}
	right = right.Unit()
	return QuatFromAxes(right, back.Cross(right), back)
}

// Between returns the shortest rotation that takes the direction a to b.
func Between(a, b Vec3) Quat {
	a, b = a.Unit(), b.Unit()
	axis := a.Cross(b)
	cos := a.Dot(b)
	if axis.Len() < 1e-12 {
		if cos >= 0 {
			return NoTurn
		}
		side := a.Cross(Vec3{1, 0, 0}) // half a turn about anything across
		if side.Len() < 1e-6 {
			side = a.Cross(Vec3{0, 1, 0})
		}
		return AxisAngle(side, math.Pi)
	}
	return AxisAngle(axis, math.Atan2(axis.Len(), cos))
}

// Slerp returns the rotation at s from 0 (q) to 1 (r) on the shorter arc, at constant speed (glTF 2.0,
// Appendix C.4).
func (q Quat) Slerp(r Quat, s float64) Quat {
	a := NewArc(q, r)
	return a.At(s)
}

// Arc is the shorter arc from one rotation to another, made ready to be asked at many places: from cos(x) + side sin(x), with x up to
// the angle.
type Arc struct {
	from, side Quat    // of unit length, and across each other
	angle      float64 // half of that between the rotations
}

// NewArc returns the arc from q to r.
func NewArc(q, r Quat) Arc {
	q, r = q.Unit(), r.Unit()
	d := q[0]*r[0] + q[1]*r[1] + q[2]*r[2] + q[3]*r[3]
	if d < 0 {
		d, r = -d, Quat{-r[0], -r[1], -r[2], -r[3]}
	}
	side := Quat{r[0] - d*q[0], r[1] - d*q[1], r[2] - d*q[2], r[3] - d*q[3]}
	sin := math.Sqrt(side[0]*side[0] + side[1]*side[1] + side[2]*side[2] + side[3]*side[3])
	if sin < 1e-15 {
		return Arc{from: q}
	}
	return Arc{q, Quat{side[0] / sin, side[1] / sin, side[2] / sin, side[3] / sin}, math.Atan2(sin, d)}
}

// At returns the rotation at s from 0 to 1, at constant speed.
func (r *Arc) At(s float64) Quat {
	sin, cos := math.Sincos(s * r.angle)
	f, g := &r.from, &r.side
	return Quat{cos*f[0] + sin*g[0], cos*f[1] + sin*g[1], cos*f[2] + sin*g[2], cos*f[3] + sin*g[3]}
}

// Power returns the rotation about the axis of q by n times its angle, which is taken the shorter way.
func (q Quat) Power(n float64) Quat {
	if q[3] < 0 {
		q = Quat{-q[0], -q[1], -q[2], -q[3]}
	}
	axis := Vec3{q[0], q[1], q[2]}
	if axis.Len() < 1e-15 {
		return NoTurn
	}
	return AxisAngle(axis, 2*n*math.Atan2(axis.Len(), q[3]))
}
