package move

import (
	"encoding/json"
	"fmt"
	"math"

	"perigyre/core/motion"
	"perigyre/core/shot"
)

// Look changes the material of a part and of all in it, or a light.
type Look struct {
	What string     `json:"what"` // colour, glow, opacity or strength
	Own  bool       `json:"own"`  // it begins as the part is by itself, rather than with From
	From [3]float64 `json:"from"` // a scene-linear colour; of opacity, 0 to 1, and strength, a factor, the first number
	To   [3]float64 `json:"to"`
}

var _ = define(Spec[Look]{
	Kind: "look", Note: "colour, glow, opacity or strength, from and to", Find: "colour color material fade light flash glow opacity",
	Suits: func(s *Subject) bool { return s.Part().Kind != shot.Camera },
	First: func(s *Subject) (Look, Timing) {
		m := Look{What: "colour", Own: true}
		if s.Part().Light != nil {
			m.What = "strength"
		}
		m.first()
		if s.Part().Light != nil {
			m.To = [3]float64{0.1}
		}
		return m, gently()
	},
	Words: []Value[Look]{
		{Name: "light", As: Hidden, Label: "Light", Get: func(_ *Look, on *shot.Part) any { return on.Light != nil }},
		{Name: "what", Label: "What changes", Options: []Option{{"colour", "colour"}, {"glow", "glow"}, {"opacity", "opacity"}, {"strength", "strength of the glow"}}, Str: func(m *Look) *string { return &m.What },
			Then: func(m *Look, _ *Subject) { m.first() }},
		{Name: "what of a light", Label: "What changes", As: AsChoice, Options: []Option{{"strength", "strength"}, {"colour", "colour"}},
			Get: func(m *Look, _ *shot.Part) any { return m.What },
			Set: choose(func(m *Look, v string, _ *Subject) { m.What = v; m.first() })},
		{Name: "own", Label: "From what", As: AsChoice, Options: []Option{{"own", "what it is"}, {"given", "another:"}},
			Get: func(m *Look, _ *shot.Part) any { return chosen(m.Own, "own", "given") },
			Set: choose(func(m *Look, v string, _ *Subject) { m.Own = v == "own" })},
		{Name: "from what", As: Hidden, Label: "From what", Get: func(m *Look, _ *shot.Part) any {
			if m.Own {
				return "own"
			}
			return chosen(m.colored(), "colour", "share")
		}},
		{Name: "coloured", As: Hidden, Label: "Coloured", Get: func(m *Look, _ *shot.Part) any { return m.colored() }},
		color("from", "From colour", func(m *Look) *[3]float64 { return &m.From }),
		{Name: "from share", Label: "From share", Unit: Share, In: bright, At: func(m *Look) *float64 { return &m.From[0] }},
		color("to colour", "To colour", func(m *Look) *[3]float64 { return &m.To }),
		{Name: "to", Label: "To share", Unit: Share, In: bright, Pins: true, At: func(m *Look) *float64 { return &m.To[0] }},
		{Name: "to red", As: Hidden, Label: "Red", In: bright, Pins: true, At: func(m *Look) *float64 { return &m.To[0] }},
		{Name: "to green", As: Hidden, Label: "Green", In: bright, Pins: true, At: func(m *Look) *float64 { return &m.To[1] }},
		{Name: "to blue", As: Hidden, Label: "Blue", In: bright, Pins: true, At: func(m *Look) *float64 { return &m.To[2] }},
	},
	Sentence: say("Change the ", when("light", false, val("what")), when("light", true, val("what of a light")), " of ", part, " from ", val("own"), " ",
		when("from what", "colour", val("from")), when("from what", "share", val("from share")), " to ",
		when("coloured", true, val("to colour")), when("coloured", false, val("to")), timing),
	Check: func(m *Look, _ *shot.Part) error {
		for k := range 3 {
			for _, v := range []float64{m.From[k], m.To[k]} {
				if !(v >= 0 && v <= bright.Most) || m.What == "opacity" && v > 1 {
					return fmt.Errorf("a look's values are not below 0, and an opacity not above 1")
				}
			}
		}
		return nil
	},
	Look: func(m *Look, c *Context, l *motion.Look) { m.look(c.Progress(), l) },
	Bar:  func(m *Look) string { return m.What },
})

// color is a scene-linear colour.
func color[T any](name, label string, at func(m *T) *[3]float64) Value[T] {
	return Value[T]{Name: name, Label: label, As: AsColor, Get: func(m *T, _ *shot.Part) any { return *at(m) },
		Set: func(m *T, raw json.RawMessage, _ *Subject) error {
			if json.Unmarshal(raw, at(m)) != nil {
				return fmt.Errorf("a colour is three numbers, not %s", raw)
			}
			return nil
		}}
}

func (m *Look) colored() bool { return m.What == "colour" || m.What == "glow" }

// first gives values that suit what changes.
func (m *Look) first() {
	switch m.What {
	case "opacity":
		m.From, m.To = [3]float64{1}, [3]float64{}
	case "strength":
		m.From, m.To = [3]float64{1}, [3]float64{2}
	case "glow":
		m.From, m.To = [3]float64{}, [3]float64{1, 0.55, 0.2}
	default:
		m.From, m.To = [3]float64{0.8, 0.8, 0.8}, [3]float64{0.6, 0.03, 0.03}
	}
}

func (m *Look) look(k float64, l *motion.Look) {
	mix := func(to *[3]float64, share *float64) {
		if !m.Own {
			*to, *share = m.From, 1
		}
		*to, *share = motion.Over(*to, *share, m.To, k)
	}
	one := func(v *float64, most float64) {
		from := *v
		if !m.Own {
			from *= m.From[0]
		}
		*v = math.Min(most, math.Max(0, from+(*v*m.To[0]-from)*k))
	}
	switch m.What {
	case "colour":
		mix(&l.Color, &l.ColorMix)
	case "glow":
		mix(&l.Glow, &l.GlowMix)
	case "opacity":
		one(&l.Opacity, 1)
	case "strength":
		one(&l.Strength, 1e12)
	}
}
