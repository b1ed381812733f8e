// Package loop proves that a shot closes: that frame N, which is never rendered, is frame 0.
package loop

import (
	"fmt"
	"math"

	"perigyre/core/motion"
	"perigyre/core/shot"
)

// Closing says whether a move comes back to its start over the shot, in words, and what would mend
// it if it does not.
type Closing struct {
	Move   string  `json:"move"`
	Part   string  `json:"part"`
	Closes bool    `json:"closes"`
	Laps   float64 `json:"laps"` // how often the move repeats over the shot
	Words  string  `json:"words"`
	Mends  []Mend  `json:"mends"`
}

// Mend is an edit that makes a move close, and what it will change.
type Mend struct {
	Words string    `json:"words"`
	Edit  shot.Edit `json:"edit"`
}

// whole reports whether v is a whole number to within rounding.
func whole(v float64) bool { return math.Abs(v-math.Round(v)) < 1e-9*math.Max(1, math.Abs(v)) }

// Closings looks at every move of the shot that is not muted. A shot that ends has nothing to close.
func Closings(s *shot.Shot) []Closing {
	out := []Closing{}
	if s.Ending != shot.Loop {
		return out
	}
	for i := range s.Parts {
		for j := range s.Parts[i].Moves {
			if m := &s.Parts[i].Moves[j]; !m.Muted {
				c := closing(s, m)
				c.Move, c.Part = m.ID, s.Parts[i].ID
				if c.Mends == nil {
					c.Mends = []Mend{}
				}
				out = append(out, c)
			}
		}
	}
	return out
}

func closing(s *shot.Shot, m *shot.Move) Closing {
	n := float64(s.Frames)
	switch m.Kind {
	case shot.KindTurn:
		return turnClosing(s, m)
	case shot.KindFloat:
		laps := n / m.Float.Period
		if whole(laps) {
			return Closing{Closes: true, Laps: laps, Words: "closes: " + times(int(math.Round(laps)))}
		}
		c := Closing{Laps: laps, Words: fmt.Sprintf("does not close: %d / %.4g = %.4g laps", s.Frames, m.Float.Period, laps)}
		for _, k := range []float64{math.Max(1, math.Floor(laps)), math.Ceil(laps)} {
			changed := *m
			f := *m.Float
			f.Period = n / k
			changed.Float = &f
			c.Mends = appendNew(c.Mends, Mend{fmt.Sprintf("Every %.4g f", f.Period), shot.Edit{SetMove: &shot.SetMove{Move: changed}}})
		}
		if length := math.Round(laps) * m.Float.Period; length >= 1 && whole(length) {
			c.Mends = append(c.Mends, Mend{fmt.Sprintf("Shot of %.0f f", length), shot.Edit{SetTiming: &shot.SetTiming{Frames: int(math.Round(length)), Rate: s.Rate, Ending: s.Ending}}})
		}
		return c
	}
	// A turntable closes by construction: it makes whole turns over the whole shot.
	return Closing{Closes: true, Laps: float64(m.Turntable.Turns), Words: fmt.Sprintf("closes: %s in %d frames", laps(m.Turntable.Turns), s.Frames)}
}

// turnClosing measures the angle just before the seam against the angle on frame 0.
func turnClosing(s *shot.Shot, m *shot.Move) Closing {
	t := m.Turn
	gap := t.Turns * (motion.Progress(motion.BeforeSeam(s), t.Span, t.Pace, t.After) - motion.Progress(motion.At(s, 0), t.Span, t.Pace, t.After))
	inside := 0.0 // the jump where a span that runs over the seam begins again
	if t.Span != nil && t.After != shot.Returns {
		before := motion.At(s, t.Span.From)
		before.T += before.Frames
		inside = t.Turns * motion.Progress(motion.Time{T: t.Span.From + before.Frames, Frames: before.Frames, Loop: true}, t.Span, t.Pace, t.After)
	}
	if whole(gap) && whole(inside) {
		words := "closes: " + laps(int(math.Round(math.Abs(t.Turns))))
		if t.Turns == 0 {
			words = "closes: it does not turn"
		}
		return Closing{Closes: true, Laps: t.Turns, Words: words}
	}
	c := Closing{Laps: t.Turns, Words: fmt.Sprintf("does not close: it jumps %.4g degrees at the seam", 360*math.Abs(nearest(gap)+nearest(inside)))}
	for _, k := range []float64{math.Floor(t.Turns), math.Ceil(t.Turns)} {
		if k == 0 || t.After == shot.Repeats {
			continue
		}
		changed := *m
		turn := *t
		turn.Turns = k
		if t.After == shot.CarriesOn { // repetitions must fit the shot too
			turn.Span, turn.After = nil, shot.Stays
		}
		changed.Turn = &turn
		c.Mends = appendNew(c.Mends, Mend{fmt.Sprintf("Make it %s", turns(k)), shot.Edit{SetMove: &shot.SetMove{Move: changed}}})
	}
	return c
}

// nearest returns the distance from the nearest whole number.
func nearest(v float64) float64 { return v - math.Round(v) }

func appendNew(list []Mend, m Mend) []Mend {
	for _, o := range list {
		if o.Words == m.Words {
			return list
		}
	}
	return append(list, m)
}

func times(n int) string {
	switch n {
	case 1:
		return "once in the loop"
	case 2:
		return "twice in the loop"
	}
	return fmt.Sprintf("%d times in the loop", n)
}

func laps(n int) string {
	if n == 1 {
		return "one lap"
	}
	return fmt.Sprintf("%d laps", n)
}

func turns(k float64) string {
	if k == 1 {
		return "1 turn"
	}
	return fmt.Sprintf("%g turns", k)
}
