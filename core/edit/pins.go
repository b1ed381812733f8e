package edit

import (
	"fmt"
	"math"
	"slices"
	"sort"

	"perigyre/core/shot"
)

// PinRef names a pin: of a part's track or, with a move, of one of the move's parameters.
type PinRef struct {
	Part  string     `json:"part"`
	Move  string     `json:"move,omitempty"`
	Value shot.Value `json:"value"`
	Time  float64    `json:"time"`
}

// lane returns the tracks that a pin is on: a part's or a move's.
func (w *Work) lane(r PinRef) (*[]shot.Track, error) {
	p, err := w.part(r.Part)
	if err != nil {
		return nil, err
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

// eachTrack calls do for every track of which pins are named: with the tracks that it is among, its place there, -1 if it is
// not, and the times of the pins in their order.
func (w *Work) eachTrack(refs []PinRef, do func(of PinRef, lane *[]shot.Track, at int, times []float64) error) error {
	var keys []PinRef
	times := map[PinRef][]float64{}
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
		lane, err := w.lane(k)
		if err != nil {
			return err
		}
		at := slices.IndexFunc(*lane, func(t shot.Track) bool { return t.Value == k.Value })
		if err := do(k, lane, at, times[k]); err != nil {
			return err
		}
	}
	return nil
}

func among(times []float64, t float64) bool {
	i := sort.SearchFloat64s(times, t-shot.SamePin)
	return i < len(times) && times[i] <= t+shot.SamePin
}

// MovePins moves pins, and the spans of moves with them, in time: each goes to
// About + (time - About) * Scale + By. A scale below 0 reverses them. In a loop what leaves at one end
// enters at the other. Pins that stand where one arrives give way.
type MovePins struct {
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

func init() { Register[MovePins]("movePins") }

// Do implements Change.
func (e *MovePins) Do(w *Work) (string, error) {
	s := w.Shot
	if !number(e.Scale, e.By, e.About) || math.Abs(e.Scale) < 1e-9 {
		return "", fmt.Errorf("pins are moved by a number of frames, and scaled by a number other than 0")
	}
	n := 0
	err := w.eachTrack(e.Pins, func(key PinRef, lane *[]shot.Track, at int, times []float64) error {
		if at < 0 {
			return fmt.Errorf("a track whose pins were chosen is not in this shot any more")
		}
		part := shot.Track{Value: key.Value}
		var rest []shot.Pin
		for _, p := range (*lane)[at].Pins {
			if among(times, p.Time) {
				part.Pins = append(part.Pins, p)
			}
			if e.Copy || !among(times, p.Time) {
				if e.Ripple && !e.Copy && p.Time > times[0] {
					p.Time += e.By
				}
				rest = append(rest, p)
			}
		}
		n += len(part.Pins)
		if part.Pins = e.moved(s, part); len(part.Pins) == 0 {
			return nil
		}
		if e.Onto != "" && key.Move == "" {
			to, err := w.part(e.Onto)
			if err != nil {
				return err
			}
			if lane = &to.Tracks; !e.Copy {
				return fmt.Errorf("pins are copied onto another part, not moved")
			}
			if at = slices.IndexFunc(*lane, func(t shot.Track) bool { return t.Value == key.Value }); at < 0 {
				t := addTrack(to, key.Value)
				at = slices.IndexFunc(*lane, func(o shot.Track) bool { return o.Value == t.Value })
			}
			rest = (*lane)[at].Pins
		}
		(*lane)[at].Pins = merged(rest, part.Pins)
		(*lane)[at].FitHandles()
		return nil
	})
	if err != nil {
		return "", err
	}
	for _, id := range e.Bars {
		if _, m := s.Move(id); m != nil && m.Span != nil {
			a, b := e.to(m.Span.From), e.to(m.Span.To)
			a, b = min(a, b), max(a, b)
			if s.Ending == shot.Loop {
				lap := float64(s.Frames) * math.Floor(a/float64(s.Frames))
				a, b = a-lap, b-lap
			}
			m.Span = &shot.Span{From: a, To: b}
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
func (e *MovePins) moved(s *shot.Shot, part shot.Track) []shot.Pin {
	if len(part.Pins) == 0 {
		return nil
	}
	k := math.Abs(e.Scale)
	if e.Scale < 0 {
		part.Reverse(2 * e.About)
	}
	for i := range part.Pins {
		p := &part.Pins[i]
		p.Time = e.About + (p.Time-e.About)*k + e.By
		for _, h := range []**shot.Handle{&p.In, &p.Out} {
			if *h != nil {
				c := **h
				c.Time *= k
				*h = &c
			}
		}
		if e.Mirror {
			mirror(part.Value, p)
		}
		if n := float64(s.Frames); s.Ending == shot.Loop && (p.Time < 0 || p.Time > n) {
			p.Time -= n * math.Floor(p.Time/n)
		}
	}
	sort.SliceStable(part.Pins, func(a, b int) bool { return part.Pins[a].Time < part.Pins[b].Time })
	return part.Pins
}

// mirror turns the value of a pin about that of rest, which is 1 for sizes and 0 for the others.
func mirror(v shot.Value, p *shot.Pin) {
	switch {
	case p.Turn != nil:
		q := *p.Turn
		p.Turn = &q
		for k := range 3 {
			p.Turn[k] = -p.Turn[k]
		}
		return
	default:
		p.Value = 2*v.Rest() - p.Value
	}
	for _, h := range []**shot.Handle{&p.In, &p.Out} {
		if *h != nil {
			c := **h
			c.Value = -c.Value
			*h = &c
		}
	}
}

// merged puts pins among others; those that stand on one's time give way to it.
func merged(rest, pins []shot.Pin) []shot.Pin {
	times := make([]float64, len(pins))
	for i, p := range pins {
		times[i] = p.Time
	}
	out := append([]shot.Pin(nil), pins...)
	for _, p := range rest {
		if !among(times, p.Time) {
			out = append(out, p)
		}
	}
	sort.SliceStable(out, func(a, b int) bool { return out[a].Time < out[b].Time })
	return slices.CompactFunc(out, func(a, b shot.Pin) bool { return math.Abs(a.Time-b.Time) < shot.SamePin })
}

// RemovePins takes pins out.
type RemovePins struct {
	Pins []PinRef `json:"pins"`
}

func init() { Register[RemovePins]("removePins") }

// Do implements Change.
func (e *RemovePins) Do(w *Work) (string, error) {
	n := 0
	err := w.eachTrack(e.Pins, func(_ PinRef, lane *[]shot.Track, at int, times []float64) error {
		if at < 0 {
			return nil
		}
		t := &(*lane)[at]
		before := len(t.Pins)
		t.Pins = slices.DeleteFunc(t.Pins, func(p shot.Pin) bool { return among(times, p.Time) })
		if n += before - len(t.Pins); len(t.Pins) == 0 {
			*lane = slices.Delete(*lane, at, at+1)
			return nil
		}
		t.FitHandles()
		return nil
	})
	if err != nil {
		return "", err
	}
	if n == 0 {
		return "", fmt.Errorf("the pins are not in this shot any more")
	}
	if n == 1 {
		return "Remove a pin", nil
	}
	return fmt.Sprintf("Remove %d pins", n), nil
}

// number reports whether values are numbers that can be worked with.
func number(list ...float64) bool {
	for _, v := range list {
		if !(math.Abs(v) <= 1e9) {
			return false
		}
	}
	return true
}
