package shot

import (
	"fmt"
	"math"

	"perigyre/core/geom"
)

// Value names what a track animates. All of them add to the rest pose or multiply it, so that a part
// without tracks is at rest.
type Value string

const (
	TrackX           Value = "x" // metres in the parent's frame, added to the rest position
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
	switch t.Value {
	case TrackX, TrackY, TrackZ, TrackOrientation, TrackTurnX, TrackTurnY, TrackTurnZ, TrackWidth, TrackHeight, TrackDepth:
	default:
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
