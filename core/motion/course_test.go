package motion

import (
	"math/rand/v2"
	"slices"
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
		axes := [3]shot.Track{tr, tr, tr} // one of them goes its own way
		axes[0].Value, axes[2].Value, axes[2].Pins = shot.TrackX, shot.TrackZ, slices.Clone(tr.Pins)
		for k := range axes[2].Pins {
			axes[2].Pins[k].Value, axes[2].Pins[k].Next = rng.NormFloat64(), shot.Straight
		}
		places := NewCourses(append(axes[:], turns))
		if len(places) != 2 {
			t.Fatalf("tracks with pins at the same times make %d courses", len(places))
		}
		times := []float64{tr.Pins[0].Time, tr.Pins[len(tr.Pins)-1].Time, -3, 80}
		for range 20 {
			times = append(times, rng.Float64()*60)
		}
		for _, x := range times {
			if c.value(x) != Sample(&tr, x) || q.turn(x) != SampleTurn(&turns, x) {
				t.Fatalf("at %g: %g and %v, not %g and %v", x, c.value(x), q.turn(x), Sample(&tr, x), SampleTurn(&turns, x))
			}
			r := shot.AtRest
			for k := range places {
				places[k].Apply(Time{T: x}, 2, &r)
			}
			if want := (geom.Vec3{2 * Sample(&axes[0], x), 2 * Sample(&axes[1], x), 2 * Sample(&axes[2], x)}); r.Position != want || r.Rotation != SampleTurn(&turns, x) {
				t.Fatalf("at %g: a part stands at %v turned by %v, its tracks say %v and %v", x, r.Position, r.Rotation, want, SampleTurn(&turns, x))
			}
		}
	}
}
