package motion

import (
	"math/rand/v2"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

// A track made ready says to the bit what the track itself says, at its pins, between and beyond them.
func TestCoursesSayWhatTracksSay(t *testing.T) {
	rng := rand.New(rand.NewPCG(5, 6))
	for range 200 {
		tr, turns := shot.Track{Value: shot.TrackY}, shot.Track{Value: shot.TrackOrientation}
		at := rng.Float64() * 5
		for range 1 + rng.IntN(5) {
			next := []shot.Between{shot.Straight, shot.Smooth, shot.Holds}[rng.IntN(3)]
			q := geom.AxisAngle(geom.Vec3{rng.NormFloat64(), 1, 0}, rng.Float64()*6)
			tr.Pins = append(tr.Pins, shot.Pin{Time: at, Value: rng.NormFloat64(), Next: next})
			turns.Pins = append(turns.Pins, shot.Pin{Time: at, Turn: &q})
			at += 1 + rng.Float64()*9
		}
		tr.After = []shot.Beyond{shot.BeyondHold, shot.BeyondRepeat, shot.BeyondCarryOn, shot.BeyondMirrored}[rng.IntN(4)]
		turns.After = tr.After
		c, q := NewCourse(&tr), NewCourse(&turns)
		times := []float64{tr.Pins[0].Time, tr.Pins[len(tr.Pins)-1].Time, -3, 80}
		for range 20 {
			times = append(times, rng.Float64()*60)
		}
		for _, x := range times {
			if c.value(x) != Sample(&tr, x) || q.turn(x) != SampleTurn(&turns, x) {
				t.Fatalf("at %g: %g and %v, not %g and %v", x, c.value(x), q.turn(x), Sample(&tr, x), SampleTurn(&turns, x))
			}
		}
	}
}
