package move

import (
	"fmt"
	"math"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

// TurntableKind is named where the program itself adds a turntable.
const TurntableKind shot.MoveKind = "turntable"

// Turntable turns everything in its group, or carries the shot's camera, about the group's upright axis: whole turns,
// over the whole shot, at constant speed. It has no pace, so that it cannot stutter.
type Turntable struct {
	Moves     string         `json:"moves"`     // object or camera
	Direction shot.Direction `json:"direction"` // of what moves
	Turns     int            `json:"turns"`
	Plinth    bool           `json:"plinth"` // whether a plinth in the group turns along
}

var _ = define(Spec[Turntable]{
	Kind: TurntableKind, Note: "whole turns, closes by itself", Find: "rotate spin product 360", Table: true,
	Suits: func(s *Subject) bool {
		for i := range s.Part().Moves {
			if Table(&s.Part().Moves[i]) {
				return false
			}
		}
		return s.Part().Kind == shot.Group
	},
	First: func(*Subject) (Turntable, Timing) {
		return Turntable{Moves: "object", Direction: shot.Clockwise, Turns: 1, Plinth: true}, throughout()
	},
	Words: []Value[Turntable]{
		{Name: "moves", Label: "What moves", Options: []Option{{"object", "what is on it"}, {"camera", "the camera"}}, Str: func(m *Turntable) *string { return &m.Moves }},
		{Name: "turns", Label: "Turns", Unit: Turns, In: &Range{1, 1000}, Int: func(m *Turntable) *int { return &m.Turns }},
		{Name: "direction", Label: "Direction", Options: directions, Str: func(m *Turntable) *string { return (*string)(&m.Direction) }},
		{Name: "plinth", Label: "The plinth", As: AsChoice, Options: []Option{{"along", "turning along"}, {"still", "standing still"}},
			Get: func(m *Turntable, _ *shot.Part) any { return chosen(m.Plinth, "along", "still") },
			Set: choose(func(m *Turntable, v string, _ *Subject) { m.Plinth = v == "along" })},
	},
	Sentence: say(part, " turns ", val("moves"), " by ", val("turns"), " ", val("direction"),
		when("moves", "object", ", with the plinth ", val("plinth")), ", over the whole shot, at constant speed."),
	Check: func(m *Turntable, on *shot.Part) error {
		if on.Kind != shot.Group {
			return fmt.Errorf("a turntable turns a group")
		}
		return nil
	},
	Reverse: func(m *Turntable) { m.Direction = m.Direction.Opposite() }, // the other way round is the same backwards
	Apply: func(m *Turntable, c *Context, p *shot.Rest) {
		if m.Moves == "object" {
			p.Rotation = geom.AxisAngle(up, m.angle(c)).Mul(p.Rotation)
		}
	},
	Angle: func(m *Turntable, c *Context) float64 {
		if m.Moves == "object" {
			return m.angle(c)
		}
		return 0
	},
	Carry: func(m *Turntable, c *Context) (float64, bool) {
		if m.Moves == "camera" {
			return m.angle(c), true
		}
		return 0, false
	},
	LeavesPlinth: func(m *Turntable) bool { return !m.Plinth },
	Laps:         func(m *Turntable) float64 { return float64(m.Turns) },
	Bar: func(m *Turntable) string {
		return fmt.Sprintf("%s%s %s", chosen(m.Moves == "camera", "camera, ", ""), counted("turn", float64(m.Turns)), m.Direction)
	},
	Examples: []Example[Turntable]{{
		Says: "angle(t) = 2 pi k t / N: frame 95 of 96 is one step short of frame 0", Frame: 95,
		Move: Turntable{Moves: "object", Direction: shot.CounterClockwise, Turns: 1}, Turn: geom.AxisAngle(up, 2*math.Pi*95/96),
	}},
})

// angle is 2 pi k t / N in a loop, so that frame N - 1 is one step short of frame 0.
func (m *Turntable) angle(c *Context) float64 {
	return m.Direction.Sign() * 2 * math.Pi * float64(m.Turns) * c.Time.Whole()
}
