// Package loop proves that a shot closes: that frame N, which is never rendered, is frame 0.
package loop

import (
	"fmt"
	"math"
	"strings"

	"perigyre/core/motion"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// Closing says whether a move comes back to its start over the shot, in words, and what would mend
// it if it does not.
type Closing struct {
	Move   string  `json:"move"`
	Part   string  `json:"part"`
	Closes bool    `json:"closes"`
	Laps   float64 `json:"laps"` // how often the move repeats over the shot, where that can be said
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
	e := pose.New(s)
	for i := range s.Parts {
		for j := range s.Parts[i].Moves {
			if m := &s.Parts[i].Moves[j]; !m.Muted {
				c := closing(e, i, j)
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

func closing(e *pose.Evaluator, i, j int) Closing {
	s, m := e.Shot, &e.Shot.Parts[i].Moves[j]
	if m.Turntable != nil { // whole turns over the whole shot, by construction
		return Closing{Closes: true, Laps: float64(m.Turntable.Turns), Words: fmt.Sprintf("closes: %s in %d frames", laps(m.Turntable.Turns), s.Frames)}
	}
	n, often := repeats(s, m)
	angle, way, size := jump(e, i, j)
	if angle < 1e-6 && way < 1e-9 && size < 1e-6 {
		return Closing{Closes: true, Laps: n, Words: "closes: " + closed(m, n, often)}
	}
	var off []string
	if angle >= 1e-6 {
		off = append(off, fmt.Sprintf("%.4g degrees", angle*180/math.Pi))
	}
	if way >= 1e-9 {
		off = append(off, fmt.Sprintf("%.4g mm", way*1000))
	}
	if len(off) == 0 {
		what := "in size"
		if m.Look != nil {
			what = "of its change"
		}
		off = append(off, fmt.Sprintf("%.3g %% %s", size*100, what))
	}
	words := fmt.Sprintf("does not close: it jumps %s at the seam", strings.Join(off, " and "))
	if often && !whole(n) {
		words = fmt.Sprintf("does not close: %d / %.4g = %.4g laps", s.Frames, float64(s.Frames)/n, n)
	}
	c := Closing{Laps: n, Words: words}
	for _, mend := range mends(s, e, i, m, n, often) {
		changed, _, err := mend.Edit.Apply(s)
		if err != nil {
			continue
		}
		// What is offered is tried first.
		again := pose.New(changed)
		a, w, z := jump(again, i, j)
		if a < 1e-6 && w < 1e-9 && z < 1e-6 {
			c.Mends = appendNew(c.Mends, mend)
		}
	}
	return c
}

// jump returns how far a move alone throws its part where time begins anew: at the seam, and where its span
// begins again. The angle is in radians, the way in the parent's metres, the size a share.
func jump(e *pose.Evaluator, i, j int) (angle, way, size float64) {
	m := &e.Shot.Parts[i].Moves[j]
	compare := func(a, b shot.Rest) {
		q := a.Rotation.Unit().Mul(b.Rotation.Unit().Inverse())
		angle = math.Max(angle, 2*math.Atan2(math.Sqrt(q[0]*q[0]+q[1]*q[1]+q[2]*q[2]), math.Abs(q[3])))
		way = math.Max(way, a.Position.Sub(b.Position).Len())
		for k := range a.Size {
			size = math.Max(size, math.Abs(a.Size[k]-b.Size[k]))
		}
	}
	if m.Flex != nil || m.Look != nil {
		return jumped(e.Shot, m)
	}
	before, first := motion.BeforeSeam(e.Shot), motion.At(e.Shot, 0)
	compare(e.Alone(i, j, before), e.Alone(i, j, first))
	if m.Span != nil && m.After != shot.Returns {
		// The moment before the span begins anew is a whole shot after it began.
		t := first
		t.T = m.Span.From + t.Frames
		begin := first
		begin.T = m.Span.From
		compare(e.Alone(i, j, t), e.Alone(i, j, begin))
	}
	return angle, way, size
}

// jumped is the jump of a move that does not move its part but bends it or changes its look: an angle, or a
// share of the change.
func jumped(s *shot.Shot, m *shot.Move) (angle, way, size float64) {
	value := func(t motion.Time) float64 {
		if m.Flex != nil {
			return motion.FlexAngle(m, t)
		}
		return motion.Progress(t, m)
	}
	off := math.Abs(value(motion.BeforeSeam(s)) - value(motion.At(s, 0)))
	if m.Span != nil && m.After != shot.Returns {
		begin := motion.At(s, 0)
		begin.T = m.Span.From
		late := begin
		late.T += late.Frames
		off = math.Max(off, math.Abs(value(late)-value(begin)))
	}
	if m.Flex != nil {
		return off, 0, 0
	}
	return 0, 0, off
}

// repeats returns how often a move with a period of its own repeats over the shot.
func repeats(s *shot.Shot, m *shot.Move) (n float64, often bool) {
	switch {
	case m.Float != nil:
		return float64(s.Frames) / m.Float.Period, true
	case m.Swing != nil:
		return float64(s.Frames) / motion.SwingPeriod(m.Swing, s.Rate.PerSecond()), true
	case m.Turn != nil:
		return m.Turn.Turns, false
	}
	return 1, false
}

func closed(m *shot.Move, n float64, often bool) string {
	switch {
	case often:
		return times(int(math.Round(n)))
	case m.Turn != nil && n == 0:
		return "it does not turn"
	case m.Turn != nil && whole(n):
		return laps(int(math.Round(math.Abs(n))))
	case m.After == shot.Mirrored:
		return "it goes there and back"
	case m.After == shot.Returns:
		return "it returns"
	}
	return "it ends as it begins"
}

// mends returns what might make a move close; each is tried before it is offered.
func mends(s *shot.Shot, e *pose.Evaluator, i int, m *shot.Move, n float64, often bool) (out []Mend) {
	change := func(words string, with func(c *shot.Move)) {
		c := m.Copy()
		with(c)
		out = append(out, Mend{words, shot.Edit{SetMove: &shot.SetMove{Move: *c}}})
	}
	frames := float64(s.Frames)
	if often {
		for _, k := range []float64{math.Max(1, math.Floor(n)), math.Ceil(n)} {
			period := frames / k
			switch {
			case m.Float != nil:
				change(fmt.Sprintf("Every %.4g f", period), func(c *shot.Move) { c.Float.Period = period })
			case m.Swing.Shape == "pendulum" && m.Swing.Length > 0:
				length := m.Swing.Length * math.Pow(n/k, 2)
				change(fmt.Sprintf("%.4g mm long", length*1000), func(c *shot.Move) { c.Swing.Length = length })
			default:
				change(fmt.Sprintf("Every %.4g f", period), func(c *shot.Move) { c.Swing.Period = period })
			}
		}
		if length := math.Round(n) * frames / n; length >= 1 && whole(length) {
			out = append(out, Mend{fmt.Sprintf("Shot of %.0f f", length), shot.Edit{SetTiming: &shot.SetTiming{Frames: int(math.Round(length)), Rate: s.Rate, Ending: s.Ending}}})
		}
		return out
	}
	round := func(what string, v float64, set func(c *shot.Move, k float64)) {
		for _, k := range []float64{math.Floor(v), math.Ceil(v)} {
			if k != 0 {
				change(fmt.Sprintf("Make it %s", counted(what, k)), func(c *shot.Move) { set(c, k) })
				change(fmt.Sprintf("Make it %s, over the whole loop", counted(what, k)), func(c *shot.Move) {
					set(c, k)
					c.Span, c.After, c.Laps = nil, shot.Stays, 0
				})
			}
		}
	}
	switch {
	case m.Turn != nil:
		round("turn", m.Turn.Turns, func(c *shot.Move, k float64) { c.Turn.Turns = k })
	case m.Orbit != nil:
		round("turn", m.Orbit.Turns, func(c *shot.Move, k float64) { c.Orbit.Turns = k })
		round("turn", m.Orbit.Turns, func(c *shot.Move, k float64) { c.Orbit.Turns, c.Orbit.Waves = k, math.Round(c.Orbit.Waves) })
	case m.Travel != nil && m.Travel.Path != "points":
		round("lap", m.Travel.To-m.Travel.From, func(c *shot.Move, k float64) { c.Travel.To = c.Travel.From + k })
	case m.Gear != nil:
		if d := s.Part(m.Gear.Driver); d != nil {
			for j := range d.Moves {
				dm := d.Moves[j].Copy()
				for k := 1; k <= m.Gear.Den && k <= 1000; k++ {
					if k*m.Gear.Num%m.Gear.Den != 0 {
						continue
					}
					switch {
					case dm.Turn != nil:
						dm.Turn.Turns = float64(k)
					case dm.Turntable != nil:
						t := *dm.Turntable
						t.Turns, dm.Turntable = k, &t
					default:
						continue
					}
					out = append(out, Mend{fmt.Sprintf("%s makes %s", d.Name, counted("turn", float64(k))), shot.Edit{SetMove: &shot.SetMove{Move: *dm}}})
					break
				}
			}
		}
		return out
	}
	change("Go there and back", func(c *shot.Move) {
		c.After, c.Laps = shot.Mirrored, 0
		if c.Span == nil {
			c.Laps = 2
		} else if c.Laps = 1; 2*(c.Span.To-c.Span.From) > frames {
			c.Span, c.Laps = nil, 2
		} else {
			c.Laps, c.Span.To = 2, c.Span.From+2*(c.Span.To-c.Span.From)
		}
	})
	change("Return at the end", func(c *shot.Move) {
		if c.Span == nil {
			c.Span = &shot.Span{From: 0, To: math.Max(1, frames-1)}
		}
		c.After = shot.Returns
	})
	if m.Reveal != nil {
		return out[:0]
	}
	return out
}

func counted(what string, k float64) string {
	if k == 1 {
		return "1 " + what
	}
	return fmt.Sprintf("%g %ss", k, what)
}

func appendNew(list []Mend, m Mend) []Mend {
	for _, o := range list {
		if o.Words == m.Words || o.Words+", over the whole loop" == m.Words {
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
