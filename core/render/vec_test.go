package render

import (
	"math"
	"math/rand/v2"
	"testing"
)

// The quick functions against those of the standard library, in double precision.
func TestQuickFunctions(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 1))
	for range 100_000 {
		x := rng.Float32()
		cos, sin := circle(x)
		if s, c := math.Sincos(2 * math.Pi * float64(x)); math.Abs(s-float64(sin)) > 1e-6 || math.Abs(c-float64(cos)) > 1e-6 {
			t.Fatalf("at %g of a turn: %g and %g, not %g and %g", x, cos, sin, c, s)
		}
		if x *= 90; rng.IntN(100) == 0 {
			x = 0
		}
		if got, want := float64(decay(x)), math.Exp(-float64(x)); math.Abs(got-want) > 8e-6*want+2e-35 {
			t.Fatalf("e to the -%g is %g, not %g", x, got, want)
		}
	}
}
