package bvh

import (
	"math"
	"math/rand/v2"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/mesh"
)

func place(m geom.Mat4) (Matrix, Matrix) {
	inv, _ := m.Inverse()
	conv := func(m geom.Mat4) Matrix {
		v := func(c int) Vec { a := m.Column(c).F32(); return Vec{a[0], a[1], a[2]} }
		return Matrix{v(0), v(1), v(2), v(3)}
	}
	return conv(m), conv(inv)
}

func bumpy(n int) *mesh.Mesh {
	m := &mesh.Mesh{}
	for i := range n + 1 {
		for j := range n + 1 {
			x, z := float64(i)/float64(n)-0.5, float64(j)/float64(n)-0.5
			m.Positions = append(m.Positions, [3]float32{float32(x), float32(0.05 * math.Sin(30*x) * math.Cos(23*z)), float32(z)})
		}
	}
	for i := range uint32(n) {
		for j := range uint32(n) {
			a := i*uint32(n+1) + j
			b := a + uint32(n) + 1
			m.Indices = append(m.Indices, a, a+1, b, a+1, b+1, b)
		}
	}
	return m
}

// The tree against every triangle, through instances that are turned, resized and mirrored.
func TestIntersectAgainstEveryTriangle(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 9))
	shape := NewMesh(bumpy(20).Positions, bumpy(20).Indices)
	var inst []Instance
	for i := range 12 {
		m := geom.TRS(geom.Vec3{rng.NormFloat64(), rng.NormFloat64(), rng.NormFloat64()},
			geom.AxisAngle(geom.Vec3{rng.NormFloat64(), 1, rng.NormFloat64()}, rng.Float64()*6), geom.Vec3{1 + rng.Float64(), 1, float64(1 - i%2*2)})
		to, from := place(m)
		inst = append(inst, Instance{Mesh: shape, ToRoom: to, ToMesh: from, Visible: uint8(1 + i%2)})
	}
	s, w := NewScene(inst), new(Walker)
	for range 3000 {
		r := Ray{Vec{float32(rng.NormFloat64() * 3), float32(rng.NormFloat64() * 3), float32(rng.NormFloat64() * 3)}, Vec{}, math.MaxFloat32, uint8(1 + rng.IntN(3)), 0}
		aim := Vec{float32(rng.NormFloat64()), float32(rng.NormFloat64()), float32(rng.NormFloat64())}
		r.Direction = aim.Sub(r.Origin)
		want := float32(math.MaxFloat32)
		for i := range inst {
			if inst[i].Visible&r.Mask == 0 {
				continue
			}
			var p prepared
			p.prepare(inst[i].toMesh(&r))
			for k := range shape.packets {
				near := Hit{T: want}
				if p.nearest(&shape.packets[k], &near) {
					want = near.T
				}
			}
		}
		var hit Hit
		ok := s.Intersect(&r, w, &hit)
		if ok != (want < math.MaxFloat32) || ok && hit.T != want {
			t.Fatalf("tree finds %v %v, every triangle says %v", hit.T, ok, want)
		}
		if s.Occluded(&r, w) != ok {
			t.Fatal("occluded and intersect disagree")
		}
	}
}

// Rays aimed exactly at the vertices and the points on edges of a closed mesh, from inside: none
// gets out.
func TestWatertight(t *testing.T) {
	ball := mesh.Lathe([]geom.Vec2{{0, -1}, {0.5, -0.9}, {0.9, -0.4}, {1, 0}, {0.8, 0.6}, {0.3, 0.95}, {0, 1}}, 48, mesh.DefaultCrease)
	m := NewMesh(ball.Positions, ball.Indices)
	to, from := place(geom.Translation(geom.Vec3{100, 7, -30})) // away from the origin: rounding shows
	s, w := NewScene([]Instance{{Mesh: m, ToRoom: to, ToMesh: from, Visible: 1}}), new(Walker)
	rng := rand.New(rand.NewPCG(2, 3))
	at := func(i uint32) Vec { p := ball.Positions[i]; return Vec{p[0] + 100, p[1] + 7, p[2] - 30} }
	rays := 1_000_000
	if testing.Short() {
		rays = 10_000
	}
	for range rays {
		k := rng.IntN(len(ball.Indices))
		a, b := at(ball.Indices[k]), at(ball.Indices[k/3*3+(k+1)%3])
		f := rng.Float32()
		if rng.IntN(3) == 0 {
			f = 0
		}
		target := a.Add(b.Sub(a).Mul(f))
		o := Vec{100 + float32(rng.NormFloat64())*0.1, 7 + float32(rng.NormFloat64())*0.1, -30 + float32(rng.NormFloat64())*0.1}
		if !s.Intersect(&Ray{o, target.Sub(o), math.MaxFloat32, 1, 0}, w, new(Hit)) {
			t.Fatalf("a ray from %v to %v gets out", o, target)
		}
	}
}

// Boxes whose faces lie at 0 of either sign, and rays that begin there: a distance of less than nothing, -0, comes after all others where
// distances are compared by their bits.
func TestZerosOfEitherSign(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 7))
	zero := float32(math.Copysign(0, -1))
	of := func(list ...float32) float32 { return list[rng.IntN(len(list))] }
	defer func() { forcePlain = false }()
	for range 300 {
		var at [][3]float32
		var indices []uint32
		for k := range uint32(3 * 40) {
			at = append(at, [3]float32{of(0, zero, 0, zero, 1, -1), of(0, zero, 1, -1, 2, -2), of(0, zero, 0, zero, 1, -1)})
			indices = append(indices, k)
		}
		m, w := NewMesh(at, indices), new(Walker)
		for range 200 {
			o := Vec{of(0, zero, 1, -1), of(0, zero, 1, -1), of(0, zero, 1, -1)}
			d := Vec{of(0, zero, 0.3, -0.3, 1), of(1, -1, 0.7, -0.7), of(0, zero, 0.2, -0.2, 1)}
			var p prepared
			p.prepare(o, d)
			want := Hit{T: math.MaxFloat32}
			for k := range m.packets {
				p.nearest(&m.packets[k], &want)
			}
			for _, forcePlain = range []bool{false, true} {
				got := Hit{T: math.MaxFloat32}
				if hit := m.intersect(o, d, &got, w); got.T != want.T || hit != m.occluded(o, d, math.MaxFloat32, w) {
					t.Fatalf("from %v along %v, plain %v: met at %g, every triangle says %g", o, d, forcePlain, got.T, want.T)
				}
			}
		}
	}
}

// Of all ways to take a binary tree's nodes together, eight children at most to one, the cheapest is taken: against every one of them, on
// trees of up to 14 leaves.
func TestCollapseIsTheCheapest(t *testing.T) {
	rng := rand.New(rand.NewPCG(8, 8))
	for n := 2; n <= 14; n++ {
		for range 40 {
			items := make([]item, n)
			for i := range items {
				lo := Vec{rng.Float32() * 10, rng.Float32(), rng.Float32() * rng.Float32()}
				items[i] = newItem(box{lo, lo.Add(Vec{rng.Float32(), rng.Float32(), rng.Float32()})}, uint32(i))
			}
			nodes := build(items, 1)
			var least func(at uint32) float32
			// ways calls for what each set of at most so many children below a node costs.
			var ways func(at uint32, most int, visit func(used int, cost float32))
			ways = func(at uint32, most int, visit func(used int, cost float32)) {
				visit(1, least(at))
				if nd := &nodes[at]; nd.count == 0 && most > 1 {
					ways(nd.first, most-1, func(left int, a float32) {
						ways(nd.first+1, most-left, func(right int, b float32) { visit(left+right, a+b) })
					})
				}
			}
			known := map[uint32]float32{}
			least = func(at uint32) float32 {
				nd := &nodes[at]
				if nd.count > 0 {
					return 0
				}
				best, ok := known[at]
				if !ok {
					best = math.MaxFloat32
					ways(nd.first, 7, func(left int, a float32) {
						ways(nd.first+1, 8-left, func(_ int, b float32) { best = min(best, nd.bounds.area()+a+b) })
					})
					known[at] = best
				}
				return best
			}
			seen := make([]bool, n)
			wide := widen(nodes, func(nd *node) uint32 {
				seen[items[nd.first].id] = true
				return leaf
			})
			cost := float32(0)
			for i := range wide {
				b := emptyBox()
				for k := range 8 {
					if wide[i].bounds[0][k] != nowhere {
						one := wide[i].box(k)
						b.grow(&one)
					}
				}
				cost += b.area()
			}
			if want := least(0); abs(cost-want) > 1e-4*want {
				t.Fatalf("%d leaves: costs %g, the cheapest way %g", n, cost, want)
			}
			for i, s := range seen {
				if !s {
					t.Fatalf("leaf %d is lost", i)
				}
			}
		}
	}
}

func benchScene() *Scene {
	b := bumpy(300)
	to, from := place(geom.Identity)
	return NewScene([]Instance{{Mesh: NewMesh(b.Positions, b.Indices), ToRoom: to, ToMesh: from, Visible: 1}})
}

func BenchmarkBuild(b *testing.B) {
	m := bumpy(300)
	for b.Loop() {
		NewMesh(m.Positions, m.Indices)
	}
	b.ReportMetric(float64(m.Triangles())*float64(b.N)/b.Elapsed().Seconds()/1e6, "Mtri/s")
}

func benchRays(b *testing.B, rays []Ray, occluded bool) {
	s, w := benchScene(), new(Walker)
	var hit Hit
	i := 0
	for b.Loop() {
		r := &rays[i%len(rays)]
		if occluded {
			s.Occluded(r, w)
		} else {
			s.Intersect(r, w, &hit)
		}
		i++
	}
	b.ReportMetric(float64(b.N)/b.Elapsed().Seconds()/1e6, "Mrays/s")
}

func coherent() []Ray {
	var rays []Ray
	for y := range 256 {
		for x := range 256 {
			rays = append(rays, Ray{Vec{0, 1, 1}, Vec{float32(x)/256 - 0.5, -1, float32(y)/256 - 1.5}, math.MaxFloat32, 1, 0})
		}
	}
	return rays
}

func bounced(up float32) []Ray {
	rng := rand.New(rand.NewPCG(4, 4))
	s, w := benchScene(), new(Walker)
	var rays []Ray
	for _, r := range coherent() {
		var h Hit
		if s.Intersect(&r, w, &h) {
			p := r.Origin.Add(r.Direction.Mul(h.T * 0.9999))
			rays = append(rays, Ray{p, Vec{float32(rng.NormFloat64()), up * abs(float32(rng.NormFloat64())), float32(rng.NormFloat64())}, math.MaxFloat32, 1, 0})
		}
	}
	return rays
}

func BenchmarkCameraRays(b *testing.B) { benchRays(b, coherent(), false) }
func BenchmarkBounceRays(b *testing.B) { benchRays(b, bounced(0.3), false) }
func BenchmarkShadowRays(b *testing.B) { benchRays(b, bounced(1), true) }

// The kernels find the same hits, to the last bit.
func TestKernelsAgree(t *testing.T) {
	if !vector {
		t.Skip("this machine or build has the plain kernel alone")
	}
	s, w := benchScene(), new(Walker)
	defer func() { forcePlain = false }()
	for _, rays := range [][]Ray{coherent(), bounced(0.3)} {
		for i := range rays {
			r := &rays[i]
			forcePlain = false
			var a, b Hit
			inA := s.Intersect(r, w, &a)
			darkA := s.Occluded(r, w)
			forcePlain = true
			inB := s.Intersect(r, w, &b)
			if a != b || inA != inB || darkA != s.Occluded(r, w) {
				t.Fatalf("ray %d: %+v with wide instructions, %+v without", i, a, b)
			}
		}
	}
}

// A refitted tree finds what a new one finds, of a mesh that bends a little; of one whose points have been thrown
// about the tree is built anew, and finds it too.
func TestRefit(t *testing.T) {
	rng := rand.New(rand.NewPCG(5, 5))
	m := bumpy(40)
	old, w := NewMesh(m.Positions, m.Indices), new(Walker)
	for what, change := range map[string]func(p [3]float32) [3]float32{
		"bent": func(p [3]float32) [3]float32 {
			sin, cos := math.Sincos(float64(p[0]))
			return [3]float32{float32(sin), p[1] + float32(1-cos), p[2]}
		},
		"thrown about": func([3]float32) [3]float32 { return [3]float32{rng.Float32(), rng.Float32(), rng.Float32()} },
	} {
		now := make([][3]float32, len(m.Positions))
		for i, p := range m.Positions {
			now[i] = change(p)
		}
		got, want := old.Refit(now, m.Indices), NewMesh(now, m.Indices)
		found := 0
		for range 5000 {
			o := Vec{rng.Float32() - 0.5, 2, rng.Float32() - 0.5}
			r := Ray{Origin: o, Direction: Vec{rng.Float32() - 0.5, rng.Float32() - 0.5, rng.Float32() - 0.5}.Sub(o), Far: math.MaxFloat32}
			a, b := Hit{T: r.Far}, Hit{T: r.Far}
			hit, also := got.intersect(r.Origin, r.Direction, &a, w), want.intersect(r.Origin, r.Direction, &b, w)
			if hit != also || hit && a.T != b.T {
				t.Fatalf("%s: the refitted tree meets %v at %g, the new one %v at %g", what, hit, a.T, also, b.T)
			}
			if hit {
				found++
			}
		}
		if found < 1000 {
			t.Errorf("%s: only %d rays meet anything", what, found)
		}
		if same := len(got.nodes) == len(old.nodes) && got.packets[0].id == old.packets[0].id; same != (what == "bent") {
			t.Errorf("%s: the tree kept its order: %v", what, same)
		}
	}
}

func BenchmarkRefit(b *testing.B) {
	m := bumpy(400)
	old := NewMesh(m.Positions, m.Indices)
	for b.Loop() {
		old.Refit(m.Positions, m.Indices)
	}
}
