package edit

import (
	"fmt"
	"math"

	"perigyre/core/move"
	"perigyre/core/shot"
)

// times calls at for every point in time that a part holds, and long for every length of time.
func times(p *shot.Part, at, long func(*float64)) {
	for i := range p.Tracks {
		p.Tracks[i].Times(at, long)
	}
	if p.Copies != nil {
		long(&p.Copies.Delay)
	}
	for i := range p.Moves {
		move.Times(&p.Moves[i], at, long)
	}
}

// some calls visit for the parts with the ids, or for all if there are none.
func (w *Work) some(ids []string, visit func(p *shot.Part)) error {
	if len(ids) == 0 {
		for i := range w.Shot.Parts {
			visit(&w.Shot.Parts[i])
		}
	}
	for _, id := range ids {
		p, err := w.part(id)
		if err != nil {
			return err
		}
		visit(p)
	}
	return nil
}

// Retime stretches or shrinks everything in time: moves, pins, flights and delays. With another rate, KeepSeconds keeps
// how long things take; without it they keep their frames. Frames of 0 follow from that.
type Retime struct {
	Frames      int       `json:"frames"`
	Rate        shot.Rate `json:"rate"`
	KeepSeconds bool      `json:"keepSeconds"`
}

func init() { Register[Retime]("retime") }

// Touches implements Toucher.
func (e *Retime) Touches() []Touch { return []Touch{{Field: "frames"}, {Field: "rate"}} }

// Do implements Change.
func (e *Retime) Do(w *Work) (string, error) {
	s := w.Shot
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
			frames = int(math.Max(1, math.Min(shot.MaxFrames+1, math.Round(float64(s.Frames)*rate.PerSecond()/s.Rate.PerSecond()))))
		}
	}
	if frames < 1 || frames > shot.MaxFrames {
		return "", fmt.Errorf("a shot has 1 to %d frames, not %d", shot.MaxFrames, frames)
	}
	k := float64(frames) / float64(s.Frames)
	scale := func(v *float64) { *v *= k }
	for i := range s.Parts {
		times(&s.Parts[i], scale, scale)
	}
	s.Frames, s.Rate = frames, rate
	return fmt.Sprintf("Retime to %d frames at %.4g per second", frames, rate.PerSecond()), nil
}

// Shift moves spans, pins, stops and the phases of swings later, of some parts or, if none is named, of all. In a loop
// what leaves at one end enters at the other.
type Shift struct {
	Parts  []string `json:"parts"`
	Frames float64  `json:"frames"`
}

func init() { Register[Shift]("shift") }

// Do implements Change.
func (e *Shift) Do(w *Work) (string, error) {
	if !number(e.Frames) {
		return "", fmt.Errorf("a shift is by a number of frames")
	}
	s := w.Shot
	n := float64(s.Frames)
	err := w.some(e.Parts, func(p *shot.Part) {
		times(p, func(v *float64) { *v += e.Frames }, func(*float64) {})
		for j := range p.Moves {
			m := &p.Moves[j]
			move.Shift(m, e.Frames)
			if m.Span != nil && s.Ending == shot.Loop { // begins within the shot
				by := n * math.Floor(m.Span.From/n)
				m.Span.From, m.Span.To = m.Span.From-by, m.Span.To-by
			}
		}
		if s.Ending != shot.Loop {
			return
		}
		for j := range p.Tracks {
			wrap(&p.Tracks[j], n)
		}
		for j := range p.Moves {
			for k := range p.Moves[j].Pins {
				wrap(&p.Moves[j].Pins[k], n)
			}
		}
	})
	return fmt.Sprintf("Shift by %.4g frames", e.Frames), err
}

// wrap brings the pins of a loop back among its frames. A track whose pins repeat keeps its order round the
// seam: it has a pin at each end with the value there.
func wrap(t *shot.Track, n float64) {
	if t.After == shot.BeyondRepeat && t.Before == shot.BeyondRepeat {
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
	var early, late []shot.Pin
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

// Reverse lets time run backwards for some parts, or for all: moves and pins.
type Reverse struct {
	Parts []string `json:"parts"`
}

func init() { Register[Reverse]("reverse") }

// Do implements Change.
func (e *Reverse) Do(w *Work) (string, error) {
	end := float64(w.Shot.Frames)
	if w.Shot.Ending == shot.Once {
		end--
	}
	err := w.some(e.Parts, func(p *shot.Part) {
		for j := range p.Moves {
			move.Reverse(&p.Moves[j])
		}
		for j := range p.Tracks {
			p.Tracks[j].Reverse(end)
		}
	})
	return "Reverse the motion", err
}

// Stretch stretches what lies between two times about a third, of some parts or, if none is named, of all: spans, pins
// and stops; what lies before and after is moved to make room. The length of the shot stays.
type Stretch struct {
	Parts []string `json:"parts"`
	From  float64  `json:"from"`
	To    float64  `json:"to"`
	About float64  `json:"about"`
	Scale float64  `json:"scale"` // more than 0
}

func init() { Register[Stretch]("stretch") }

// Do implements Change.
func (e *Stretch) Do(w *Work) (string, error) {
	if !(e.To > e.From) || !(e.Scale >= 1e-6 && e.Scale <= 1e6) || !number(e.About, e.From, e.To) {
		return "", fmt.Errorf("a range that is stretched ends after it begins, and is stretched by more than 0")
	}
	to := func(v *float64) {
		in := math.Max(e.From, math.Min(e.To, *v)) // of the range; the rest goes along
		*v = e.About + (in-e.About)*e.Scale + (*v - in)
	}
	err := w.some(e.Parts, func(p *shot.Part) {
		var tracks []*shot.Track
		for k := range p.Tracks {
			tracks = append(tracks, &p.Tracks[k])
		}
		for j := range p.Moves {
			for k := range p.Moves[j].Pins {
				tracks = append(tracks, &p.Moves[j].Pins[k])
			}
		}
		for _, t := range tracks { // handles inside are stretched along
			for k := range t.Pins {
				pin := &t.Pins[k]
				if pin.Time < e.From || pin.Time > e.To {
					continue
				}
				for _, h := range []*shot.Handle{pin.In, pin.Out} {
					if h != nil {
						h.Time *= e.Scale
					}
				}
			}
		}
		times(p, to, func(*float64) {})
		for _, t := range tracks {
			t.FitHandles()
		}
	})
	return fmt.Sprintf("Stretch frames %.4g to %.4g to %.4g %%", e.From, e.To, e.Scale*100), err
}
