package edit

import (
	"math"
	"math/rand/v2"
	"testing"

	"perigyre/core/motion"
	"perigyre/core/shot"
)

// randomTrack has pins joined in every way.
func randomTrack(rng *rand.Rand) shot.Track {
	t := shot.Track{Value: shot.TrackX}
	at := 2 + rng.Float64()
	for range 3 + rng.IntN(5) {
		t.Pins = append(t.Pins, shot.Pin{Time: at, Value: rng.NormFloat64(), Next: []shot.Between{shot.Straight, shot.Smooth, shot.Curves}[rng.IntN(3)]})
		at += 1 + 4*rng.Float64()
	}
	for i := range t.Pins {
		if i+1 < len(t.Pins) && t.Pins[i].Next == shot.Curves {
			long := t.Pins[i+1].Time - t.Pins[i].Time
			t.Pins[i].Out = &shot.Handle{Time: long * rng.Float64(), Value: rng.NormFloat64()}
			t.Pins[i+1].In = &shot.Handle{Time: -long * rng.Float64(), Value: rng.NormFloat64()}
		}
	}
	return t
}

// Moving, scaling and reversing all pins of a track moves, scales and reverses what it says, at every time and
// however its pins are joined; done twice a reversal is none.
func TestMovedPinsSayTheSame(t *testing.T) {
	rng := rand.New(rand.NewPCG(11, 12))
	for round := range 200 {
		s := shot.New("t")
		s.Frames, s.Ending = 200, shot.Once
		before := randomTrack(rng)
		s.Parts = []shot.Part{{ID: "a", Name: "A", Kind: shot.Group, Rest: shot.AtRest, Tracks: []shot.Track{before}}}
		scale := []float64{1, 2, 0.5, -1, -3}[rng.IntN(5)]
		edit := MovePins{Scale: scale, About: 40, By: float64(rng.IntN(20))}
		for _, p := range before.Pins {
			edit.Pins = append(edit.Pins, PinRef{Part: "a", Value: shot.TrackX, Time: p.Time})
		}
		after := apply(t, s, &edit)
		now := after.Parts[0].Tracks[0]
		for k := range 60 {
			at := before.Pins[0].Time - 1 + float64(k)*0.6
			to := 40 + (at-40)*scale + edit.By
			if a, b := motion.Sample(&before, at), motion.Sample(&now, to); math.Abs(a-b) > 1e-6 {
				t.Fatalf("round %d, scaled by %g: %g at %g becomes %g at %g", round, scale, a, at, b, to)
			}
		}
	}
}
