// Package move holds the kinds of moves, a file each: what a kind takes, the sentence that it reads as, what it does to
// a pose, how far it turns, what it needs to come back to its beginning. Everything else in the program asks here, by the
// kind's name, and knows none of them. To add a kind, write a file with a struct and a Spec of it.
//
// Lengths are metres of the room, whatever unit a model came in with; poses are in the unit of their parent's frame, which
// Context.Metre converts. Angles are radians, times frames.
package move

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"

	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/shot"
)

// Spec says all about a kind of move whose parameters are a T. What is nil does not apply to the kind.
type Spec[T any] struct {
	Kind shot.MoveKind
	Note string // what it is for, in the menu
	Find string // further words that it is found by

	// Suits reports whether a part can be given the move, and First gives its first values there. Nil suits any part.
	Suits func(s *Subject) bool
	First func(s *Subject) (T, Timing)

	Words    []Value[T] // what can be set of it, by name
	More     *More[T]   // numbers beside them that can be set and pinned; nil for none
	Sentence []Word

	// Check returns an error in a sentence for parameters that make no motion on a part.
	Check func(m *T, on *shot.Part) error
	// Scale makes lengths that are no numbers of Words so many times as large.
	Scale func(m *T, k float64)
	// Clone returns a copy where a shallow one would share what is changed in place.
	Clone func(m *T) *T
	// Needs names the parts that it looks at.
	Needs func(m *T) []string
	// Times calls at for every point in time that the parameters hold, and long for every length of time.
	Times func(m *T, at, long func(*float64))
	// Shift is told that everything comes so many frames later, where that is not said by times.
	Shift func(m *T, frames float64)
	// Reverse turns it round in time by its parameters alone; without it time runs backwards for the whole move.
	Reverse func(m *T)

	// Prepare works out once for an evaluator what Apply looks up: a measured path. On is the part that has the move.
	Prepare func(m *T, on *shot.Part) any
	// Apply changes the pose of its part, in the parent's frame.
	Apply func(m *T, c *Context, p *shot.Rest)
	// Angle is how far it has turned its part about its axis, radians and beyond whole turns.
	Angle func(m *T, c *Context) float64
	// Carry is how far it has carried the render camera round the upright axis of its part; ok is false for none.
	Carry func(m *T, c *Context) (angle float64, ok bool)
	// LeavesPlinth reports whether a plinth in its group stands still under what it moves.
	LeavesPlinth func(m *T) bool
	// Members is set of moves of a group that act on each of its parts.
	Members *Members[T]
	// Bend is how it deforms the meshes of its part and of all in it.
	Bend func(m *T, c *Context) Bent
	// Guided is set of moves of a group that part its parts from where they sit.
	Guided *Guided[T]
	// Look changes the look of its part and of all in it.
	Look func(m *T, c *Context, l *motion.Look)

	// Period is the time in frames after which a clock of its own comes round, whatever its span; 0 for none.
	Period func(m *T, in Setting) float64
	// Wave is the course of one period, from 0 to 1, as its bar draws it.
	Wave func(u float64) float64
	// Blank sets what a document leaves unsaid and is not zero.
	Blank func(m *T)
	// Laps is how often it goes round over the shot, where that can be said.
	Laps func(m *T) float64
	// Rests reports whether it is meant to slow down on its way, as a turn with stops is.
	Rests func(m *T) bool
	// Mends are changes that may make it come back to its beginning; each is tried before it is offered.
	Mends func(m *T, b *Mending)

	// Bar is what it is in few words, beside its name and pace, and About what it is about, where that is not its own to say.
	Bar   func(m *T) string
	About func(m *T, in Setting) string
	// Handles are what of it has a place in the bench.
	Handles []Handle
	// Table is whether it makes its group the turntable of the set, Places whether it says where a camera stands whatever
	// its fit, as saved angles do.
	Table, Places bool
	// Axle is whether it turns its part about its middle: where nothing moves a part yet, a new one puts its pivot there.
	Axle bool

	// Examples are worked examples that a test runs.
	Examples []Example[T]
}

// Members is how a move of a group acts on each of its parts.
type Members[T any] struct {
	Deep  bool                                 // panels on panels too
	Each  bool                                 // copies one by one, each as a part of its own
	Base  func(m *T) string                    // a part that is left out; nil for none
	Only  func(m *T, on *shot.Part) []string   // the parts that it acts on; nil for all
	Order func(m *T, at []geom.Vec3) []int     // for each part how many come before it; nil for the order of the list
	Apply func(m *T, c *Context, p *shot.Rest) // Context.Place says which part it is
	Mix   func(m *T, c *Context, w []float64)  // adds to the weights of a part's morph targets
	Fades func(m *T) bool                      // whether Fade says anything; nil for never
	Fade  func(m *T, c *Context) float64       // share of its opacity that is left
}

// Guided is what tells where the parts of a group sit that a move parts from there: lines and labels.
type Guided[T any] struct {
	Drawn  func(m *T) bool                                                            // whether lines are seen in the picture
	Legs   func(m *T, c *Context) []geom.Vec3                                         // how far a part has gone, one way after another, in its parent's frame
	Labels func(m *T, known func(part string) (name string, size float64)) []Labelled // what its parts are called, the largest first
}

// Labelled is a label of some parts that leave together; the first is what its line leads to, or any one that is as large.
type Labelled struct {
	Text  string
	Parts []string
	Drawn bool // it is seen in the picture, else in the pass of labels alone
	Dark  bool // its letters are dark
}

// More are numbers of a move of which there are many.
type More[T any] struct {
	Unit  Unit
	Known func(name string) bool           // whether a number can have the name
	At    func(m *T, name string) *float64 // nil where there is none
}

// Setting is where a move stands.
type Setting struct {
	Shot *shot.Shot
	Move *shot.Move
}

// Rate is frames a second.
func (s Setting) Rate() float64 { return s.Shot.Rate.PerSecond() }

// On returns the part that has the move, or nil.
func (s Setting) On() *shot.Part {
	p, _ := s.Shot.Move(s.Move.ID)
	return p
}

// Example is a value that a test works out and compares.
type Example[T any] struct {
	Says  string // the source, or what it shows
	Move  T
	Frame float64   // of a loop of 96 frames at 24 a second
	At    geom.Vec3 // where the origin of a part at rest there goes, metres
	Turn  geom.Quat // and how it is turned then
}

// Kind is a kind of move as the program asks it, whatever its parameters are.
type Kind struct {
	Name  shot.MoveKind
	Note  string
	Find  string
	Table bool
	Axle  bool

	places bool
	scale  func(m any, k float64)

	description Description
	numbers     []number                                // that can carry pins
	more        func(m any, name string) (number, bool) // nil for none
	labels      []label

	suits func(s *Subject) bool
	first func(s *Subject) (any, Timing)

	times   func(m any, at, long func(*float64))
	shift   func(m any, frames float64)
	reverse func(m any) // nil for none

	prepare      func(m any, on *shot.Part) any
	apply        func(m any, c *Context, p *shot.Rest)
	angle        func(m any, c *Context) float64
	carry        func(m any, c *Context) (float64, bool)
	leavesPlinth func(m any) bool
	bend         func(m any, c *Context) Bent
	look         func(m any, c *Context, l *motion.Look)
	guided       *guided
	members      *members

	period func(m any, in Setting) float64
	wave   func(u float64) float64
	laps   func(m any) float64
	rests  func(m any) bool
	mends  func(m any, b *Mending)
	bar    func(m any) string
	about  func(m any, in Setting) string
	values func(m any, on *shot.Part) map[string]any
	set    func(m any, name string, v json.RawMessage, s *Subject) error

	examples func() []exampleRun
	blank    func() any
}

// Blank returns a pointer to an empty struct of the kind's parameters.
func (k *Kind) Blank() any { return k.blank() }

type guided struct {
	drawn  func(m any) bool
	legs   func(m any, c *Context) []geom.Vec3
	labels func(m any, known func(part string) (string, float64)) []Labelled
}

type members struct {
	deep  bool
	each  bool
	base  func(m any) string
	only  func(m any, on *shot.Part) []string
	mix   func(m any, c *Context, w []float64)
	order func(m any, at []geom.Vec3) []int
	apply func(m any, c *Context, p *shot.Rest)
	fades func(m any) bool
	fade  func(m any, c *Context) float64
}

type number struct {
	name  string
	of    func(m any) *float64
	label string
	unit  Unit
	room  bool
}

type label struct{ name, label string }

// exampleRun is an example whatever the kind's parameters are.
type exampleRun struct {
	says  string
	data  any
	frame float64
	at    geom.Vec3
	turn  geom.Quat
}

var kinds = map[shot.MoveKind]*Kind{}

// Of returns the kind of a name, or nil.
func Of(name shot.MoveKind) *Kind { return kinds[name] }

// Kinds returns all kinds in the order of their names.
func Kinds() []*Kind {
	var out []*Kind
	for _, name := range slices.Sorted(maps.Keys(kinds)) {
		out = append(out, kinds[name])
	}
	return out
}

// define makes a kind known, to documents too.
func define[T any](s Spec[T]) *Kind {
	k := &Kind{Name: s.Kind, Note: s.Note, Find: s.Find, Table: s.Table, Axle: s.Axle, places: s.Places, suits: s.Suits, wave: s.Wave}
	k.description = Description{Kind: s.Kind, Name: strings.ToUpper(string(s.Kind[:1])) + string(s.Kind[1:]), Note: s.Note, Find: s.Find, Table: s.Table, Sentence: s.Sentence, Handles: s.Handles}
	of := func(m any) *T { return m.(*T) }
	if s.First != nil {
		k.first = func(sub *Subject) (any, Timing) {
			m, t := s.First(sub)
			return &m, t
		}
	}
	if s.Scale != nil {
		k.scale = func(m any, f float64) { s.Scale(of(m), f) }
	}
	if s.Times != nil {
		k.times = func(m any, at, long func(*float64)) { s.Times(of(m), at, long) }
	}
	if s.Shift != nil {
		k.shift = func(m any, f float64) { s.Shift(of(m), f) }
	}
	if s.Reverse != nil {
		k.reverse = func(m any) { s.Reverse(of(m)) }
	}
	if s.Prepare != nil {
		k.prepare = func(m any, on *shot.Part) any { return s.Prepare(of(m), on) }
	}
	if s.Apply != nil {
		k.apply = func(m any, c *Context, p *shot.Rest) { s.Apply(m.(*T), c, p) }
	}
	if s.Angle != nil {
		k.angle = func(m any, c *Context) float64 { return s.Angle(of(m), c) }
	}
	if s.Carry != nil {
		k.carry = func(m any, c *Context) (float64, bool) { return s.Carry(of(m), c) }
	}
	if s.LeavesPlinth != nil {
		k.leavesPlinth = func(m any) bool { return s.LeavesPlinth(of(m)) }
	}
	if s.Bend != nil {
		k.bend = func(m any, c *Context) Bent { return s.Bend(of(m), c) }
	}
	if s.Look != nil {
		k.look = func(m any, c *Context, l *motion.Look) { s.Look(of(m), c, l) }
	}
	if s.Period != nil {
		k.period = func(m any, in Setting) float64 { return s.Period(of(m), in) }
	}
	if s.Laps != nil {
		k.laps = func(m any) float64 { return s.Laps(of(m)) }
	}
	if s.Rests != nil {
		k.rests = func(m any) bool { return s.Rests(of(m)) }
	}
	if s.Mends != nil {
		k.mends = func(m any, b *Mending) { s.Mends(of(m), b) }
	}
	if s.Bar != nil {
		k.bar = func(m any) string { return s.Bar(of(m)) }
	}
	if s.More != nil {
		k.more = func(m any, name string) (number, bool) {
			if s.More.At(of(m), name) == nil {
				return number{}, false
			}
			return number{name: name, of: func(m any) *float64 { return s.More.At(of(m), name) }, label: name, unit: s.More.Unit}, true
		}
	}
	if g := s.Guided; g != nil {
		k.guided = &guided{
			drawn:  func(m any) bool { return g.Drawn(of(m)) },
			legs:   func(m any, c *Context) []geom.Vec3 { return g.Legs(of(m), c) },
			labels: func(m any, known func(string) (string, float64)) []Labelled { return g.Labels(of(m), known) },
		}
	}
	if s.About != nil {
		k.about = func(m any, in Setting) string { return s.About(of(m), in) }
	}
	if e := s.Members; e != nil {
		k.members = &members{deep: e.Deep, each: e.Each, apply: func(m any, c *Context, p *shot.Rest) { e.Apply(of(m), c, p) }}
		if e.Base != nil {
			k.members.base = func(m any) string { return e.Base(of(m)) }
		}
		if e.Only != nil {
			k.members.only = func(m any, on *shot.Part) []string { return e.Only(of(m), on) }
		}
		if e.Mix != nil {
			k.members.mix = func(m any, c *Context, w []float64) { e.Mix(of(m), c, w) }
		}
		if e.Order != nil {
			k.members.order = func(m any, at []geom.Vec3) []int { return e.Order(of(m), at) }
		}
		if e.Fades != nil {
			k.members.fades = func(m any) bool { return e.Fades(of(m)) }
			k.members.fade = func(m any, c *Context) float64 { return e.Fade(of(m), c) }
		}
	}
	for _, v := range s.Words {
		k.labels = append(k.labels, label{v.Name, v.Label})
		k.description.Values = append(k.description.Values, v.words())
		if v.At != nil {
			k.numbers = append(k.numbers, number{v.Name, func(m any) *float64 { return v.At(of(m)) }, v.Label, v.Unit, v.Room})
		}
		if v.Vec != nil {
			for i, axis := range []string{" x", " y", " z"} {
				k.numbers = append(k.numbers, number{v.Name + axis, func(m any) *float64 { return &v.Vec(of(m))[i] }, v.Label + axis, v.Unit, v.Room})
			}
		}
	}
	k.values = func(m any, on *shot.Part) map[string]any {
		out := map[string]any{}
		for i := range s.Words {
			out[s.Words[i].Name] = s.Words[i].read(of(m), on)
		}
		return out
	}
	k.set = func(m any, name string, v json.RawMessage, sub *Subject) error {
		for i := range s.Words {
			if s.Words[i].Name == name {
				return s.Words[i].write(of(m), v, sub)
			}
		}
		if n, ok := k.number(m, name); ok { // a component of a vector
			if json.Unmarshal(v, n.of(m)) != nil {
				return fmt.Errorf("the %s cannot be %s", lower(n.label), v)
			}
			return nil
		}
		return fmt.Errorf("a %s has nothing that is called %q", s.Kind, name)
	}
	k.examples = func() (out []exampleRun) {
		for _, e := range s.Examples {
			out = append(out, exampleRun{e.Says, &e.Move, e.Frame, e.At, e.Turn})
		}
		return out
	}
	fresh := func() any {
		m := new(T)
		if s.Blank != nil {
			s.Blank(m)
		}
		return m
	}
	k.blank = fresh
	pinned := map[string]bool{}
	for _, v := range s.Words {
		if v.Pins && v.Vec != nil {
			pinned[v.Name+" x"], pinned[v.Name+" y"], pinned[v.Name+" z"] = true, true, true
		}
		pinned[v.Name] = pinned[v.Name] || v.Pins
	}
	shot.RegisterMove(s.Kind, shot.MoveType{
		Bends: s.Bend != nil,
		Blank: fresh,
		Copy: func(m any) any {
			if s.Clone != nil {
				return s.Clone(of(m))
			}
			c := *of(m)
			return &c
		},
		Check: func(m *shot.Move, on *shot.Part) error {
			data, ok := m.Data.(*T)
			if !ok {
				return fmt.Errorf("a move of kind %q has no data of that kind", m.Kind)
			}
			for i := range s.Words {
				if err := s.Words[i].bounded(data, s.Kind); err != nil {
					return err
				}
			}
			if s.Check != nil {
				return s.Check(data, on)
			}
			return nil
		},
		Needs: func(m any) []string {
			if s.Needs == nil {
				return nil
			}
			return s.Needs(of(m))
		},
		Pinned: func(name string) bool { return pinned[name] || s.More != nil && s.More.Known(name) },
	})
	kinds[s.Kind] = k
	return k
}

// Number returns the number of a move's parameters that has this name, or nil.
func Number(m *shot.Move, name string) *float64 {
	if n, ok := kinds[m.Kind].number(m.Data, name); ok {
		return n.of(m.Data)
	}
	return nil
}

// number finds a number of the kind's parameters by its name.
func (k *Kind) number(m any, name string) (number, bool) {
	for _, n := range k.numbers {
		if n.name == name {
			return n, true
		}
	}
	if k.more != nil {
		return k.more(m, name)
	}
	return number{}, false
}
