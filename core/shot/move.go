package shot

import (
	"bytes"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
)

// MoveKind names a kind of move. What kinds there are, core/move says.
type MoveKind string

// Move is one parametric motion on one part. What its kind takes stands in Data, which documents have under the name
// of the kind: {"id": ..., "kind": "turn", "turn": {...}}. Moves with a progress run it over their span.
type Move struct {
	ID    string   `json:"id"`
	Kind  MoveKind `json:"kind"`
	Muted bool     `json:"muted"`
	Solo  bool     `json:"solo,omitempty"` // while any move of a part is solo, its others rest

	Backwards bool `json:"backwards,omitempty"` // time runs from the shot's end to its beginning

	Span  *Span   `json:"span"`           // null for the whole shot
	Pace  Pace    `json:"pace"`           // of each lap
	Laps  int     `json:"laps,omitempty"` // how often progress runs over the span; 0 for once
	After After   `json:"after"`          // what follows the span
	Pins  []Track `json:"pins,omitempty"` // pins on numbers of Data, by their names

	Data any `json:"-"` // a pointer to the struct of its kind
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

// Opposite returns the other direction.
func (d Direction) Opposite() Direction {
	if d == Clockwise {
		return CounterClockwise
	}
	return Clockwise
}

// Frame says whose axes are meant.
type Frame string

const (
	OwnFrame    Frame = "own"
	ParentFrame Frame = "parent"
	RoomFrame   Frame = "room"
)

// Span is a stretch of time in frames. In a loop it may run across the seam.
type Span struct {
	From float64 `json:"from"`
	To   float64 `json:"to"` // greater than From
}

// Long is how long the span takes, in frames.
func (s Span) Long() float64 { return s.To - s.From }

// After says what a move does after its span.
type After string

const (
	Stays     After = "stays"
	Returns   After = "returns"
	Repeats   After = "repeats"
	CarriesOn After = "carries on"     // repeats, adding what it has done
	Mirrored  After = "there and back" // repeats, every second time backwards
)

// MoveType is what a document has to know of a kind of move.
type MoveType struct {
	Blank  func() any                    // a pointer to an empty struct of the kind
	Copy   func(data any) any            // a copy that shares nothing that is changed in place
	Check  func(m *Move, on *Part) error // says in a sentence why a move of the kind makes no motion on a part
	Needs  func(data any) []string       // the parts that it looks at
	Pinned func(name string) bool        // whether a number of this name can carry pins
	Bends  bool                          // it deforms meshes
}

var moveTypes = map[MoveKind]MoveType{}

// RegisterMove makes a kind of move known to documents. It is called by core/move before anything is read.
func RegisterMove(kind MoveKind, t MoveType) { moveTypes[kind] = t }

// CanPin reports whether a number of a kind of move can carry pins.
func CanPin(kind MoveKind, name string) bool {
	t, ok := moveTypes[kind]
	return ok && t.Pinned(name)
}

// Needs returns the parts that the move looks at.
func (m *Move) Needs() []string { return moveTypes[m.Kind].Needs(m.Data) }

// Check returns an error in a sentence for a move that makes no motion on a part.
func (m *Move) Check(p *Part) error {
	t, ok := moveTypes[m.Kind]
	if !ok || m.Data == nil {
		return fmt.Errorf("a move of kind %q has no data of that kind", m.Kind)
	}
	if m.Span != nil && !(finite(m.Span.From) && finite(m.Span.To) && m.Span.Long() >= 1e-6) {
		return fmt.Errorf("a span ends after it begins; from %g to %g does not", m.Span.From, m.Span.To)
	}
	switch m.After {
	case "", Stays, Returns, Repeats, CarriesOn, Mirrored:
	default:
		return fmt.Errorf("after its span a move stays, returns, repeats, carries on or goes there and back, not %q", m.After)
	}
	if m.Laps < 0 || m.Laps > 100_000 {
		return fmt.Errorf("a move makes 1 to 100,000 laps of its span, not %d", m.Laps)
	}
	if err := m.Pace.Check(); err != nil {
		return err
	}
	for i := range m.Pins {
		k := &m.Pins[i]
		if !t.Pinned(string(k.Value)) {
			return fmt.Errorf("a %s has no number %q that could carry pins", m.Kind, k.Value)
		}
		if err := k.check(false); err != nil {
			return err
		}
	}
	return t.Check(m, p)
}

// moveHead is a move without what its kind takes.
type moveHead Move

// MarshalJSON writes the move with its data under the name of its kind.
func (m Move) MarshalJSON() ([]byte, error) {
	head, err := json.Marshal(moveHead(m))
	if err != nil || m.Data == nil {
		return head, err
	}
	data, err := json.Marshal(m.Data)
	if err != nil {
		return nil, err
	}
	kind, err := json.Marshal(string(m.Kind))
	if err != nil {
		return nil, err
	}
	out := append(head[:len(head)-1], ',')
	out = append(append(append(out, kind...), ':'), data...)
	return append(out, '}'), nil
}

// UnmarshalJSON reads a move; one of a kind that is not known is an error.
func (m *Move) UnmarshalJSON(b []byte) error {
	var head moveHead
	if err := json.Unmarshal(b, &head); err != nil {
		return err
	}
	kind, ok := moveTypes[head.Kind]
	if !ok {
		return fmt.Errorf("there is no move %q; there are %q", head.Kind, slices.Sorted(maps.Keys(moveTypes)))
	}
	var all map[string]json.RawMessage
	if err := json.Unmarshal(b, &all); err != nil {
		return err
	}
	if data := all[string(head.Kind)]; len(data) > 0 && !bytes.Equal(data, []byte("null")) {
		head.Data = kind.Blank()
		if err := json.Unmarshal(data, head.Data); err != nil {
			return err
		}
	}
	*m = Move(head)
	return nil
}

// Clone returns a copy of the move that shares nothing with it.
func (m *Move) Clone() Move {
	c := *m
	if m.Span != nil {
		span := *m.Span
		c.Span = &span
	}
	c.Pace = m.Pace.Clone()
	c.Pins = cloneTracks(m.Pins)
	if m.Data != nil {
		c.Data = moveTypes[m.Kind].Copy(m.Data)
	}
	return c
}
