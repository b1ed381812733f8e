package assembly

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/mesh"
)

// A surface whose points went elsewhere is what is built of them there: the same is in it and as near to it, and it has the same corners,
// also where points part that lay in one place.
func TestPosedIsAsBuilt(t *testing.T) {
	m := (&mesh.Shape{Kind: mesh.TorusShape, Radius: 0.15, Thick: 0.05, Sides: 24}).Build()
	rest, bent := make([]geom.Vec3, len(m.Positions)), make([]geom.Vec3, len(m.Positions))
	for k, v := range m.Positions {
		p := geom.V3(v)
		sin, cos := math.Sincos(4 * p[1]) // twisted about its axis, and stretched
		rest[k], bent[k] = p, geom.Vec3{1.3 * (cos*p[0] - sin*p[2]), p[1] + 0.3*p[0], sin*p[0] + cos*p[2]}
	}
	want := NewSolid(bent, m.Indices, one)
	corners := func(s *Solid) (all []geom.Vec3) {
		for _, n := range s.nodes {
			all = append(all, n.corners...)
		}
		slices.SortFunc(all, func(a, b geom.Vec3) int { return slices.Compare(a[:], b[:]) })
		return all
	}
	for name, got := range map[string]*Solid{"of what keeps together": NewSolid(rest, m.Indices, one).Posed(bent, m.Indices), "of what may part": NewPosable(rest, m.Indices).Posed(bent, m.Indices)} {
		rng := rand.New(rand.NewPCG(3, 1))
		inside := 0
		for range 3000 {
			p := geom.Vec3{rng.Float64()*0.6 - 0.3, rng.Float64()*0.3 - 0.15, rng.Float64()*0.5 - 0.25}
			a, _, _ := want.to(p, math.Inf(1))
			b, _, _ := got.to(p, math.Inf(1))
			if math.Abs(a-b) > 1e-12 {
				t.Fatalf("%s: %v is %g from it, not %g", name, p, b, a)
			}
			if got.Holds(p) != want.Holds(p) {
				t.Fatalf("%s: whether it holds %v differs", name, p)
			}
			if want.Holds(p) {
				inside++
			}
		}
		if inside < 100 {
			t.Errorf("%s: %d points lie in it", name, inside)
		}
		if !slices.Equal(slices.Compact(corners(got)), corners(want)) {
			t.Errorf("%s: it has other corners", name)
		}
	}

	// Two triangles that lie on each other, and then do not.
	two := []uint32{0, 1, 2, 3, 4, 5}
	flat := []geom.Vec3{{}, {1, 0, 0}, {0, 1, 0}, {}, {1, 0, 0}, {0, 1, 0}}
	apart := []geom.Vec3{{}, {1, 0, 0}, {0, 1, 0}, {0, 0, 2}, {1, 0, 2}, {0, 1, 2}}
	got := NewPosable(flat, two).Posed(apart, two)
	if n := len(corners(got)); n != 6 || got.Bounds() != (geom.Box{Max: geom.Vec3{1, 1, 2}}) {
		t.Errorf("%d corners in %v", n, got.Bounds())
	}
}
