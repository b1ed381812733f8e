package mesh

import (
	"math"
	"math/rand/v2"
	"testing"

	"perigyre/core/geom"
)

// A cage whose points stay is no deformation; where they are moved, a point is where the polynomials of the paper put it, from the
// lattice itself and not from how far it was moved; an even shift is one of everything, outside too.
func TestCage(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 4))
	v := func() geom.Vec3 { return geom.Vec3{rng.NormFloat64(), rng.NormFloat64(), rng.NormFloat64()} }
	choose := func(n, i int) float64 {
		return math.Round(math.Gamma(float64(n+1)) / math.Gamma(float64(i+1)) / math.Gamma(float64(n-i+1)))
	}
	for range 40 {
		c := Cage{Low: v(), Size: geom.Vec3{1 + rng.Float64(), 0.5 + rng.Float64(), 2 * rng.Float64()}, N: [3]int{2 + rng.IntN(7), 2 + rng.IntN(7), 2 + rng.IntN(7)}}
		c.Offsets = make([]geom.Vec3, c.N[0]*c.N[1]*c.N[2])
		u := geom.Vec3{rng.Float64(), rng.Float64(), rng.Float64()}
		p := c.Low.Add(geom.Vec3{u[0] * c.Size[0], u[1] * c.Size[1], u[2] * c.Size[2]})
		if got := c.Point(p); got.Sub(p).Len() > 1e-12 {
			t.Fatalf("at rest %v goes to %v", p, got)
		}
		for i := range c.Offsets {
			c.Offsets[i] = v()
		}
		var want geom.Vec3
		i := 0
		for z := range c.N[2] {
			for y := range c.N[1] {
				for x := range c.N[0] {
					w, at := 1.0, [3]int{x, y, z}
					var lattice geom.Vec3
					for a, k := range at {
						n := c.N[a] - 1
						w *= choose(n, k) * math.Pow(u[a], float64(k)) * math.Pow(1-u[a], float64(n-k))
						lattice[a] = c.Low[a] + c.Size[a]*float64(k)/float64(n)
					}
					want = want.Add(lattice.Add(c.Offsets[i]).Mul(w))
					i++
				}
			}
		}
		if got := c.Point(p); got.Sub(want).Len() > 1e-9*(1+want.Len()) {
			t.Fatalf("a cage of %v puts %v at %v, not at %v", c.N, p, got, want)
		}
		by := v()
		for i := range c.Offsets {
			c.Offsets[i] = by
		}
		far := v().Mul(10)
		if got := c.Point(far); got.Sub(far.Add(by)).Len() > 1e-9 {
			t.Fatalf("shifted by %v, %v goes to %v", by, far, got)
		}
	}
}
