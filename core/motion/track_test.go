package motion

import (
	"math"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

// A cubic spline by the formula of the glTF 2.0 specification, Appendix C.5, against the curve with
// handles that it becomes.
func TestCurveAgainstCubicSpline(t *testing.T) {
	const va, vb, ta, tb, from, to = 0.3, -1.2, 2.5, -0.4, 10.0, 16.0
	td := to - from
	tr := &shot.Track{Value: shot.TrackX, Pins: []shot.Pin{
		{Time: from, Value: va, Next: shot.Curves, Out: &shot.Handle{Time: td / 3, Value: ta * td / 3}},
		{Time: to, Value: vb, In: &shot.Handle{Time: -td / 3, Value: -tb * td / 3}},
	}}
	for x := from; x <= to; x += 0.37 {
		s := (x - from) / td
		want := (2*s*s*s-3*s*s+1)*va + td*(s*s*s-2*s*s+s)*ta + (-2*s*s*s+3*s*s)*vb + td*(s*s*s-s*s)*tb
		if got := Sample(tr, x); math.Abs(got-want) > 1e-12 {
			t.Errorf("at %g: %g, the formula says %g", x, got, want)
		}
	}
	// Handles off the thirds: the value is where the curve is at that time, found here by halving.
	tr.Pins[0].Out.Time, tr.Pins[1].In.Time = td*0.9, -td*0.8
	for x := from + 0.1; x < to; x += 0.37 {
		lo, hi := 0.0, 1.0
		for range 60 {
			m := (lo + hi) / 2
			if Cubic(from, from+td*0.9, to-td*0.8, to, m) < x {
				lo = m
			} else {
				hi = m
			}
		}
		want := Cubic(va, va+ta*td/3, vb-tb*td/3, vb, lo)
		if got := Sample(tr, x); math.Abs(got-want) > 1e-9 {
			t.Errorf("at %g: %g, halving finds %g", x, got, want)
		}
	}
}

func TestBeyondThePins(t *testing.T) {
	tr := &shot.Track{Value: shot.TrackX, Pins: []shot.Pin{{Time: 10, Value: 1}, {Time: 20, Value: 3}}}
	turn := &shot.Track{Value: shot.TrackOrientation, Pins: []shot.Pin{
		{Time: 10, Turn: &geom.Quat{0, 0, 0, 1}}, {Time: 20, Turn: &geom.Quat{0, math.Sin(math.Pi / 4), 0, math.Cos(math.Pi / 4)}}}}
	for _, c := range []struct {
		how         shot.Beyond
		at, v, turn float64 // the turn in quarters
	}{
		{shot.BeyondHold, 0, 1, 0}, {shot.BeyondHold, 35, 3, 1}, {shot.BeyondHold, 15, 2, 0.5},
		{shot.BeyondRepeat, 22, 1.4, 0.2}, {shot.BeyondRepeat, 4, 1.8, 0.4},
		{shot.BeyondCarryOn, 35, 1 + 5, 2.5}, {shot.BeyondCarryOn, 5, 0, -0.5},
		{shot.BeyondMirrored, 22, 2.6, 0.8}, {shot.BeyondMirrored, 32, 1.4, 0.2}, {shot.BeyondMirrored, 8, 1.4, 0.2},
	} {
		tr.Before, tr.After, turn.Before, turn.After = c.how, c.how, c.how, c.how
		if got := Sample(tr, c.at); math.Abs(got-c.v) > 1e-12 {
			t.Errorf("%q at %g: %g, want %g", c.how, c.at, got, c.v)
		}
		want := geom.AxisAngle(geom.Vec3{0, 1, 0}, c.turn*math.Pi/2)
		if got := SampleTurn(turn, c.at); math.Abs(math.Abs(got[1]*want[1]+got[3]*want[3])-1) > 1e-12 {
			t.Errorf("%q at %g: %v, want %v", c.how, c.at, got, want)
		}
	}
}
