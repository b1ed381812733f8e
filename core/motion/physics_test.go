package motion

import (
	"math"
	"testing"

	"perigyre/core/geom"
)

// K(k) for k^2 = 0, 0.5 and 0.99: Abramowitz and Stegun, table 17.1; sn(0.5) for k^2 = 0.5 by its
// series (16.22.1, to the seventh power, and the ninth by hand).
func TestEllipticFunctionsAgainstTables(t *testing.T) {
	for _, c := range [][2]float64{{0, 1.570796326794897}, {0.5, 1.854074677301372}, {0.99, 3.695637362989875}} {
		if got := ellipticK(math.Sqrt(c[0])); math.Abs(got-c[1]) > 1e-12 {
			t.Errorf("K(%g) = %.15f, the table says %.15f", c[0], got, c[1])
		}
	}
	for _, m := range []float64{0.1, 0.5, 0.97} { // sn' = cn dn, sn(K) = 1, cn(K) = 0
		k := math.Sqrt(m)
		if sn, cn := jacobi(ellipticK(k), k); math.Abs(sn-1) > 1e-12 || math.Abs(cn) > 1e-7 {
			t.Errorf("sn(K) = %g, cn(K) = %g for m = %g", sn, cn, m)
		}
		for u := 0.1; u < 3; u += 0.3 {
			const h = 1e-5
			a, _ := jacobi(u-h, k)
			b, _ := jacobi(u+h, k)
			sn, cn := jacobi(u, k)
			if d := (b - a) / (2 * h); math.Abs(d-cn*math.Sqrt(1-m*sn*sn)) > 1e-8 {
				t.Errorf("sn'(%g) = %g, cn dn = %g", u, d, cn*math.Sqrt(1-m*sn*sn))
			}
		}
	}
}

// Handbook: at 30 degrees either way a pendulum takes 1.74 % longer than a small swing, at 90 degrees 18.03 %.
// Its angle obeys x” = -(g / l) sin x.
func TestPendulum(t *testing.T) {
	small := 2 * math.Pi * math.Sqrt(1/Gravity)
	for degrees, longer := range map[float64]float64{30: 0.0174, 90: 0.1803} {
		if got := PendulumPeriod(1, degrees*math.Pi/180)/small - 1; math.Abs(got-longer) > 6e-5 {
			t.Errorf("at %g degrees the period is %.4g longer, handbooks say %.4g", degrees, got, longer)
		}
	}
	amplitude := 2.2
	period := PendulumPeriod(1, amplitude)
	const h = 1e-4
	for x := 0.0; x < 1; x += 0.083 {
		at := func(x float64) float64 { return Pendulum(amplitude, x) }
		second := (at(x+h) - 2*at(x) + at(x-h)) / (h * h * period * period)
		if want := -Gravity * math.Sin(at(x)); math.Abs(second-want) > 1e-3 {
			t.Errorf("at %g of the period it is sped up by %g, gravity says %g", x, second, want)
		}
	}
	if got := Pendulum(amplitude, 0.25); math.Abs(got-amplitude) > 1e-9 {
		t.Errorf("after a quarter it is at %g", got)
	}
}

// The circumference of an ellipse with half axes 2 and 1 is 8 E(sqrt(3)/2) = 9.688448220547675 (Abramowitz and
// Stegun, table 17.1: E(m = 0.75) = 1.211056027568459); on all paths equal shares are equally long.
func TestPathsByArcLength(t *testing.T) {
	if got := Ellipse(2, 1).Length; math.Abs(got-8*1.211056027568459) > 1e-9 {
		t.Errorf("the ellipse is %.12f round", got)
	}
	if got := RoundedRectangle(2, 1, 0.5).Length; math.Abs(got-(4+8-8*0.5+math.Pi)) > 1e-9 {
		t.Errorf("the rounded rectangle is %.12f round", got)
	}
	for name, p := range map[string]*Path{
		"ellipse": Ellipse(2, 0.4), "rounded": RoundedRectangle(2, 1, 0.5), "line": RoundedRectangle(1, 1, 0),
		"open":   Through([]geom.Vec3{{0, 0, 0}, {1, 0.5, 0}, {1.2, 0, 2}, {5, 0, 2}}, false),
		"closed": Through([]geom.Vec3{{0, 0, 0}, {1, 0.5, 0}, {1.2, 0, 2}, {-3, 0, 2}}, true),
	} {
		const n = 200
		for i := range n {
			a, b := float64(i)/n, float64(i+1)/n
			long := 0.0 // of the way between, by many small chords
			last, _ := p.At(a)
			const fine = 64
			for k := 1; k <= fine; k++ {
				q, d := p.At(a + (b-a)*float64(k)/fine)
				long += q.Sub(last).Len()
				last = q
				if math.Abs(d.Len()-1) > 1e-9 {
					t.Fatalf("%s: a direction is %g long", name, d.Len())
				}
			}
			if math.Abs(long/p.Length*n-1) > 2e-5 { // chords are a little short
				t.Errorf("%s: from %g to %g it is %.9g of a share", name, a, b, long/p.Length*n)
			}
		}
	}
	// Spacing itself, without chords: on the ellipse the parameter after each share against the length up to it.
	p := Ellipse(2, 1)
	for i := 1; i < 40; i++ {
		q, _ := p.At(float64(i) / 40)
		u := math.Atan2(q[0]/2, q[2]) / (2 * math.Pi)
		if u < 0 {
			u++
		}
		sum, knot := 0.0, 0.0
		for knot+1.0/64 < u {
			sum += p.arc(knot, knot+1.0/64)
			knot += 1.0 / 64
		}
		if sum += p.arc(knot, u); math.Abs(sum/p.Length-float64(i)/40) > 1e-9 {
			t.Errorf("share %d of 40 is at %.12f", i, sum/p.Length)
		}
	}
}

// A drawn path: the circle of four SVG arcs is as long as a circle and travelled evenly.
func TestDrawnPath(t *testing.T) {
	p, err := Drawn("M10 0A10 10 0 0 1 0 10A10 10 0 0 1 -10 0A10 10 0 0 1 0 -10A10 10 0 0 1 10 0Z", 2)
	if err != nil {
		t.Fatal(err)
	}
	if !p.Closed || math.Abs(p.Length-2*math.Pi) > 1e-8 {
		t.Fatalf("a circle of radius 1 is %g long, closed %v", p.Length, p.Closed)
	}
	var last geom.Vec3
	for i := range 101 {
		q, _ := p.At(float64(i) / 100)
		if i > 0 {
			if d := q.Sub(last).Len() / (2 * math.Sin(math.Pi/100)); math.Abs(d-1) > 1e-6 {
				t.Fatalf("step %d is %g of the others", i, d)
			}
		}
		last = q
	}
}
