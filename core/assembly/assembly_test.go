package assembly

import (
	"math"
	"math/rand/v2"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/mesh"
)

var one = geom.Vec3{1, 1, 1}

func ball(r float64) Body {
	return Body{Solid: made(mesh.Shape{Kind: mesh.SphereShape, Radius: r, Sides: 96})}
}

func block(x, y, z float64) Body {
	return Body{Solid: made(mesh.Shape{Kind: mesh.BoxShape, Size: geom.Vec3{x, y, z}})}
}

func at(p geom.Vec3) geom.Mat4 { return geom.Translation(p) }

// Two balls on lines that cross: nearest where the difference of their places is across to that of their speeds. Their surfaces are
// as deep in each other as their radii are more than that, and at most a radius, when one passes the middle of the other.
func TestBallsOnCrossingPaths(t *testing.T) {
	const r = 0.1
	a, b := ball(r), ball(r)
	for _, miss := range []float64{0.04, 0.12, 0.19, 0.201, 0.3} {
		var way Course
		from, v := geom.Vec3{-2, miss, 1}, geom.Vec3{4, 0, -2}
		for k := range 17 {
			way = append(way, at(from.Add(v.Mul(float64(k)/16))))
		}
		when := -from.Dot(v) / v.Dot(v) * 16
		least := from.Add(v.Mul(when / 16)).Len()
		m, found := Meet(a, b, way, 1e-3, 1e-3)
		if want := least < 2*r-1e-3; found != want {
			t.Errorf("passing at %g: found %v", least, found)
			continue
		} else if !want {
			continue
		}
		m = Deepest(a.Solid, b.Solid, way, m)
		if got, want := m.Depth.Depth, min(r, 2*r-least); math.Abs(got-want) > 0.06*r || least > r && math.Abs(m.Step-when) > 0.1 {
			t.Errorf("passing at %g: %g deep at %g, want %g at %g", least, got, m.Step, want, when)
		}
	}
}

// Two pendulums that swing towards each other: their bobs are 2 (h - l sin(angle)) apart.
func TestTwoSwings(t *testing.T) {
	const r, l, h, amplitude = 0.05, 0.5, 0.3, 0.55
	a, b := ball(r), ball(r)
	bob := func(side, angle float64) geom.Mat4 {
		return at(geom.Vec3{side * (h - l*math.Sin(angle)), -l * math.Cos(angle), 0})
	}
	var way Course
	apart := math.Inf(1)
	for k := range 49 {
		angle := amplitude * math.Sin(2*math.Pi*float64(k)/48)
		x, _ := bob(-1, angle).Inverse()
		way = append(way, x.Mul(bob(1, angle)))
		apart = math.Min(apart, 2*(h-l*math.Sin(angle)))
	}
	want := 2*r - apart
	m, found := Meet(a, b, way, 1e-4, 1e-4)
	m = Deepest(a.Solid, b.Solid, way, m)
	if !found || math.Abs(m.Depth.Depth-want) > 0.02*r || math.Abs(m.Step-12) > 0.2 {
		t.Errorf("%v %+v, want %g at 12", found, m, want)
	}
	if g, ok := Nearest(a.Solid, b.Solid, way[8], 1); !ok || math.Abs(g.Distance-2*(h-l*math.Sin(amplitude*math.Sin(2*math.Pi/6))-r)) > 0.02*r {
		t.Errorf("before: %v %+v", ok, g)
	}
}

// A thin wall that is passed between two steps is found; a cut over it is none.
func TestAThinWallBetweenSteps(t *testing.T) {
	wall, shot := block(1e-3, 1, 1), block(0.02, 0.02, 0.02)
	var through, cut Course
	for k := range 9 {
		through = append(through, at(geom.Vec3{-1.03 + 0.25*float64(k), 0.4, 0}))
		x := -1.0
		if k > 3 {
			x = 1
		}
		cut = append(cut, at(geom.Vec3{x, 0.4, 0}))
	}
	if m, found := Meet(wall, shot, through, 1e-4, 1e-4); !found || math.Abs(m.Step-4.12) > 0.1 {
		t.Errorf("%v %+v", found, m)
	}
	if m, found := Meet(wall, shot, cut, 1e-4, 1e-4); found {
		t.Errorf("a cut passes through: %+v", m)
	}
}

// Wheels in mesh at their distance of centres, half the sum of teeth times the module, pass through each other nowhere; a
// millimetre nearer they do. A wheel that turns in a housing touches nothing.
func TestWheelsInMesh(t *testing.T) {
	a, b, way := gears()
	if m, found := Meet(a, b, way, 1e-4, 1e-4); found {
		t.Errorf("in mesh: %+v", m)
	}
	near := make(Course, len(way))
	for k := range way {
		near[k] = way[k]
		p := near[k].Column(3).Mul(0.053 / 0.054)
		near[k][12], near[k][13], near[k][14] = p[0], p[1], p[2]
	}
	if m, found := Meet(a, b, near, 1e-4, 1e-4); !found || m.Depth.Depth < 3e-4 || m.Depth.Depth > 1.2e-3 {
		t.Errorf("too near: %v %+v", found, m)
	}
	housing := Body{Solid: made(mesh.Shape{Kind: mesh.LatheShape, Points: []geom.Vec3{{0.021, 0}, {0.03, 0}, {0.03, 0.02}, {0.021, 0.02}, {0.021, 0}}})}
	var round Course
	for k := range 97 {
		round = append(round, geom.TRS(geom.Vec3{0, 0.005, 0}, geom.AxisAngle(geom.Vec3{0, 1, 0}, float64(k)/5), one))
	}
	if m, found := Meet(housing, b, round, 1e-4, 1e-4); found {
		t.Errorf("in its housing: %+v", m)
	}
}

// Nearest against every pair of triangles, and what is found on the way against fine sampling: nothing that sampling finds is
// missed.
func TestAgainstBruteForce(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 1))
	random := func(k float64) geom.Vec3 {
		return geom.Vec3{rng.NormFloat64() * k, rng.NormFloat64() * k, rng.NormFloat64() * k}
	}
	shapes := []Body{{Solid: made(mesh.Shape{Kind: mesh.SphereShape, Radius: 0.1, Sides: 16})}, block(0.2, 0.05, 0.3), block(0.01, 0.4, 0.4), {Solid: made(mesh.Shape{Kind: mesh.TorusShape, Radius: 0.15, Thick: 0.03, Sides: 24})}}
	met := 0
	for n := range 30 {
		a, b := shapes[rng.IntN(len(shapes))], shapes[rng.IntN(len(shapes))]
		pose := func(k float64) geom.Mat4 {
			return geom.TRS(random(k), geom.AxisAngle(random(1).Unit(), rng.Float64()*6), one)
		}
		from, to := pose(0.4), pose(0.4)
		if n < 10 {
			want := math.Inf(1)
			for p := range a.triangles {
				for q := range b.triangles {
					u := b.triangles[q].moved(from)
					want = math.Min(want, a.triangles[p].nearest(&u).Distance)
				}
			}
			if g, ok := Nearest(a.Solid, b.Solid, from, 100); !ok || math.Abs(g.Distance-want) > 1e-12 || math.Abs(g.From.Sub(g.To).Len()-want) > 1e-9 {
				t.Errorf("%d: %+v, want %g", n, g, want)
			}
		}
		const fine = 1e-3
		var way Course
		for k := range 9 {
			way = append(way, between(from, to, float64(k)/8))
		}
		deepest := 0.0
		for k := range 121 {
			if d, deep := Overlap(a.Solid, b.Solid, between(from, to, float64(k)/120), deepest); deep {
				deepest = d.Depth
			}
		}
		m, found := Meet(a, b, way, fine, fine)
		if deepest > 1.5*fine {
			met++
			if !found || Deepest(a.Solid, b.Solid, way, m).Depth.Depth < 0.9*deepest-fine {
				t.Errorf("%d: %v %g deep, want %g", n, found, m.Depth.Depth, deepest)
			}
		} else if found && m.Depth.Depth > 2*fine {
			t.Errorf("%d: %g deep where sampling finds %g", n, m.Depth.Depth, deepest)
		}
	}
	if met < 5 {
		t.Errorf("only %d of them met", met)
	}
}
