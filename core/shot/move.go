package shot

import "perigyre/core/geom"

// MoveKind names a kind of move.
type MoveKind string

const (
	KindTurntable MoveKind = "turntable"
	KindTurn      MoveKind = "turn"
	KindFloat     MoveKind = "float"
)

// Move is one parametric motion on one part. The field that its kind names is set.
type Move struct {
	ID    string   `json:"id"`
	Kind  MoveKind `json:"kind"`
	Muted bool     `json:"muted"`

	Turntable *Turntable `json:"turntable,omitempty"`
	Turn      *Turn      `json:"turn,omitempty"`
	Float     *Float     `json:"float,omitempty"`
}

// Direction is seen from the tip of the axis: from above for an upright one.
type Direction string

const (
	Clockwise        Direction = "clockwise"
	CounterClockwise Direction = "counterclockwise"
)

// Sign returns the sign of the angle: a positive angle turns counter-clockwise.
func (d Direction) Sign() float64 {
	if d == Clockwise {
		return -1
	}
	return 1
}

// Turntable turns everything in its group, or the shot's camera, about the group's upright axis:
// whole turns, over the whole shot, at constant speed. It has no pace, so that it cannot stutter.
type Turntable struct {
	Moves     TurntableMoves `json:"moves"`
	Direction Direction      `json:"direction"` // of what moves
	Turns     int            `json:"turns"`
	Plinth    bool           `json:"plinth"` // whether a plinth in the group turns along
}

// TurntableMoves says what goes round.
type TurntableMoves string

const (
	ObjectMoves TurntableMoves = "object"
	CameraMoves TurntableMoves = "camera"
)

// Turn rotates a part about an axis through its pivot.
type Turn struct {
	Axis      geom.Vec3 `json:"axis"`
	Frame     Frame     `json:"frame"` // of the axis
	Turns     float64   `json:"turns"`
	Direction Direction `json:"direction"`
	Span      *Span     `json:"span"` // null for the whole shot
	Pace      Pace      `json:"pace"`
	After     After     `json:"after"`
}

// Frame says whose axes are meant.
type Frame string

const (
	OwnFrame    Frame = "own"
	ParentFrame Frame = "parent"
)

// Float lifts a part and lets it down again in a sine, swaying as it goes. It starts at the lowest
// point, so that what stands on a plinth never sinks into it.
type Float struct {
	Height float64 `json:"height"` // from lowest to highest
	Period float64 `json:"period"` // frames
	Tilt   float64 `json:"tilt"`   // sway either way about the parent's z axis
}

// Span is a stretch of time in frames. In a loop it may run across the seam.
type Span struct {
	From float64 `json:"from"`
	To   float64 `json:"to"` // greater than From
}

// PaceKind names how progress runs over a span.
type PaceKind string

const (
	Constant PaceKind = "constant"
	Bezier   PaceKind = "bezier"
)

// Pace is how a move's progress runs over its span.
type Pace struct {
	Kind   PaceKind    `json:"kind"`
	Bezier *[4]float64 `json:"bezier,omitempty"` // x1 y1 x2 y2, as in CSS cubic-bezier()
}

// After says what a move does after its span.
type After string

const (
	Stays     After = "stays"
	Returns   After = "returns"
	Repeats   After = "repeats"
	CarriesOn After = "carries on" // repeats, adding what it has done
)
