package motion

import (
	"math"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

// A full turn comes back whichever sign its last quaternion has: q and -q are one rotation. Files have both.
func TestAFullTurnRepeatsWhicheverSignItEndsWith(t *testing.T) {
	up := geom.Vec3{0, 1, 0}
	for _, sign := range []float64{1, -1} {
		for _, beyond := range []shot.Beyond{shot.BeyondRepeat, shot.BeyondCarryOn} {
			tr := &shot.Track{Before: beyond, After: beyond}
			for k := range 5 {
				q := geom.AxisAngle(up, float64(k)*math.Pi/2)
				if k == 4 {
					q = geom.Quat{sign * 0, sign * 0, sign * 0, sign}
				}
				tr.Pins = append(tr.Pins, shot.Pin{Time: float64(10 * k), Turn: &q, Next: shot.Straight})
			}
			for _, lap := range []float64{-3, -1, 0, 1, 2, 7} {
				for _, u := range []float64{0, 3, 17, 31, 39.5} {
					got, want := SampleTurn(tr, 40*lap+u), geom.AxisAngle(up, u/40*2*math.Pi)
					if d := math.Abs(got[0]*want[0] + got[1]*want[1] + got[2]*want[2] + got[3]*want[3]); d < 1-1e-12 {
						t.Errorf("sign %g, %s, lap %g, %g: %v instead of %v", sign, beyond, lap, u, got, want)
					}
				}
			}
		}
	}
}
