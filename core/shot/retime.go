package shot

import (
	"fmt"
	"math"
)

type (
	// Retime stretches or shrinks everything in time: moves, pins, flights and delays. With another rate,
	// KeepSeconds keeps how long things take; without it they keep their frames. Frames of 0 follow from that.
	Retime struct {
		Frames      int  `json:"frames"`
		Rate        Rate `json:"rate"`
		KeepSeconds bool `json:"keepSeconds"`
	}
	// Reverse lets time run backwards for some parts, or for all: moves and pins.
	Reverse struct {
		Parts []string `json:"parts"`
	}
	// Shift moves spans, pins, stops and the phases of swings later, of some parts or, if none is named, of
	// all. In a loop what leaves at one end enters at the other.
	Shift struct {
		Parts  []string `json:"parts"`
		Frames float64  `json:"frames"`
	}
)

// times calls change for every point in time that a part holds, and long for every length of time.
func (p *Part) times(change, long func(*float64)) {
	track := func(t *Track) {
		for i := range t.Pins {
			pin := &t.Pins[i]
			change(&pin.Time)
			for _, h := range []*Handle{pin.In, pin.Out} {
				if h != nil {
					long(&h.Time)
				}
			}
		}
	}
	for i := range p.Tracks {
		track(&p.Tracks[i])
	}
	if p.Copies != nil {
		long(&p.Copies.Delay)
	}
	for i := range p.Moves {
		m := &p.Moves[i]
		if m.Span != nil {
			change(&m.Span.From)
			change(&m.Span.To)
		}
		for k := range m.Pins {
			track(&m.Pins[k])
		}
		switch {
		case m.Float != nil:
			long(&m.Float.Period)
		case m.Swing != nil && !(m.Swing.Shape == "pendulum" && m.Swing.Length > 0): // gravity keeps its time
			long(&m.Swing.Period)
		case m.Follow != nil:
			long(&m.Follow.Lag)
		case m.Reveal != nil:
			long(&m.Reveal.Delay)
			long(&m.Reveal.Takes)
		case m.Flight != nil:
			for k := range m.Flight.Stops {
				change(&m.Flight.Stops[k].At)
				long(&m.Flight.Stops[k].Rest)
			}
		}
	}
}

func (e *Retime) change(s *Shot) (string, error) {
	rate := e.Rate
	if rate.Num == 0 {
		rate = s.Rate
	}
	if rate.Num < 1 || rate.Den < 1 {
		return "", fmt.Errorf("a rate of %d/%d frames per second is not possible", rate.Num, rate.Den)
	}
	frames := e.Frames
	if frames == 0 {
		frames = s.Frames
		if e.KeepSeconds {
			frames = max(1, int(math.Round(float64(s.Frames)*rate.PerSecond()/s.Rate.PerSecond())))
		}
	}
	if frames < 1 || frames > MaxFrames {
		return "", fmt.Errorf("a shot has 1 to %d frames, not %d", MaxFrames, frames)
	}
	k := float64(frames) / float64(s.Frames)
	scale := func(v *float64) { *v *= k }
	for i := range s.Parts {
		s.Parts[i].times(scale, scale)
	}
	s.Frames, s.Rate = frames, rate
	return fmt.Sprintf("Retime to %d frames at %.4g per second", frames, rate.PerSecond()), nil
}

func (e *Shift) change(s *Shot) (string, error) {
	chosen := map[string]bool{}
	for _, id := range e.Parts {
		chosen[id] = true
	}
	n := float64(s.Frames)
	for i := range s.Parts {
		p := &s.Parts[i]
		if len(chosen) > 0 && !chosen[p.ID] {
			continue
		}
		p.times(func(v *float64) { *v += e.Frames }, func(*float64) {})
		for j := range p.Moves {
			m := &p.Moves[j]
			if m.Swing != nil && m.Swing.Period > 0 {
				m.Swing.Phase -= e.Frames / m.Swing.Period
				m.Swing.Phase -= math.Floor(m.Swing.Phase)
			}
			if m.Span != nil && s.Ending == Loop { // begins within the shot
				by := n * math.Floor(m.Span.From/n)
				m.Span.From, m.Span.To = m.Span.From-by, m.Span.To-by
			}
		}
		if s.Ending != Loop {
			continue
		}
		for j := range p.Tracks {
			wrap(&p.Tracks[j], n)
		}
		for j := range p.Moves {
			for k := range p.Moves[j].Pins {
				wrap(&p.Moves[j].Pins[k], n)
			}
		}
	}
	return fmt.Sprintf("Shift by %.4g frames", e.Frames), nil
}

// wrap brings the pins of a loop back among its frames. A track whose pins repeat keeps its order round the
// seam: it has a pin at each end with the value there.
func wrap(t *Track, n float64) {
	if t.After == BeyondRepeat && t.Before == BeyondRepeat {
		return // it goes on for ever anyway
	}
	first := t.Pins[0].Time
	last := t.Pins[len(t.Pins)-1].Time
	if first >= 0 && last < n {
		return
	}
	if last-first >= n { // more than a loop of pins cannot be brought round
		return
	}
	by := n * math.Floor(first/n)
	var early, late []Pin
	for _, p := range t.Pins {
		p.Time -= by
		if p.Time >= n {
			p.Time -= n
			early = append(early, p)
		} else {
			late = append(late, p)
		}
	}
	t.Pins = append(early, late...)
}

func (e *Reverse) change(s *Shot) (string, error) {
	chosen := map[string]bool{}
	for _, id := range e.Parts {
		chosen[id] = true
	}
	end := float64(s.Frames)
	if s.Ending == Once {
		end--
	}
	for i := range s.Parts {
		p := &s.Parts[i]
		if len(chosen) > 0 && !chosen[p.ID] {
			continue
		}
		for j := range p.Moves {
			if t := p.Moves[j].Turntable; t != nil { // the other way round is the same backwards
				t.Direction = map[Direction]Direction{Clockwise: CounterClockwise, CounterClockwise: Clockwise}[t.Direction]
				continue
			}
			p.Moves[j].Backwards = !p.Moves[j].Backwards
		}
		for j := range p.Tracks {
			p.Tracks[j].reverse(end)
		}
	}
	return "Reverse the motion", nil
}

// reverse mirrors the pins in time: what ran from one to the next runs from the next to it.
func (t *Track) reverse(end float64) {
	n := len(t.Pins)
	out := make([]Pin, n)
	flip := func(h *Handle) *Handle {
		if h == nil {
			return nil
		}
		c := *h
		c.Time = -h.Time
		return &c
	}
	for i, p := range t.Pins {
		q := p
		q.Time, q.In, q.Out, q.Next = end-p.Time, flip(p.Out), flip(p.In), ""
		if i > 0 {
			q.Next = t.Pins[i-1].Next
		}
		if q.Next == Holds && i > 0 { // a value that held until a pin holds from that pin's place on
			q.Value, q.Turn = t.Pins[i-1].Value, t.Pins[i-1].Turn
		}
		out[n-1-i] = q
	}
	t.Pins, t.Before, t.After = out, t.After, t.Before
}
