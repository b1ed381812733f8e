package motion

import (
	"math"

	"perigyre/core/shot"
)

// Time is a moment of a shot. In a loop T runs from 0 up to and including Frames: T = Frames is the
// moment just before the seam, which is never rendered but is what the seam is checked against.
type Time struct {
	T      float64 // frames
	Frames float64 // length of the shot
	Loop   bool
}

// At returns the time t, in frames, of a shot. In a loop any t is brought into [0, Frames).
func At(s *shot.Shot, t float64) Time {
	n := float64(s.Frames)
	if s.Ending == shot.Loop {
		t = math.Mod(t, n)
		if t < 0 {
			t += n
		}
	}
	return Time{t, n, s.Ending == shot.Loop}
}

// BeforeSeam returns the last moment of a shot: just before frame N of a loop, or the last frame.
func BeforeSeam(s *shot.Shot) Time {
	if s.Ending == shot.Once {
		return At(s, float64(s.Frames-1))
	}
	return Time{float64(s.Frames), float64(s.Frames), true}
}

// whole returns progress over the whole shot: t / N in a loop, where frame N does not exist, and
// t / (N - 1) in a shot that ends, which reaches 1 on its last frame.
func (t Time) whole() float64 {
	if t.Loop {
		return t.T / t.Frames
	}
	if t.Frames <= 1 {
		return 1
	}
	return t.T / (t.Frames - 1)
}

// Progress returns how much of a move is done: paced progress over its span, and after the span
// what the move does then. A move that carries on counts its repetitions in whole numbers.
func Progress(t Time, span *shot.Span, pace shot.Pace, after shot.After) float64 {
	u := t.whole()
	if span != nil {
		x := t.T - span.From
		if x < 0 && t.Loop {
			x += t.Frames // what began before the seam is still going on
		}
		u = x / (span.To - span.From)
	}
	if u < 0 {
		u = 0
	}
	if u > 1 {
		lap := math.Floor(u)
		switch after {
		case shot.Returns:
			return 0
		case shot.Repeats:
			e, _ := Pace(pace, u-lap)
			return e
		case shot.CarriesOn:
			e, _ := Pace(pace, u-lap)
			return lap + e
		}
		u = 1
	}
	e, _ := Pace(pace, u)
	return e
}
