package mesh

import (
	"fmt"
	"runtime"

	"github.com/sourcegraph/conc/pool"

	"perigyre/core/geom"
)

// MaxBones hang on one position: two sets of four, JOINTS_0 and JOINTS_1 (glTF 2.0, 3.7.3.2).
const MaxBones = 8

// Limits of what one mesh hangs on and is mixed with.
const (
	MaxJoints  = 10_000
	MaxTargets = 1000
)

// Bones is how one position hangs on bones: by which of a skin's joints, and by how much. Shares add up to one; of joints that
// are not used the share is zero.
type Bones struct {
	Joint [MaxBones]uint16
	Share [MaxBones]float32
}

// Even makes the shares add up to one, as the standard asks of those who use them (3.7.3.2). What hangs on nothing hangs on its
// first joint.
func (b *Bones) Even() {
	sum := float32(0)
	for k, v := range b.Share {
		if !(v > 0 && v < 1e30) {
			b.Share[k] = 0
		}
		sum += b.Share[k]
	}
	if !(sum > 0) {
		b.Share = [MaxBones]float32{1}
		return
	}
	for k := range b.Share {
		b.Share[k] /= sum
	}
}

// Target is what a morph target adds to each position, normal and tangent where its weight is one. Normals and Tangents may be nil.
type Target struct {
	Positions, Normals, Tangents [][3]float32
}

// checkFlesh returns an error where a target does not fit the positions.
func (m *Mesh) checkFlesh() error {
	for k, t := range m.Targets {
		for _, list := range [][][3]float32{t.Positions, t.Normals, t.Tangents} {
			if len(list) != 0 && len(list) != len(m.Positions) {
				return fmt.Errorf("morph target %d has %d values for %d positions", k, len(list), len(m.Positions))
			}
			for _, v := range list {
				if !geom.V3(v).Finite() {
					return fmt.Errorf("morph target %d has a value that is not a number", k)
				}
			}
		}
	}
	return nil
}

// Soft reports whether the mesh hangs on bones, or has shapes to be mixed with.
func (m *Mesh) Soft() bool { return len(m.Bones) > 0 || len(m.Targets) > 0 }

// Flesh is how a mesh with bones or targets is posed at a moment.
type Flesh struct {
	Joints  []geom.Mat4 // from the mesh at rest to where each bone takes it, in the mesh's own frame; none where it hangs on no bones
	Weights []float64   // of the targets
}

// at adds the targets to a value of a position.
func (f *Flesh) at(m *Mesh, v [3]float32, k int, of func(t *Target) [][3]float32) geom.Vec3 {
	p := geom.V3(v)
	for n := range min(len(f.Weights), len(m.Targets)) {
		if d := of(&m.Targets[n]); d != nil && f.Weights[n] != 0 {
			p = p.Add(geom.V3(d[k]).Mul(f.Weights[n]))
		}
	}
	return p
}

// AppendFlesh adds the positions, triangles, bones and targets of another mesh, and nothing else of it.
func (m *Mesh) AppendFlesh(n *Mesh) {
	base, more := len(m.Positions), len(n.Positions)
	m.Append(&Mesh{Positions: n.Positions, Indices: n.Indices})
	if m.Bones != nil || n.Bones != nil {
		m.Bones = append(append(m.Bones, make([]Bones, base-len(m.Bones))...), n.Bones...)
		m.Bones = append(m.Bones, make([]Bones, base+more-len(m.Bones))...)
	}
	for k := range max(len(m.Targets), len(n.Targets)) {
		if k == len(m.Targets) {
			m.Targets = append(m.Targets, Target{Positions: make([][3]float32, base)})
		}
		t := &m.Targets[k]
		if k < len(n.Targets) {
			t.Positions = append(t.Positions, n.Targets[k].Positions...)
		}
		t.Positions = append(t.Positions, make([][3]float32, base+more-len(t.Positions))...)
	}
}

func positions(t *Target) [][3]float32 { return t.Positions }
func normals(t *Target) [][3]float32   { return t.Normals }
func tangents(t *Target) [][3]float32  { return t.Tangents }

// blend is the sum of the matrices of the bones that a position hangs on, each by its share (3.7.3.3, linear blending). What hangs
// on none stays.
func (f *Flesh) blend(b *Bones) geom.Mat4 {
	var out geom.Mat4
	hangs := false
	for k, share := range b.Share {
		if share == 0 || int(b.Joint[k]) >= len(f.Joints) {
			continue
		}
		hangs = true
		j, w := &f.Joints[b.Joint[k]], float64(share)
		for c := 0; c < 16; c += 4 { // the lowest row is that of every place: 0 0 0 1
			out[c] += w * j[c]
			out[c+1] += w * j[c+1]
			out[c+2] += w * j[c+2]
		}
	}
	if !hangs {
		return geom.Identity
	}
	out[15] = 1
	return out
}

// Point returns where position k goes: mixed with the targets first, then taken along by the bones.
func (f *Flesh) Point(m *Mesh, k int) geom.Vec3 {
	p := f.at(m, m.Positions[k], k, positions)
	if len(f.Joints) > 0 && len(m.Bones) > 0 {
		at := f.blend(&m.Bones[k])
		p = at.Point(p)
	}
	return p
}

// upright returns where a normal goes: by the transposed inverse, which is the matrix of cofactors over the determinant.
func upright(m *geom.Mat4, n geom.Vec3) geom.Vec3 {
	a, b, c := m.Column(0), m.Column(1), m.Column(2)
	out := b.Cross(c).Mul(n[0]).Add(c.Cross(a).Mul(n[1])).Add(a.Cross(b).Mul(n[2]))
	if m.Det() < 0 {
		out = out.Mul(-1)
	}
	return out.Unit()
}

// SmoothNormals gives every position the mean of the normals of its triangles, by their areas, and leaves the positions as they
// are, which targets and bones count on.
func (m *Mesh) SmoothNormals() {
	sum := make([]geom.Vec3, len(m.Positions))
	for t := range m.Triangles() {
		n := m.areaVector(t)
		for k := range 3 {
			v := m.Indices[3*t+k]
			sum[v] = sum[v].Add(n)
		}
	}
	m.Normals = make([][3]float32, len(sum))
	for i, n := range sum {
		m.Normals[i] = n.Unit().F32()
	}
}

// Points writes where all positions go, as many of them as out has room for.
func (f *Flesh) Points(m *Mesh, out []geom.Vec3) {
	Each(min(len(out), len(m.Positions)), func(k int) { out[k] = f.Point(m, k) })
}

// Each does something for every number below n, on all processors where there are many.
func Each(n int, do func(k int)) {
	const chunk = 4096
	some := func(from int) {
		for k := from; k < min(n, from+chunk); k++ {
			do(k)
		}
	}
	if n <= chunk {
		some(0)
		return
	}
	all := pool.New().WithMaxGoroutines(runtime.GOMAXPROCS(0))
	for from := 0; from < n; from += chunk {
		all.Go(func() { some(from) })
	}
	all.Wait()
}

// Posed returns the mesh as it is posed. It shares what stays as it is; normals go by the transposed inverse of what the
// positions go by.
func (f *Flesh) Posed(m *Mesh) *Mesh {
	out := *m
	out.Bones, out.Targets = nil, nil
	bones := len(f.Joints) > 0 && len(m.Bones) > 0
	out.Positions = make([][3]float32, len(m.Positions))
	if m.Normals != nil {
		out.Normals = make([][3]float32, len(m.Normals))
	}
	if m.Tangents != nil {
		out.Tangents = make([][4]float32, len(m.Tangents))
	}
	at := geom.Identity
	for k := range m.Positions {
		if bones {
			at = f.blend(&m.Bones[k])
		}
		p := f.at(m, m.Positions[k], k, positions)
		out.Positions[k] = at.Point(p).F32()
		if m.Normals != nil {
			n := f.at(m, m.Normals[k], k, normals)
			out.Normals[k] = upright(&at, n).F32()
		}
		if m.Tangents != nil {
			v := m.Tangents[k]
			t := at.Vector(f.at(m, [3]float32(v[:3]), k, tangents)).Unit().F32()
			out.Tangents[k] = [4]float32{t[0], t[1], t[2], v[3]}
		}
	}
	return &out
}
