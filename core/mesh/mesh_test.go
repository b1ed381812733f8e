package mesh

import (
	"math"
	"math/rand/v2"
	"testing"

	"perigyre/core/geom"
)

// Volumes and areas by closed forms against the divergence theorem on the mesh, and all closed.
// A lathe of n segments is a stack of n-gon prisms: area n/2 sin(2 pi/n) r^2 stands in for pi r^2.
func TestPrimitivesAreClosedSolidsOfTheRightVolume(t *testing.T) {
	const n, r, h = 96, 0.03, 0.07
	ngon := n / 2.0 * math.Sin(2*math.Pi/n) * r * r
	circle := make([]geom.Vec3, 64)
	for i := range circle {
		s, c := math.Sincos(2 * math.Pi * float64(i) / 64)
		circle[i] = geom.Vec3{0.1 * c, 0, 0.1 * s}
	}
	const tube = 0.01
	for _, c := range []struct {
		name   string
		m      *Mesh
		volume float64
		within float64
	}{
		{"cylinder", Lathe([]geom.Vec2{{0, 0}, {r, 0}, {r, h}, {0, h}}, n, DefaultCrease), ngon * h, 1e-6},
		{"cone", Lathe([]geom.Vec2{{0, 0}, {r, 0}, {0, h}}, n, DefaultCrease), ngon * h / 3, 1e-6},
		{"box", Box(geom.Vec3{1, 2, 3}), 6, 1e-12},
		{"torus", Tube(circle, tube, 64, true), 2 * math.Pi * 0.1 * math.Pi * tube * tube, 5e-3},
		{"rod", Tube([]geom.Vec3{{0, 0, 0}, {0, h, 0}}, r, n, false), ngon * h, 1e-6},
		{"plinth without its edge", DiscPlinth(r, h, 0), 64 * math.Sin(2*math.Pi/128) * r * r * h, 1e-5},
	} {
		if open := c.m.OpenEdges(); open != 0 {
			t.Errorf("%s has %d open edges", c.name, open)
		}
		if v := c.m.Volume(); math.Abs(v-c.volume) > c.within*c.volume {
			t.Errorf("%s encloses %g, closed form %g", c.name, v, c.volume)
		}
		for i, nrm := range c.m.Normals {
			if math.Abs(geom.V3(nrm).Len()-1) > 1e-5 {
				t.Fatalf("%s: normal %d has length %g", c.name, i, geom.V3(nrm).Len())
			}
		}
	}
}

func TestCreaseAngleSplitsHardEdgesOnly(t *testing.T) {
	box := Box(geom.Vec3{1, 1, 1})
	if len(box.Positions) != 24 {
		t.Errorf("a box has %d vertices with hard edges, want 24", len(box.Positions))
	}
	// A fine cylinder's side is smooth: its normals point straight out, and lie flat on the caps.
	cyl := Lathe([]geom.Vec2{{0, 0}, {1, 0}, {1, 1}, {0, 1}}, 64, DefaultCrease)
	for i, p := range cyl.Positions {
		nrm := cyl.Normals[i]
		if math.Abs(float64(nrm[1])) > 0.5 {
			if math.Abs(float64(nrm[1])) < 0.9999 {
				t.Fatalf("cap normal %v", nrm)
			}
			continue
		}
		if d := nrm[0]*p[0] + nrm[2]*p[2]; d < 0.999 {
			t.Fatalf("side normal %v at %v", nrm, p)
		}
	}
}

func TestMirrorKeepsTheOutsideOutside(t *testing.T) {
	m := Box(geom.Vec3{1, 2, 3})
	m.Transform(geom.TRS(geom.Vec3{1, 2, 3}, geom.AxisAngle(geom.Vec3{1, 1, 0}, 1), geom.Vec3{-2, 1, 1}))
	if v := m.Volume(); math.Abs(v-12) > 1e-5 {
		t.Errorf("volume after a mirror is %g, want 12", v)
	}
	if d := geom.V3(m.Normals[0]).Dot(m.areaVector(0).Unit()); d < 0.9999 {
		t.Errorf("normal and winding disagree: %g", d)
	}
}

func TestDegenerateAndOpen(t *testing.T) {
	m := Box(geom.Vec3{1, 1, 1})
	m.Indices = append(m.Indices, 0, 0, 1, 5, 6, 5)
	if n := m.RemoveDegenerate(); n != 2 {
		t.Errorf("removed %d degenerate triangles, want 2", n)
	}
	m.Indices = m.Indices[3:]
	if n := m.OpenEdges(); n != 3 {
		t.Errorf("a box less one triangle has %d open edges, want 3", n)
	}
}

func TestSupportAgainstEveryPoint(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	pts := make([]geom.Vec3, 5000)
	for i := range pts {
		pts[i] = geom.Vec3{rng.NormFloat64(), rng.NormFloat64() * 3, rng.Float64()}
	}
	s := NewSupport(pts)
	// The same points in three heaps at places of their own, one of them twice.
	places := []geom.Mat4{geom.TRS(geom.Vec3{1, 2, 3}, geom.AxisAngle(geom.Vec3{1, 1, 0}, 2), geom.Vec3{1, 2, 0.5}), geom.Translation(geom.Vec3{-4, 0, 1}), geom.Identity}
	var items []Placed
	var all []geom.Vec3
	var floor []geom.Vec2
	for i, heap := range [][]geom.Vec3{pts[:2000], pts[2000:2017], pts[2017:]} {
		for _, m := range places[:1+i%2] {
			items = append(items, Placed{NewSupport(heap), m})
			for _, p := range heap {
				q := m.Point(p)
				all, floor = append(all, q), append(floor, geom.Vec2{q[0], q[2]})
			}
		}
	}
	a := NewAssembly(append(items, Placed{NewSupport(nil), geom.Identity}))
	c, want := a.Footprint(), geom.EnclosingCircle(floor)
	if c.Centre.Sub(want.Centre).Len() > 1e-9 || math.Abs(c.Radius-want.Radius) > 1e-9 {
		t.Errorf("the footprint is %+v, Welzl's circle of every point %+v", c, want)
	}
	box := geom.EmptyBox()
	for _, q := range all {
		box = box.With(q)
	}
	if b := a.Bounds(); b.Min.Sub(box.Min).Len()+b.Max.Sub(box.Max).Len() > 1e-12 {
		t.Errorf("bounds %v, want %v", b, box)
	}
	for i := 0; i < 200; i++ {
		d := geom.Vec3{rng.NormFloat64(), rng.NormFloat64(), rng.NormFloat64()}
		want := math.Inf(-1)
		for _, p := range pts {
			want = math.Max(want, d.Dot(p))
		}
		if got := s.Max(d); got != want {
			t.Fatalf("reach %v, every point says %v", got, want)
		}
		want = math.Inf(-1)
		for _, p := range all {
			want = math.Max(want, d.Dot(p))
		}
		if got, p := a.Furthest(d); math.Abs(got-want) > 1e-12 || math.Abs(d.Dot(p)-want) > 1e-12 {
			t.Fatalf("placed: reach %v at %v, every point says %v", got, p, want)
		}
	}
}
