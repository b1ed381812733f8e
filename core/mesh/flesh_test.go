package mesh

import (
	"math"
	"math/rand/v2"
	"testing"

	"perigyre/core/geom"
)

// flesh is a mesh of random points on eight random bones each, with two targets.
func flesh(points, bones int) (*Mesh, *Flesh) {
	rng := rand.New(rand.NewPCG(1, 2))
	v := func() [3]float32 {
		return [3]float32{float32(rng.NormFloat64()), float32(rng.NormFloat64()), float32(rng.NormFloat64())}
	}
	m, f := &Mesh{Targets: make([]Target, 2)}, &Flesh{Weights: []float64{0.3, -1.2}}
	for range points {
		m.Positions, m.Normals = append(m.Positions, v()), append(m.Normals, geom.V3(v()).Unit().F32())
		var b Bones
		for k := range MaxBones {
			b.Joint[k], b.Share[k] = uint16(rng.IntN(bones)), rng.Float32()
		}
		b.Even()
		m.Bones = append(m.Bones, b)
		for k := range m.Targets {
			m.Targets[k].Positions = append(m.Targets[k].Positions, v())
		}
	}
	for range bones {
		q := geom.Quat{rng.NormFloat64(), rng.NormFloat64(), rng.NormFloat64(), rng.NormFloat64()}.Unit()
		f.Joints = append(f.Joints, geom.TRS(geom.V3(v()), q, geom.Vec3{0.5 + rng.Float64(), 0.5 + rng.Float64(), 0.5 + rng.Float64()}))
	}
	return m, f
}

// A point is the sum of where each bone takes it, by its share, once the targets are added (glTF 2.0, 3.7.2.2 and 3.7.3.3); what is posed
// as it is at rest is the mesh to the bit; a normal stays at a right angle to what its bones turn and stretch.
func TestFlesh(t *testing.T) {
	m, f := flesh(200, 12)
	for k := range m.Positions {
		p := geom.V3(m.Positions[k])
		for n, w := range f.Weights {
			p = p.Add(geom.V3(m.Targets[n].Positions[k]).Mul(w))
		}
		var want geom.Vec3
		for i, share := range m.Bones[k].Share {
			want = want.Add(f.Joints[m.Bones[k].Joint[i]].Point(p).Mul(float64(share)))
		}
		if got := f.Point(m, k); got.Sub(want).Len() > 1e-12*(1+want.Len()) {
			t.Fatalf("point %d is at %v, not at %v", k, got, want)
		}
	}
	still := &Flesh{Weights: []float64{0, 0}}
	for range 12 {
		still.Joints = append(still.Joints, geom.Identity)
	}
	for k, p := range still.Posed(m).Positions {
		for i := range p {
			if math.Abs(float64(p[i]-m.Positions[k][i])) > 1e-6 {
				t.Fatalf("at rest point %d is at %v, not at %v", k, p, m.Positions[k])
			}
		}
	}
	alone := &Mesh{Positions: m.Positions[:1], Normals: m.Normals[:1], Bones: []Bones{{Share: [MaxBones]float32{1}}}}
	n := geom.V3(alone.Normals[0])
	across := n.Cross(geom.Vec3{1, 0, 0}).Unit()
	if got := geom.V3(f.Posed(alone).Normals[0]).Dot(f.Joints[0].Vector(across).Unit()); math.Abs(got) > 1e-6 {
		t.Errorf("a normal and its surface are %g from a right angle", got)
	}
}

// BenchmarkFlesh poses 100,000 points on four bones each for a frame.
func BenchmarkFlesh(b *testing.B) {
	m, f := flesh(100_000, 60)
	for i := range m.Bones {
		for k := 4; k < MaxBones; k++ {
			m.Bones[i].Share[k] = 0
		}
		m.Bones[i].Even()
	}
	m.Targets, f.Weights = nil, nil
	out := make([]geom.Vec3, len(m.Positions))
	for b.Loop() {
		f.Points(m, out)
	}
}
