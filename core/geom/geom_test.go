package geom

import (
	"math"
	"math/rand/v2"
	"testing"
)

// The smallest enclosing circle against brute force: the smallest of all circles on pairs and
// triples that holds every point.
func TestEnclosingCircleAgainstBruteForce(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 4))
	for round := 0; round < 300; round++ {
		n := 2 + rng.IntN(12)
		pts := make([]Vec2, n)
		for i := range pts {
			pts[i] = Vec2{rng.NormFloat64() + 1000, rng.NormFloat64() * 0.3}
			if round%5 == 0 { // on a grid: many ties, repeated points and points on a line
				pts[i] = Vec2{float64(rng.IntN(4)), float64(rng.IntN(3))}
			}
		}
		best := math.Inf(1)
		try := func(c Circle) {
			for _, p := range pts {
				if p.Sub(c.Centre).Len() > c.Radius*(1+1e-9)+1e-12 {
					return
				}
			}
			best = math.Min(best, c.Radius)
		}
		for i := range pts {
			for j := i; j < n; j++ {
				try(diameterCircle(pts[i], pts[j]))
				for k := j + 1; k < n; k++ {
					try(circumcircle(pts[i], pts[j], pts[k]))
				}
			}
		}
		got := EnclosingCircle(pts)
		if math.Abs(got.Radius-best) > 1e-9*(1+best) {
			t.Fatalf("round %d: radius %v, brute force %v for %v", round, got.Radius, best, pts)
		}
	}
}

func TestMatrixAndQuaternionAgree(t *testing.T) {
	rng := rand.New(rand.NewPCG(5, 6))
	for i := 0; i < 200; i++ {
		q := Quat{rng.NormFloat64(), rng.NormFloat64(), rng.NormFloat64(), rng.NormFloat64()}.Unit()
		pos := Vec3{rng.NormFloat64(), rng.NormFloat64(), rng.NormFloat64()}
		size := Vec3{1 + rng.Float64(), 0.5 + rng.Float64(), 2 + rng.Float64()}
		if i%2 == 0 {
			size[0] = -size[0]
		}
		v := Vec3{rng.NormFloat64(), rng.NormFloat64(), rng.NormFloat64()}
		m := TRS(pos, q, size)
		want := q.Rotate(Vec3{v[0] * size[0], v[1] * size[1], v[2] * size[2]}).Add(pos)
		if d := m.Point(v).Sub(want).Len(); d > 1e-12 {
			t.Fatalf("TRS and Rotate differ by %g", d)
		}
		inv, ok := m.Inverse()
		if d := inv.Point(m.Point(v)).Sub(v).Len(); !ok || d > 1e-11 {
			t.Fatalf("inverse is off by %g", d)
		}
		p2, q2, s2, exact := m.Decompose()
		if d := TRS(p2, q2, s2).Point(v).Sub(want).Len(); !exact || d > 1e-11 {
			t.Fatalf("decomposing and composing moves a point by %g", d)
		}
	}
}

// A quarter turn about +Y takes +Z to +X: counter-clockwise seen from above (glTF 2.0, 3.3).
func TestPositiveAngleIsCounterClockwiseFromTheTip(t *testing.T) {
	got := AxisAngle(Vec3{0, 1, 0}, math.Pi/2).Rotate(Vec3{0, 0, 1})
	if got.Sub(Vec3{1, 0, 0}).Len() > 1e-15 {
		t.Fatalf("got %v", got)
	}
}

// On an arc of any length, however the signs of its ends were chosen, the rotation at s is the first turned on about one axis by s times
// the angle (glTF 2.0, C.4: constant speed on the shorter way), to a few units of the last digit: with angles that a cosine cannot tell
// from none, and with nearly half a turn.
func TestArcsTurnEvenlyAboutOneAxis(t *testing.T) {
	rng := rand.New(rand.NewPCG(11, 4))
	for _, angle := range []float64{0, 1e-300, 1e-16, 1e-12, 1e-9, 1e-6, 1e-3, 0.1, 1, 2, 3, math.Pi - 1e-6} {
		for range 200 {
			axis := Vec3{rng.NormFloat64(), rng.NormFloat64(), rng.NormFloat64()}
			from := AxisAngle(Vec3{rng.NormFloat64(), 1, rng.NormFloat64()}, 6*rng.Float64())
			to := AxisAngle(axis, angle).Mul(from)
			if rng.IntN(2) == 0 {
				to = Quat{-to[0], -to[1], -to[2], -to[3]}
			}
			arc := NewArc(from, to)
			for _, s := range []float64{0, rng.Float64(), 0.5, 1} {
				got, want := arc.At(s), AxisAngle(axis, s*angle).Mul(from)
				worst, length := 0.0, 0.0
				for k := range got {
					worst, length = math.Max(worst, math.Abs(got[k]-want[k])), length+got[k]*got[k]
				}
				if worst > 1e-15+2e-16/math.Cos(angle/2) || math.Abs(length-1) > 2e-15 {
					t.Fatalf("%g of an angle of %g: %v, length %g, not %v (off by %g)", s, angle, got, length, want, worst)
				}
			}
		}
	}
}
