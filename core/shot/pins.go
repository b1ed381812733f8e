package shot

import (
	"fmt"
	"math"
	"slices"
	"sort"
)

type (
	// PinRef names a pin: of a part's track or, with a move, of one of the move's parameters.
	PinRef struct {
		Part  string  `json:"part"`
		Move  string  `json:"move,omitempty"`
		Value Value   `json:"value"`
		Time  float64 `json:"time"`
	}

	// MovePins moves pins, and the spans of moves with them, in time: each goes to
	// About + (time - About) * Scale + By. A scale below 0 reverses them. In a loop what leaves at one end
	// enters at the other. Pins that stand where one arrives give way.
	MovePins struct {
		Pins   []PinRef `json:"pins"`
		Bars   []string `json:"bars,omitempty"` // moves whose spans go along
		By     float64  `json:"by"`
		Scale  float64  `json:"scale"` // 1 for none
		About  float64  `json:"about"`
		Copy   bool     `json:"copy,omitempty"`   // the pins stay, and copies go
		Onto   string   `json:"onto,omitempty"`   // the part that copies of a part's own pins go to
		Mirror bool     `json:"mirror,omitempty"` // values are mirrored about rest
		Ripple bool     `json:"ripple,omitempty"` // later pins of the same tracks go along by By
	}

	// RemovePins takes pins out.
	RemovePins struct {
		Pins []PinRef `json:"pins"`
	}

	// Stretch stretches what lies between two times about a third, of some parts or, if none is named, of
	// all: spans, pins and stops; what lies before and after is moved to make room. The length of the shot
	// stays.
	Stretch struct {
		Parts []string `json:"parts"`
		From  float64  `json:"from"`
		To    float64  `json:"to"`
		About float64  `json:"about"`
		Scale float64  `json:"scale"` // more than 0
	}
)

// lane returns the tracks that a pin is on: a part's or a move's.
func (s *Shot) lane(r PinRef) (*[]Track, error) {
	p := s.Part(r.Part)
	if p == nil {
		return nil, fmt.Errorf("a part whose pins were chosen is not in this shot any more")
	}
	if r.Move == "" {
		return &p.Tracks, nil
	}
	for i := range p.Moves {
		if p.Moves[i].ID == r.Move {
			return &p.Moves[i].Pins, nil
		}
	}
	return nil, fmt.Errorf("a move whose pins were chosen is not in this shot any more")
}

// chosen gathers the pins of an edit by their track, in the order of their times.
func (s *Shot) chosenPins(refs []PinRef) (keys []PinRef, times map[PinRef][]float64) {
	times = map[PinRef][]float64{}
	for _, r := range refs {
		key := r
		key.Time = 0
		if times[key] == nil {
			keys = append(keys, key)
		}
		times[key] = append(times[key], r.Time)
	}
	for _, k := range keys {
		sort.Float64s(times[k])
	}
	return keys, times
}

const samePin = 1e-6 // frames

func among(times []float64, t float64) bool {
	i := sort.SearchFloat64s(times, t-samePin)
	return i < len(times) && times[i] <= t+samePin
}

func (e *MovePins) change(s *Shot) (string, error) {
	if e.Scale == 0 || !finite(e.Scale) || !finite(e.By) || !finite(e.About) {
		return "", fmt.Errorf("pins are moved by a number of frames, and scaled by a number other than 0")
	}
	keys, times := s.chosenPins(e.Pins)
	n := 0
	for _, key := range keys {
		lane, err := s.lane(key)
		if err != nil {
			return "", err
		}
		at := slices.IndexFunc(*lane, func(t Track) bool { return t.Value == key.Value })
		if at < 0 {
			return "", fmt.Errorf("a track whose pins were chosen is not in this shot any more")
		}
		part := Track{Value: key.Value}
		var rest []Pin
		for _, p := range (*lane)[at].Pins {
			if among(times[key], p.Time) {
				part.Pins = append(part.Pins, p)
			}
			if e.Copy || !among(times[key], p.Time) {
				if e.Ripple && !e.Copy && p.Time > times[key][0] {
					p.Time += e.By
				}
				rest = append(rest, p)
			}
		}
		n += len(part.Pins)
		if part.Pins = e.moved(s, part); len(part.Pins) == 0 {
			continue
		}
		if e.Onto != "" && key.Move == "" {
			to := s.Part(e.Onto)
			if to == nil {
				return "", fmt.Errorf("the part that the pins were to go to is not in this shot any more")
			}
			if lane = &to.Tracks; !e.Copy {
				return "", fmt.Errorf("pins are copied onto another part, not moved")
			}
			if at = slices.IndexFunc(*lane, func(t Track) bool { return t.Value == key.Value }); at < 0 {
				*lane = append(*lane, Track{Value: key.Value})
				at = len(*lane) - 1
			}
			rest = (*lane)[at].Pins
		}
		(*lane)[at].Pins = merged(rest, part.Pins)
		(*lane)[at].fitHandles()
	}
	for _, id := range e.Bars {
		if _, m := s.Move(id); m != nil && m.Span != nil {
			a, b := e.to(m.Span.From), e.to(m.Span.To)
			a, b = min(a, b), max(a, b)
			if s.Ending == Loop {
				lap := float64(s.Frames) * math.Floor(a/float64(s.Frames))
				a, b = a-lap, b-lap
			}
			m.Span = &Span{a, b}
			n++
		}
	}
	if n == 0 {
		return "", fmt.Errorf("nothing was chosen that could be moved")
	}
	verb := "Move"
	switch {
	case e.Copy:
		verb = "Copy"
	case e.Scale < 0:
		verb = "Reverse"
	case e.Scale != 1:
		verb = "Scale"
	}
	if n == 1 {
		return verb + " a pin or bar", nil
	}
	return fmt.Sprintf("%s %d pins and bars", verb, n), nil
}

func (e *MovePins) to(t float64) float64 { return e.About + (t-e.About)*e.Scale + e.By }

// moved returns the pins of a track at their new times.
func (e *MovePins) moved(s *Shot, part Track) []Pin {
	if len(part.Pins) == 0 {
		return nil
	}
	k := math.Abs(e.Scale)
	if e.Scale < 0 {
		part.reverse(2 * e.About)
	}
	for i := range part.Pins {
		p := &part.Pins[i]
		p.Time = e.About + (p.Time-e.About)*k + e.By
		for _, h := range []**Handle{&p.In, &p.Out} {
			if *h != nil {
				c := **h
				c.Time *= k
				*h = &c
			}
		}
		if e.Mirror {
			part.Value.mirror(p)
		}
		if n := float64(s.Frames); s.Ending == Loop && (p.Time < 0 || p.Time > n) {
			p.Time -= n * math.Floor(p.Time/n)
		}
	}
	sort.SliceStable(part.Pins, func(a, b int) bool { return part.Pins[a].Time < part.Pins[b].Time })
	return part.Pins
}

// mirror turns the value of a pin about that of rest, which is 1 for sizes and 0 for the others.
func (v Value) mirror(p *Pin) {
	switch {
	case p.Turn != nil:
		q := *p.Turn
		p.Turn = &q
		for k := range 3 {
			p.Turn[k] = -p.Turn[k]
		}
		return
	case v == TrackWidth || v == TrackHeight || v == TrackDepth:
		p.Value = 2 - p.Value
	default:
		p.Value = -p.Value
	}
	for _, h := range []**Handle{&p.In, &p.Out} {
		if *h != nil {
			c := **h
			c.Value = -c.Value
			*h = &c
		}
	}
}

// merged puts pins among others; those that stand on one's time give way to it.
func merged(rest, pins []Pin) []Pin {
	times := make([]float64, len(pins))
	for i, p := range pins {
		times[i] = p.Time
	}
	out := append([]Pin(nil), pins...)
	for _, p := range rest {
		if !among(times, p.Time) {
			out = append(out, p)
		}
	}
	sort.SliceStable(out, func(a, b int) bool { return out[a].Time < out[b].Time })
	return slices.CompactFunc(out, func(a, b Pin) bool { return math.Abs(a.Time-b.Time) < samePin })
}

// fitHandles shortens handles that reach beyond the neighbouring pin, keeping their slope, and makes straight
// what runs as a curve between pins that lack a handle.
func (t *Track) fitHandles() {
	for i := range t.Pins {
		p := &t.Pins[i]
		if p.Next != Curves || i+1 >= len(t.Pins) {
			continue
		}
		next := &t.Pins[i+1]
		if p.Out == nil || next.In == nil {
			p.Next = Straight
			continue
		}
		long := next.Time - p.Time
		p.Out, next.In = p.Out.within(long), next.In.within(long)
	}
}

func (h *Handle) within(long float64) *Handle {
	over := math.Abs(h.Time) / long
	if over <= 1 {
		return h
	}
	c := *h
	c.Time /= over
	c.Value /= over
	if h.Turn != nil {
		q := *h.Turn
		for k := range q {
			q[k] /= over
		}
		c.Turn = &q
	}
	return &c
}

func (e *RemovePins) change(s *Shot) (string, error) {
	keys, times := s.chosenPins(e.Pins)
	n := 0
	for _, key := range keys {
		lane, err := s.lane(key)
		if err != nil {
			return "", err
		}
		var kept []Track
		for _, t := range *lane {
			if t.Value == key.Value {
				var left []Pin
				for _, p := range t.Pins {
					if among(times[key], p.Time) {
						n++
					} else {
						left = append(left, p)
					}
				}
				if t.Pins = left; len(left) == 0 {
					continue
				}
				t.fitHandles()
			}
			kept = append(kept, t)
		}
		*lane = kept
	}
	if n == 0 {
		return "", fmt.Errorf("the pins are not in this shot any more")
	}
	if n == 1 {
		return "Remove a pin", nil
	}
	return fmt.Sprintf("Remove %d pins", n), nil
}

func (e *Stretch) change(s *Shot) (string, error) {
	if !(e.To > e.From) || !positive(e.Scale) || !finite(e.About) || !finite(e.From) || !finite(e.To) {
		return "", fmt.Errorf("a range that is stretched ends after it begins, and is stretched by more than 0")
	}
	chosen := map[string]bool{}
	for _, id := range e.Parts {
		chosen[id] = true
	}
	to := func(v *float64) {
		in := math.Max(e.From, math.Min(e.To, *v)) // of the range; the rest goes along
		*v = e.About + (in-e.About)*e.Scale + (*v - in)
	}
	for i := range s.Parts {
		p := &s.Parts[i]
		if len(chosen) > 0 && !chosen[p.ID] {
			continue
		}
		var tracks []*Track
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
				for _, h := range []*Handle{pin.In, pin.Out} {
					if h != nil {
						h.Time *= e.Scale
					}
				}
			}
		}
		p.times(to, func(*float64) {})
		for _, t := range tracks {
			t.fitHandles()
		}
	}
	return fmt.Sprintf("Stretch frames %.4g to %.4g to %.4g %%", e.From, e.To, e.Scale*100), nil
}
