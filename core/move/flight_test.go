package move

import (
	"math"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/shot"
)

// A flight that closes goes over the seam as it goes between any two stops: without a jump, and without a kink in its speed.
func TestAClosingFlightHasNoSeam(t *testing.T) {
	s := shot.New("t")
	f := &Flight{Closes: true}
	for k, p := range []geom.Vec3{{3, 1, 0}, {0, 2, 3}, {-3, 1, 0}, {0, 0, -3}} {
		f.Stops = append(f.Stops, Stop{At: 10 + 24*float64(k), Position: p, Rotation: geom.LookAlong(p.Mul(-1))})
	}
	at := func(x float64) shot.Rest {
		p := shot.AtRest
		f.fly(&Context{Time: motion.At(s, x), Room: nowhere{}}, &p)
		return p
	}
	for k, stop := range f.Stops {
		if d := at(stop.At).Position.Sub(stop.Position).Len(); d > 1e-9 {
			t.Errorf("stop %d is missed by %g", k+1, d)
		}
	}
	const h = 1e-4
	speed := func(x float64) geom.Vec3 { return at(x + h).Position.Sub(at(x - h).Position).Mul(1 / (2 * h)) }
	for x := 0.0; x < 96; x += 0.5 { // also over the seam, where 96 is 0
		if d := at(x + h).Position.Sub(at(x).Position).Len(); d > 1*h {
			t.Errorf("at %g it jumps by %g", x, d)
		}
		if d := speed(x + 0.01).Sub(speed(x - 0.01)).Len(); d > 0.02 {
			t.Errorf("at %g its speed has a kink of %g a frame", x, d)
		}
		q := at(x).Rotation
		if n := math.Abs(q[0]*q[0] + q[1]*q[1] + q[2]*q[2] + q[3]*q[3] - 1); n > 1e-9 {
			t.Errorf("at %g it is no rotation", x)
		}
	}
}
