package move

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

// Unit is what a number counts, and so how a field shows it.
type Unit string

const (
	Plain  Unit = ""       // a number by itself
	Length Unit = "length" // metres of the room
	Angle  Unit = "angle"  // radians
	Turns  Unit = "turns"  // whole turns or laps
	Frames Unit = "time"   // frames
	Share  Unit = "share"  // 1 is the whole
)

// Shown is how a value is set: what the interface knows to draw.
type Shown string

const (
	AsNumber  Shown = "number"
	AsVector  Shown = "vector" // three numbers
	AsAxis    Shown = "axis"   // an axis by name, picked or typed
	AsWay     Shown = "way"    // a way along the floor
	AsChoice  Shown = "choice"
	AsPart    Shown = "part"    // another part
	AsMember  Shown = "member"  // a part of the group, or none
	AsColor   Shown = "colour"  // scene-linear
	AsDrawing Shown = "drawing" // SVG path data
	AsPoints  Shown = "points"  // of a curve, from the part's place
	AsStops   Shown = "stops"   // of a flight
	AsPlan    Shown = "plan"    // of what is taken apart
	AsPanels  Shown = "panels"  // that unfold
	AsCage    Shown = "cage"    // points round a part
	AsClip    Shown = "clip"    // one of the part's, by its number
	Hidden    Shown = "hidden"  // only asked by When
)

// Range is from least to most, both included.
type Range struct {
	Least float64 `json:"least"`
	Most  float64 `json:"most"`
}

// most a number of a move can be, either way: far beyond what anyone means, and far from where arithmetic ends.
const most = 1e9

// tiny is the least of what has to be more than 0.
const tiny = 1e-9

var (
	positive = &Range{tiny, most}
	notBelow = &Range{0, most} // 0
)

// Option is one of the words that a choice is made from.
type Option struct {
	Value string `json:"value"`
	Text  string `json:"text"` // as it reads in the sentence
}

// Value is something of a move that can be set. Exactly one of At, Vec, Int, Str and Get says where it is.
type Value[T any] struct {
	Name  string
	Label string // of its field
	As    Shown  // number or vector if empty
	Unit  Unit
	In    *Range // nil for any number that can be worked with
	Whole bool
	Pins  bool   // it can carry pins
	Room  bool   // a length that is measured in the room, whatever its part is in
	Ones  string // what it counts, if one: "edge"
	Many  string // if several: "edges"

	Options []Option
	None    string // of a part: the word for none

	At    func(m *T) *float64
	Vec   func(m *T) *geom.Vec3
	Int   func(m *T) *int
	Str   func(m *T) *string
	Get   func(m *T, on *shot.Part) any
	Set   func(m *T, v json.RawMessage, s *Subject) error // beside Get
	check func(m *T) error                                // of what Get gives, beside what In and Options say
	// Then follows a setting: what else has to change with it.
	Then func(m *T, s *Subject)
}

func (v *Value[T]) read(m *T, on *shot.Part) any {
	switch {
	case v.At != nil:
		return *v.At(m)
	case v.Vec != nil:
		return *v.Vec(m)
	case v.Int != nil:
		return *v.Int(m)
	case v.Str != nil:
		return *v.Str(m)
	}
	return v.Get(m, on)
}

func (v *Value[T]) write(m *T, raw json.RawMessage, s *Subject) error {
	err := v.put(m, raw, s)
	if err != nil {
		return err
	}
	if v.Then != nil {
		v.Then(m, s)
	}
	return nil
}

func (v *Value[T]) put(m *T, raw json.RawMessage, s *Subject) error {
	var err error
	switch {
	case v.At != nil:
		err = json.Unmarshal(raw, v.At(m))
	case v.Vec != nil:
		err = json.Unmarshal(raw, v.Vec(m))
	case v.Int != nil:
		var f float64
		if err = json.Unmarshal(raw, &f); err == nil {
			if f != math.Trunc(f) || math.Abs(f) > most {
				return fmt.Errorf("the %s is a whole number, not %g", v.Label, f)
			}
			*v.Int(m) = int(f)
		}
	case v.Str != nil:
		err = json.Unmarshal(raw, v.Str(m))
	case v.Set != nil:
		return v.Set(m, raw, s)
	default:
		return fmt.Errorf("the %s follows from others", v.Label)
	}
	if err != nil {
		return fmt.Errorf("the %s cannot be %s", v.Label, raw)
	}
	return nil
}

// bounded checks that numbers are within their range and choices among their options.
func (v *Value[T]) bounded(m *T, kind shot.MoveKind) error {
	in := Range{-most, most}
	if v.In != nil {
		in = *v.In
	}
	check := func(x float64) error {
		if x >= in.Least && x <= in.Most {
			return nil
		}
		scale, unit := 1.0, ""
		switch v.Unit {
		case Share:
			scale, unit = 100, " %"
		case Angle:
			scale, unit = 180/math.Pi, " degrees"
		case Frames:
			unit = " frames"
		case Length:
			unit = " m"
		case Turns:
			if unit = " turns"; v.Whole || v.Int != nil {
				unit = " whole turns"
			}
		}
		is := "is"
		if strings.HasSuffix(v.Label, "s") {
			is = "are"
		}
		return fmt.Errorf("the %s of a %s %s %.4g to %.4g%s, not %.4g", v.name(), kind, is, in.Least*scale, in.Most*scale, unit, x*scale)
	}
	switch {
	case v.check != nil:
		return v.check(m)
	case v.At != nil:
		return check(*v.At(m))
	case v.Int != nil:
		return check(float64(*v.Int(m)))
	case v.Vec != nil:
		p := v.Vec(m)
		for _, x := range p {
			if err := check(x); err != nil {
				return err
			}
		}
		if v.As == AsAxis && p.Len() < tiny {
			return fmt.Errorf("the %s of a %s has a length", v.name(), kind)
		}
		if v.As == AsWay && math.Hypot(p[0], p[2]) < tiny {
			return fmt.Errorf("the %s of a %s goes along the floor", v.name(), kind)
		}
	case v.Str != nil && len(v.Options) > 0:
		if now := *v.Str(m); !slices.ContainsFunc(v.Options, func(o Option) bool { return o.Value == now }) {
			var names []string
			for _, o := range v.Options {
				names = append(names, o.Value)
			}
			return fmt.Errorf("the %s of a %s is one of %q, not %q", v.name(), kind, names, now)
		}
	}
	return nil
}

func (v *Value[T]) name() string { return lower(v.Label) }

// When is a condition on a value of the move.
type When struct {
	Name string `json:"name"`
	Is   []any  `json:"is"` // any of these
}

// Word is a piece of a sentence.
type Word struct {
	Is    string `json:"is"`              // text, part, value, timing, span, begin, pace or some
	Text  string `json:"text,omitempty"`  // of a text
	Name  string `json:"name,omitempty"`  // of a value
	When  *When  `json:"when,omitempty"`  // of some: without it they are always there
	Words []Word `json:"words,omitempty"` // of some
}

// part is the name of the part that the move is on, span when it acts and what follows, timing that and at which pace, begin when it
// begins, pace the pace alone.
var (
	part   = Word{Is: "part"}
	timing = Word{Is: "timing"}
	span   = Word{Is: "span"}
	begin  = Word{Is: "begin"}
	pace   = Word{Is: "pace"}
)

// val is a value of the move.
func val(name string) Word { return Word{Is: "value", Name: name} }

// say makes a sentence of texts and words.
func say(list ...any) []Word {
	var out []Word
	for _, w := range list {
		switch w := w.(type) {
		case string:
			out = append(out, Word{Is: "text", Text: w})
		case Word:
			out = append(out, w)
		case []Word:
			out = append(out, w...)
		}
	}
	return out
}

// when is what is said only where a value is one of some.
func when(name string, is any, list ...any) Word {
	any, ok := is.([]any)
	if !ok {
		any = append(any, is)
	}
	return Word{Is: "some", When: &When{name, any}, Words: say(list...)}
}

func either(list ...any) []any { return list }

// Handle is something of a move that has a place in the bench, and is dragged there.
type Handle struct {
	Is     string            `json:"is"` // point, points, along, arc, axis, orbit, reach or stops
	Name   string            `json:"name"`
	Values map[string]string `json:"values"`         // which value has which role
	Way    geom.Vec3         `json:"way,omitzero"`   // of along, in the parent's frame
	When   *When             `json:"when,omitempty"` // the handle is there
}

// Timing is when a new move acts and what follows.
type Timing struct {
	Span  *shot.Span
	Pace  shot.Pace
	Laps  int
	After shot.After
}

// throughout is over the whole shot, and gently there and back over it.
func throughout() Timing { return Timing{Pace: shot.Pace{Kind: shot.Constant}, After: shot.Stays} }
func gently() Timing {
	return Timing{Pace: shot.Pace{Kind: shot.Sine, Way: "both"}, Laps: 2, After: shot.Mirrored}
}

// Description is what the interface draws a kind from.
type Description struct {
	Kind     shot.MoveKind `json:"kind"`
	Name     string        `json:"name"`
	Note     string        `json:"note"`
	Find     string        `json:"find"`
	Table    bool          `json:"table,omitempty"`
	Sentence []Word        `json:"sentence"`
	Values   []ValueWords  `json:"values"`
	Handles  []Handle      `json:"handles"`
}

// ValueWords is how a value is shown and set.
type ValueWords struct {
	Name    string   `json:"name"`
	Label   string   `json:"label"`
	As      Shown    `json:"as"`
	Unit    Unit     `json:"unit,omitempty"`
	In      *Range   `json:"in,omitempty"`
	Whole   bool     `json:"whole,omitempty"`
	Pins    bool     `json:"pins,omitempty"`
	Ones    string   `json:"ones,omitempty"`
	Many    string   `json:"many,omitempty"`
	None    string   `json:"none,omitempty"`
	Options []Option `json:"options,omitempty"`
}

func (v *Value[T]) words() ValueWords {
	as := v.As
	if as == "" {
		switch {
		case v.Vec != nil:
			as = AsVector
		case len(v.Options) > 0:
			as = AsChoice
		default:
			as = AsNumber
		}
	}
	return ValueWords{v.Name, v.Label, as, v.Unit, v.In, v.Whole || v.Int != nil, v.Pins, v.Ones, v.Many, v.None, v.Options}
}

// Describe returns the descriptions of all kinds.
func Describe() []Description {
	var out []Description
	for _, k := range Kinds() {
		d := k.description
		if d.Handles == nil {
			d.Handles = []Handle{}
		}
		out = append(out, d)
	}
	return out
}
