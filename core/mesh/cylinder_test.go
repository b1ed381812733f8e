package mesh

import (
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"perigyre/core/geom"
)

// Fitted axes against construction: a tube with a bore, turned and moved at random; its outside and
// its bore give the axis and their radii from any of their faces, and its flat ends are refused.
func TestFitCylinderAgainstConstruction(t *testing.T) {
	rng := rand.New(rand.NewPCG(4, 2))
	for round := range 20 {
		tube := Lathe([]geom.Vec2{{0.01, 0}, {0.02, 0}, {0.02, 0.05}, {0.01, 0.05}, {0.01, 0}}, 16+rng.IntN(60), DefaultCrease)
		m := geom.TRS(geom.Vec3{rng.NormFloat64(), rng.NormFloat64(), rng.NormFloat64()}, geom.AxisAngle(geom.Vec3{rng.NormFloat64(), rng.NormFloat64(), 1}, rng.Float64()*6), geom.Vec3{1, 1, 1})
		tube.Transform(m)
		axis := m.Column(1)
		flat := 0
		for range 20 {
			k := rng.IntN(tube.Triangles())
			c, err := tube.FitCylinder(k)
			if err != nil {
				if !strings.Contains(err.Error(), "flat") {
					t.Fatal(round, err)
				}
				flat++
				continue
			}
			d := c.Centre.Sub(m.Point(geom.Vec3{0, 0.025, 0})).Len()
			if math.Abs(math.Abs(c.Axis.Dot(axis))-1) > 1e-6 || d > 1e-6 || math.Min(math.Abs(c.Radius-0.01), math.Abs(c.Radius-0.02)) > 1e-6 {
				t.Fatalf("round %d: axis %v for %v, radius %g, centre off by %g", round, c.Axis, axis, c.Radius, d)
			}
		}
		if flat == 20 {
			t.Fatal("no round face was found")
		}
	}
}
