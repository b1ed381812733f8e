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
	Rate   float64 // frames a second
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
	return Time{t, n, s.Ending == shot.Loop, s.Rate.PerSecond()}
}

// BeforeSeam returns the last moment of a shot: just before frame N of a loop, or the last frame.
func BeforeSeam(s *shot.Shot) Time {
	if s.Ending == shot.Once {
		return At(s, float64(s.Frames-1))
	}
	return Time{float64(s.Frames), float64(s.Frames), true, s.Rate.PerSecond()}
}

// Later returns the time so many frames later. In a loop it is brought round; the moment before the seam
// stays before it.
func (t Time) Later(frames float64) Time {
	if frames == 0 {
		return t
	}
	t.T += frames
	if t.Loop {
		t.T -= t.Frames * math.Floor(t.T/t.Frames)
	}
	return t
}

// Backwards returns the same time seen from the other end: what a move that runs backwards sees.
func (t Time) Backwards() Time {
	if t.T = t.Frames - t.T; !t.Loop {
		t.T--
	}
	return t
}

// Whole returns progress over the whole shot: t / N in a loop, where frame N does not exist, and
// t / (N - 1) in a shot that ends, which reaches 1 on its last frame.
func (t Time) Whole() float64 {
	if t.Loop {
		return t.T / t.Frames
	}
	if t.Frames <= 1 {
		return 1
	}
	return t.T / (t.Frames - 1)
}

// Progress returns how much of a move is done. Before its span a move has done nothing; within it its progress is
// paced, as many laps of it as it makes; after it comes what the move does then, up to the seam of a loop, where time
// begins anew. Only a span that itself runs across the seam is carried over it, and what follows it with it. A move
// that carries on counts its repetitions in whole numbers.
func Progress(t Time, m *shot.Move) float64 {
	laps := float64(max(1, m.Laps))
	if m.Span == nil {
		return beyond(m, t.Whole()*laps, laps)
	}
	x := t.T - m.Span.From
	if x < 0 && t.Loop && m.Span.To > t.Frames {
		x += t.Frames // it began before the seam
	}
	if x < 0 {
		return 0
	}
	return beyond(m, x/m.Span.Long()*laps, laps)
}

// beyond returns the progress at u laps of a move that makes so many, u not below 0.
func beyond(m *shot.Move, u, laps float64) float64 {
	paced := func(u float64) float64 {
		e, _ := Pace(m.Pace, u)
		return e
	}
	lap := math.Floor(u)
	if u <= laps { // within the span: each lap adds one, or goes back where it goes there and back
		if m.After == shot.Mirrored {
			return mirrored(paced, u)
		}
		if u == laps {
			lap = math.Max(0, lap-1)
		}
		return lap + paced(u-lap)
	}
	switch m.After {
	case shot.Returns:
		return 0
	case shot.Repeats:
		at := math.Mod(u, laps)
		return math.Floor(at) + paced(at-math.Floor(at))
	case shot.CarriesOn:
		return lap + paced(u-lap)
	case shot.Mirrored:
		return mirrored(paced, u)
	}
	return laps - 1 + paced(1)
}

// mirrored goes there in one lap and back in the next.
func mirrored(paced func(float64) float64, u float64) float64 {
	lap := math.Floor(u)
	if math.Mod(lap, 2) == 1 {
		return paced(1 - (u - lap))
	}
	return paced(u - lap)
}
