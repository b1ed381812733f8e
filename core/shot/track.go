package shot

import (
	"fmt"
	"math"
	"slices"

	"perigyre/core/geom"
)

// Value names what a track animates. All of them add to the rest pose or multiply it, so that a part
// without tracks is at rest.
type Value string

const (
	TrackX           Value = "x" // metres of the room along the parent's axes, added to the rest position
	TrackY           Value = "y"
	TrackZ           Value = "z"
	TrackOrientation Value = "orientation" // a rotation in the parent's frame, after that of the rest pose
	TrackTurnX       Value = "turn x"      // radians about the part's own axes, one after another; beyond whole turns too
	TrackTurnY       Value = "turn y"
	TrackTurnZ       Value = "turn z"
	TrackWidth       Value = "width" // factors on the rest size, along the part's x, y and z
	TrackHeight      Value = "height"
	TrackDepth       Value = "depth"
)

// Track holds the pins of one value of a part, in the order of their times.
type Track struct {
	Value  Value  `json:"value"`
	Pins   []Pin  `json:"pins"`
	Before Beyond `json:"before,omitempty"` // the first pin; hold if empty
	After  Beyond `json:"after,omitempty"`  // the last pin; hold if empty
}

// Pin is a value at a time.
type Pin struct {
	Time  float64    `json:"time"` // frames
	Value float64    `json:"value,omitempty"`
	Turn  *geom.Quat `json:"turn,omitempty"` // of an orientation, in place of Value
	Next  Between    `json:"next,omitempty"` // how the value runs to the next pin; constant speed if empty
	In    *Handle    `json:"in,omitempty"`   // of a curve that comes from the pin before
	Out   *Handle    `json:"out,omitempty"`  // of a curve to the next pin
}

// Handle is an inner control point of a curve between two pins, seen from the pin it belongs to. That of
// an orientation is the change of the quaternion's components; its curve is cubic in time.
type Handle struct {
	Time  float64     `json:"time"` // frames from the pin; below 0 for one that comes in
	Value float64     `json:"value,omitempty"`
	Turn  *[4]float64 `json:"turn,omitempty"`
}

// Between says how a value runs from one pin to the next.
type Between string

const (
	Straight Between = ""       // constant speed; orientations on the shorter arc
	Holds    Between = "hold"   // stays until the next pin
	Curves   Between = "curve"  // cubic Bezier by the handles
	Smooth   Between = "smooth" // a curve that never goes beyond its pins, with no handles to set
)

// Beyond says what a track does before its first pin or after its last.
type Beyond string

const (
	BeyondHold     Beyond = "" // the value of the pin
	BeyondRepeat   Beyond = "repeat"
	BeyondCarryOn  Beyond = "carry on" // repeats, adding what has been done
	BeyondMirrored Beyond = "mirror"   // there and back
)

// MaxPins of a shot.
const MaxPins = 500_000

func (t *Track) validate() error {
	if !slices.Contains(Values, t.Value) {
		return fmt.Errorf("there is no track %q", t.Value)
	}
	return t.check(t.Value == TrackOrientation)
}

// check looks at the pins alone: whether they are in order and of the right kind.
func (t *Track) check(turns bool) error {
	if len(t.Pins) == 0 {
		return fmt.Errorf("the track %s has no pins", t.Value)
	}
	for _, b := range []Beyond{t.Before, t.After} {
		if b != BeyondHold && b != BeyondRepeat && b != BeyondCarryOn && b != BeyondMirrored {
			return fmt.Errorf("beyond its pins a track holds, repeats, carries on or is mirrored; %q is none of these", b)
		}
	}
	for i := range t.Pins {
		p := &t.Pins[i]
		if !finite(p.Time) || !finite(p.Value) || i > 0 && p.Time <= t.Pins[i-1].Time {
			return fmt.Errorf("the pins of %s are not numbers in the order of their times", t.Value)
		}
		if (p.Turn != nil) != turns {
			return fmt.Errorf("a pin of %s has the wrong kind of value", t.Value)
		}
		if q := p.Turn; q != nil && !(math.Abs(q[0]*q[0]+q[1]*q[1]+q[2]*q[2]+q[3]*q[3]-1) < 1e-3) {
			return fmt.Errorf("a pin of %s is not a unit quaternion", t.Value)
		}
		switch p.Next {
		case Straight, Holds:
		case Smooth:
			if p.Turn != nil {
				return fmt.Errorf("between orientations there are no smooth curves; they run at constant speed or by handles")
			}
		case Curves:
			if i+1 < len(t.Pins) {
				if err := curve(p, &t.Pins[i+1]); err != nil {
					return err
				}
			}
		default:
			return fmt.Errorf("between pins a value runs straight, holds or curves, not %q", p.Next)
		}
	}
	return nil
}

// curve checks the handles between two pins: they must not run back in time, so that there is one value
// at each time.
func curve(a, b *Pin) error {
	long := b.Time - a.Time
	if a.Out == nil || b.In == nil || (a.Turn != nil) != (a.Out.Turn != nil) || (b.Turn != nil) != (b.In.Turn != nil) {
		return fmt.Errorf("a curve from the pin at %g f needs a handle at each end", a.Time)
	}
	if !(a.Out.Time >= 0 && a.Out.Time <= long*(1+1e-9) && b.In.Time <= 0 && -b.In.Time <= long*(1+1e-9)) || !finite(a.Out.Value) || !finite(b.In.Value) {
		return fmt.Errorf("the handles between the pins at %g and %g f reach beyond each other's pin", a.Time, b.Time)
	}
	return nil
}

// pins counts the pins of a shot.
func (s *Shot) pins() int {
	n := 0
	for i := range s.Parts {
		for _, t := range s.Parts[i].Tracks {
			n += len(t.Pins)
		}
		for _, m := range s.Parts[i].Moves {
			for _, t := range m.Pins {
				n += len(t.Pins)
			}
		}
	}
	return n
}

// SamePin is how near two times are the same, in frames.
const SamePin = 1e-6

// At returns the pin at a time, or nil.
func (t *Track) At(time float64) *Pin {
	for k := range t.Pins {
		if math.Abs(t.Pins[k].Time-time) < SamePin {
			return &t.Pins[k]
		}
	}
	return nil
}

// Put puts a pin among others; one that stands there already keeps how it goes on. What ran along a curve that the new
// pin cuts, runs smoothly.
func (t *Track) Put(p Pin) {
	if there := t.At(p.Time); there != nil {
		there.Value, there.Turn = p.Value, p.Turn
		return
	}
	k := slices.IndexFunc(t.Pins, func(o Pin) bool { return o.Time > p.Time })
	if k < 0 {
		k = len(t.Pins)
	}
	if p.Turn != nil && p.Next == Smooth {
		p.Next = Straight // orientations have no smooth curves
	}
	if k > 0 {
		if before := t.Pins[k-1].Next; before != Curves {
			p.Next = before
		} else {
			t.Pins[k-1].Next = Smooth // its handles reached for another pin
			if p.Turn != nil {
				t.Pins[k-1].Next = Straight
			}
		}
	}
	t.Pins = slices.Insert(t.Pins, k, p)
}

// FitHandles shortens handles that reach beyond the neighbouring pin, keeping their slope, and makes straight what runs
// as a curve between pins that lack a handle.
func (t *Track) FitHandles() {
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

// Reverse mirrors the pins in time, about half of end: what ran from one to the next runs from the next to it.
func (t *Track) Reverse(end float64) {
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

// Values are what the tracks of a part can animate, in the order in which they act.
var Values = []Value{TrackX, TrackY, TrackZ, TrackOrientation, TrackTurnX, TrackTurnY, TrackTurnZ, TrackWidth, TrackHeight, TrackDepth}

// Rest is what a value is where nothing is pinned: 1 for sizes and 0 for the others.
func (v Value) Rest() float64 {
	if v == TrackWidth || v == TrackHeight || v == TrackDepth {
		return 1
	}
	return 0
}

// Track returns the track of a value, or nil.
func (p *Part) Track(v Value) *Track {
	for k := range p.Tracks {
		if p.Tracks[k].Value == v {
			return &p.Tracks[k]
		}
	}
	return nil
}

// ValueWords is how a value of a part's pins is shown.
type ValueWords struct {
	Value Value   `json:"value"`
	Label string  `json:"label"`
	Unit  string  `json:"unit"` // length in metres, angle in radians, or share
	Rest  float64 `json:"rest"` // what it is where nothing is pinned
}

// HandValues are the values that are pinned by hand, with their words.
func HandValues() (out []ValueWords) {
	labels := map[Value][2]string{
		TrackX: {"Moved right, x", "length"}, TrackY: {"Moved up, y", "length"}, TrackZ: {"Moved forwards, z", "length"},
		TrackTurnX: {"Turned about x", "angle"}, TrackTurnY: {"Turned about y", "angle"}, TrackTurnZ: {"Turned about z", "angle"},
		TrackWidth: {"Width, of rest", "share"}, TrackHeight: {"Height, of rest", "share"}, TrackDepth: {"Depth, of rest", "share"},
	}
	for _, v := range Values {
		if l, ok := labels[v]; ok {
			out = append(out, ValueWords{v, l[0], l[1], v.Rest()})
		}
	}
	return out
}
