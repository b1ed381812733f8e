package move

import (
	"fmt"
	"math"

	"perigyre/core/motion"
	"perigyre/core/shot"
)

// Mend is a change that may make a move come back to its beginning: moves that take the place of those with their
// ids, or another length of the shot.
type Mend struct {
	Words  string
	Moves  []shot.Move
	Frames int // 0 for the same
}

// Mending gathers mends of one move.
type Mending struct {
	Shot  *shot.Shot
	Move  *shot.Move
	Mends []Mend
}

// Change offers the move with a change.
func (b *Mending) Change(words string, change func(c *shot.Move)) {
	c := b.Move.Clone()
	change(&c)
	b.Mends = append(b.Mends, Mend{Words: words, Moves: []shot.Move{c}})
}

// Rounded offers whole numbers next to v, by themselves and over the whole loop.
func (b *Mending) Rounded(what string, v float64, set func(data any, k float64)) {
	for _, k := range []float64{math.Floor(v), math.Ceil(v)} {
		if k == 0 {
			continue
		}
		b.Change("Make it "+counted(what, k), func(c *shot.Move) { set(c.Data, k) })
		b.Change(fmt.Sprintf("Make it %s, over the whole loop", counted(what, k)), func(c *shot.Move) {
			set(c.Data, k)
			c.Span, c.After, c.Laps = nil, shot.Stays, 0
		})
	}
}

// Periods offers whole numbers of periods next to how many there are now, and another length of the shot. Set changes
// the period to one of so many frames and says it in words.
func (b *Mending) Periods(set func(data any, frames float64) (words string)) {
	frames := float64(b.Shot.Frames)
	n := Laps(b.Shot, b.Move)
	for _, k := range []float64{math.Max(1, math.Floor(n)), math.Ceil(n)} {
		c := b.Move.Clone()
		words := set(c.Data, frames/k)
		b.Mends = append(b.Mends, Mend{Words: words, Moves: []shot.Move{c}})
	}
	if length := math.Round(n) * frames / n; length >= 1 && length <= shot.MaxFrames && math.Abs(length-math.Round(length)) < 1e-9*length {
		b.Mends = append(b.Mends, Mend{Words: fmt.Sprintf("Shot of %.0f f", length), Frames: int(math.Round(length))})
	}
}

func counted(what string, k float64) string {
	if k == 1 || k == -1 {
		return fmt.Sprintf("%.4g %s", k, what)
	}
	return fmt.Sprintf("%.4g %ss", k, what)
}

// Mends returns what might make a move come back to its beginning; none is tried yet.
func Mends(s *shot.Shot, m *shot.Move) []Mend {
	b := &Mending{Shot: s, Move: m}
	k := kinds[m.Kind]
	if k.mends != nil {
		k.mends(m.Data, b)
	}
	if len(m.Pins) > 0 && s.Ending == shot.Loop {
		b.Change("Let its pins end as they begin", func(c *shot.Move) {
			for i := range c.Pins {
				t := &c.Pins[i]
				if first := motion.Sample(t, 0); motion.Sample(t, float64(s.Frames)) != first {
					t.Put(shot.Pin{Time: float64(s.Frames), Value: first, Next: shot.Smooth})
				}
			}
		})
	}
	if k.apply == nil && k.look == nil && k.bend == nil && k.members == nil || k.period != nil {
		return b.Mends
	}
	frames := float64(s.Frames)
	b.Change("Go there and back", func(c *shot.Move) {
		c.After, c.Laps = shot.Mirrored, 2
		switch {
		case c.Span == nil:
		case 2*c.Span.Long() > frames:
			c.Span = nil
		default:
			c.Span.To = c.Span.From + 2*c.Span.Long()
		}
	})
	b.Change("Return at the end", func(c *shot.Move) {
		if c.Span == nil {
			c.Span = &shot.Span{From: 0, To: math.Max(1, frames-1)}
		}
		c.After = shot.Returns
	})
	return b.Mends
}
