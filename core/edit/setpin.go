package edit

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"

	"perigyre/core/motion"
	"perigyre/core/move"
	"perigyre/core/shot"
)

// SetPin puts a pin on a value at a time: of a part or, with a move, of a number of the move. Without a value to go to it is
// what the value is then, so that a pose is held. From is another time at which the pin stands now: it is moved.
type SetPin struct {
	PinRef
	To   *float64 `json:"to,omitempty"`
	From *float64 `json:"from,omitempty"`
}

func init() { Register[SetPin]("setPin") }

// Touches implements Toucher.
func (e *SetPin) Touches() []Touch {
	if e.From == nil {
		return nil // a pin more does no harm to others
	}
	if e.Move != "" {
		return []Touch{{Move: e.Move, Field: "pins." + string(e.Value)}}
	}
	return []Touch{{Part: e.Part, Field: "tracks." + string(e.Value)}}
}

// Do implements Change.
func (e *SetPin) Do(w *Work) (string, error) {
	p, err := w.part(e.Part)
	if err != nil {
		return "", err
	}
	if !number(e.Time) || e.To != nil && !number(*e.To) {
		return "", fmt.Errorf("a pin stands at a frame, and its value is a number")
	}
	if e.From != nil {
		return e.moved(w, p)
	}
	words := fmt.Sprintf("Pin %s of %s on frame %.4g", e.Value, p.Name, e.Time)
	if e.Move != "" {
		_, m, err := w.move(e.Move)
		if err != nil {
			return "", err
		}
		var to json.RawMessage
		if e.To != nil {
			to, _ = json.Marshal(*e.To) // a number always encodes
		}
		return words, move.Pin(m, string(e.Value), e.Time, to)
	}
	if !slices.Contains(shot.Values, e.Value) || e.Value == shot.TrackOrientation {
		return "", fmt.Errorf("there is no value %q of a part that can be pinned by hand", e.Value)
	}
	pinHere(p, e.Value, e.Time, e.To)
	return words, nil
}

// moved moves a pin to another time and value.
func (e *SetPin) moved(w *Work, p *shot.Part) (string, error) {
	lane, err := w.lane(e.PinRef)
	if err != nil {
		return "", err
	}
	for i := range *lane {
		t := &(*lane)[i]
		was := t.At(*e.From)
		if t.Value != e.Value || was == nil {
			continue
		}
		pin := *was
		if pin.Time = e.Time; e.To != nil {
			pin.Value = *e.To
		}
		rest := slices.DeleteFunc(slices.Clone(t.Pins), func(o shot.Pin) bool {
			return math.Abs(o.Time-*e.From) < shot.SamePin || math.Abs(o.Time-e.Time) < shot.SamePin
		})
		t.Pins = merged(rest, []shot.Pin{pin})
		t.FitHandles()
		return "Move a pin of " + p.Name, nil
	}
	return "", errNoPin
}

var errNoPin = fmt.Errorf("a pin that was chosen is not in this shot any more")

// pinHere pins a value of a part at a time; without a value to go to, as it is then.
func pinHere(p *shot.Part, v shot.Value, at float64, to *float64) {
	t := p.Track(v)
	value := v.Rest()
	if t != nil {
		value = motion.Sample(t, at)
	}
	if to != nil {
		value = *to
	}
	if t == nil {
		t = addTrack(p, v)
	}
	t.Put(shot.Pin{Time: at, Value: value, Next: shot.Smooth})
	t.FitHandles()
}

// PinPose pins parts as they are at a time: what has pins already, and of parts that have none their place or, with Whole,
// place, turn and size.
type PinPose struct {
	Parts []string `json:"parts"`
	Time  float64  `json:"time"`
	Whole bool     `json:"whole,omitempty"` // place, turn and size
	Deep  bool     `json:"deep,omitempty"`  // with all in them
}

func init() { Register[PinPose]("pinPose") }

// Do implements Change.
func (e *PinPose) Do(w *Work) (string, error) {
	if !number(e.Time) {
		return "", fmt.Errorf("a pin stands at a frame")
	}
	list, err := w.outermost(e.Parts)
	if err != nil {
		return "", err
	}
	n := 0
	for i := range w.Shot.Parts {
		p := &w.Shot.Parts[i]
		if p.Locked || !slices.ContainsFunc(list, func(root int) bool { return i == root || e.Deep && w.Index().Within(i, root) }) {
			continue
		}
		n++
		fresh := len(p.Tracks) == 0
		for _, v := range shot.Values {
			place := v == shot.TrackX || v == shot.TrackY || v == shot.TrackZ
			turned := v == shot.TrackTurnX || v == shot.TrackTurnY || v == shot.TrackTurnZ
			sized := v == shot.TrackWidth || v == shot.TrackHeight || v == shot.TrackDepth
			switch t := p.Track(v); {
			case t != nil && v == shot.TrackOrientation:
				q := motion.SampleTurn(t, e.Time)
				t.Put(shot.Pin{Time: e.Time, Turn: &q})
				t.FitHandles()
			case t != nil, v != shot.TrackOrientation && e.Whole && (place || turned || sized), place && fresh:
				pinHere(p, v, e.Time, nil)
			}
		}
	}
	if n == 0 {
		return "", fmt.Errorf("what is chosen is locked")
	}
	return fmt.Sprintf("Pin %s on frame %.4g", w.names(list), e.Time), nil
}

// SetPins says how values run from pins to the next, and what tracks do beyond theirs; what is not given stays.
type SetPins struct {
	Pins   []PinRef     `json:"pins"`
	Next   *string      `json:"next,omitempty"`  // see shot.Between
	After  *shot.Beyond `json:"after,omitempty"` // of the tracks that the pins are on
	Before *shot.Beyond `json:"before,omitempty"`
}

func init() { Register[SetPins]("setPins") }

// Do implements Change.
func (e *SetPins) Do(w *Work) (string, error) {
	n := 0
	err := w.eachTrack(e.Pins, func(_ PinRef, lane *[]shot.Track, at int, times []float64) error {
		if at < 0 {
			return nil
		}
		t := &(*lane)[at]
		if e.After != nil {
			t.After = *e.After
		}
		if e.Before != nil {
			t.Before = *e.Before
		}
		for k := range t.Pins {
			if !among(times, t.Pins[k].Time) {
				continue
			}
			n++
			if e.Next != nil {
				runOn(t, k, shot.Between(*e.Next))
			}
		}
		return nil
	})
	if err != nil {
		return "", err
	}
	if n == 0 {
		return "", errNoPin
	}
	return "Change how pins go on", nil
}

// runOn says how a value runs from pin k to the next. A curve gets handles, along the way that it ran before.
func runOn(t *shot.Track, k int, next shot.Between) {
	a := &t.Pins[k]
	if a.Turn != nil && (next == shot.Smooth || next == shot.Curves) {
		return // orientations run at constant speed or by their file's handles
	}
	if next == shot.Curves && k+1 < len(t.Pins) && a.Next != shot.Curves {
		b := &t.Pins[k+1]
		long := b.Time - a.Time
		from, to := motion.Slopes(t, k)
		a.Out = &shot.Handle{Time: long / 3, Value: from * long / 3}
		b.In = &shot.Handle{Time: -long / 3, Value: -to * long / 3}
	}
	a.Next = next
}

// MatchEnds lets the pins of a part end as they begin: the last take the values of the first, and stand where the loop
// begins again.
type MatchEnds struct {
	Part string `json:"part"`
}

func init() { Register[MatchEnds]("matchEnds") }

// Do implements Change.
func (e *MatchEnds) Do(w *Work) (string, error) {
	p, err := w.part(e.Part)
	if err != nil {
		return "", err
	}
	if len(p.Tracks) == 0 {
		return "", errNoPin
	}
	n := float64(w.Shot.Frames)
	for i := range p.Tracks {
		t := &p.Tracks[i]
		t.Pins = slices.DeleteFunc(t.Pins, func(o shot.Pin) bool { return o.Time >= n-shot.SamePin })
		if len(t.Pins) == 0 {
			return "", fmt.Errorf("the pins of %s all stand after the shot's end", p.Name)
		}
		first := t.Pins[0]
		if first.Time > shot.SamePin { // it holds until then
			first.In, first.Out, first.Next = nil, nil, shot.Straight
		}
		last := first
		last.Time, last.In, last.Out = n, nil, nil
		if before := &t.Pins[len(t.Pins)-1]; before.Next == shot.Curves {
			if before.Next = shot.Smooth; before.Turn != nil {
				before.Next = shot.Straight
			}
		}
		t.Pins = append(t.Pins, last)
	}
	return "Match the ends of the pins of " + p.Name, nil
}

// RemoveTracks takes all pins of parts away.
type RemoveTracks struct {
	Parts []string `json:"parts"`
}

func init() { Register[RemoveTracks]("removeTracks") }

// Do implements Change.
func (e *RemoveTracks) Do(w *Work) (words string, err error) {
	for _, id := range e.Parts {
		p, err := w.part(id)
		if err != nil {
			return "", err
		}
		p.Tracks = nil
		words = "Remove the pins of " + p.Name
	}
	if words == "" {
		return "", fmt.Errorf("nothing is chosen")
	}
	return words, nil
}

// Strip takes all motion from parts and from all in them: their moves and their pins.
type Strip struct {
	Parts []string `json:"parts"`
}

func init() { Register[Strip]("strip") }

// Do implements Change.
func (e *Strip) Do(w *Work) (string, error) {
	list, err := w.outermost(e.Parts)
	if err != nil {
		return "", err
	}
	taken := 0
	for i := range w.Shot.Parts {
		p := &w.Shot.Parts[i]
		if !slices.ContainsFunc(list, func(k int) bool { return w.Index().Within(i, k) }) {
			continue
		}
		taken += len(p.Moves) + len(p.Tracks)
		p.Moves, p.Tracks = []shot.Move{}, nil
	}
	if taken == 0 {
		return "", fmt.Errorf("%s has no motion of its own", w.names(list))
	}
	return "Remove all motion of " + w.names(list), nil
}

// SetHandle puts the handle of a curve elsewhere, seen from its pin; the one on the pin's other side stays in line with it
// unless they are broken.
type SetHandle struct {
	Pin    PinRef  `json:"pin"`
	Side   string  `json:"side"` // in or out
	Time   float64 `json:"time"`
	Value  float64 `json:"value"`
	Broken bool    `json:"broken,omitempty"`
}

func init() { Register[SetHandle]("setHandle") }

// Do implements Change.
func (e *SetHandle) Do(w *Work) (string, error) {
	lane, err := w.lane(e.Pin)
	if err != nil {
		return "", err
	}
	if !number(e.Time, e.Value) || e.Side != "in" && e.Side != "out" {
		return "", fmt.Errorf("a handle comes in or goes out, at a time and a value")
	}
	for i := range *lane {
		t := &(*lane)[i]
		if t.Value != e.Pin.Value {
			continue
		}
		for k := range t.Pins {
			if math.Abs(t.Pins[k].Time-e.Pin.Time) < shot.SamePin {
				return "Bend a curve", e.bend(t, k)
			}
		}
	}
	return "", errNoPin
}

func (e *SetHandle) bend(t *shot.Track, k int) error {
	p := &t.Pins[k]
	own, other, room, sign := &p.Out, p.In, 0.0, 1.0
	if e.Side == "out" && k+1 < len(t.Pins) {
		room = t.Pins[k+1].Time - p.Time
	}
	if e.Side == "in" {
		if own, other, sign = &p.In, p.Out, -1; k > 0 {
			room = p.Time - t.Pins[k-1].Time
		}
	}
	if *own == nil || room == 0 {
		return fmt.Errorf("the curve has no handle there")
	}
	was := **own
	long := math.Max(0, math.Min(room, sign*e.Time))
	now := shot.Handle{Time: sign * long, Value: e.Value}
	if other != nil && !e.Broken && long > 1e-9 {
		if cross := was.Value*other.Time - other.Value*was.Time; math.Abs(cross) <= 1e-6+1e-3*math.Abs(was.Value*other.Time) {
			other.Value = now.Value / now.Time * other.Time
		}
	}
	*own = &now
	return nil
}
