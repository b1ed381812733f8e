package bvh

// between returns the matrix of a moving instance at a share of the shutter's time: its keys are even in time,
// and near enough to each other that what turns goes on its arc.
func (i *Instance) between(time float32) Matrix {
	n := float32(len(i.Keys) - 1)
	at := min(max(time*n, 0), n)
	k := min(int(at), len(i.Keys)-2)
	f := at - float32(k)
	a, b := &i.Keys[k], &i.Keys[k+1]
	mix := func(v, w Vec) Vec { return v.Add(w.Sub(v).Mul(f)) }
	return Matrix{mix(a.X, b.X), mix(a.Y, b.Y), mix(a.Z, b.Z), mix(a.T, b.T)}
}

// Moves reports whether it moves while the shutter is open.
func (i *Instance) Moves() bool { return len(i.Keys) > 1 }

// At returns where the instance is at a time of the shutter, and back.
func (i *Instance) At(time float32) (toRoom, toMesh Matrix) {
	if !i.Moves() {
		return i.ToRoom, i.ToMesh
	}
	m := i.between(time)
	return m, m.inverse()
}

// inverse returns the inverse of an affine matrix; one that is flat gives zeroes, which no ray meets.
func (m *Matrix) inverse() Matrix {
	x, y, z := m.Y.Cross(m.Z), m.Z.Cross(m.X), m.X.Cross(m.Y)
	det := m.X.Dot(x)
	if det == 0 {
		return Matrix{}
	}
	k := 1 / det
	x, y, z = x.Mul(k), y.Mul(k), z.Mul(k)
	out := Matrix{X: Vec{x.X, y.X, z.X}, Y: Vec{x.Y, y.Y, z.Y}, Z: Vec{x.Z, y.Z, z.Z}}
	out.T = out.Vector(m.T).Mul(-1)
	return out
}
