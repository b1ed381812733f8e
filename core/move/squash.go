package move

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

// Squash stretches a part along one of its axes, or squashes it, and keeps its volume.
type Squash struct {
	Axis   int     `json:"axis"`   // 0 to 2 for x to z
	Amount float64 `json:"amount"` // more than -1: 0.5 makes it half as long again, -0.5 half as long
}

var _ = define(Spec[Squash]{
	Kind: "squash", Note: "along an axis, keeping its volume", Find: "stretch scale bounce",
	First: func(*Subject) (Squash, Timing) { return Squash{Axis: 1, Amount: -0.2}, gently() },
	Words: []Value[Squash]{
		{Name: "which way", As: Hidden, Label: "Which way", Get: func(m *Squash, _ *shot.Part) any { return m.Amount < 0 }},
		{Name: "amount", Label: "Amount", Unit: Share, In: &Range{-0.99, 1000}, Pins: true, At: func(m *Squash) *float64 { return &m.Amount }},
		axisChoice("axis", "Along", func(m *Squash) *int { return &m.Axis }, nil),
	},
	Sentence: say(when("which way", true, "Squash "), when("which way", false, "Stretch "), part, " by ", val("amount"), " along its ", val("axis"), ", keeping its volume", timing),
	Apply: func(m *Squash, c *Context, p *shot.Rest) {
		k := math.Max(1e-6, 1+m.Amount*c.Progress())
		for i := range p.Size {
			if i == m.Axis {
				p.Size[i] *= k
			} else {
				p.Size[i] /= math.Sqrt(k)
			}
		}
	},
	Bar:      func(m *Squash) string { return fmt.Sprintf("%.4g %%", m.Amount*100) },
	Examples: []Example[Squash]{{Says: "its origin stays", Move: Squash{Axis: 1, Amount: -0.5}, Frame: 48, At: geom.Vec3{}, Turn: geom.NoTurn}},
})

// sides are the axes as a part's own measures.
var sides = []Option{{"x", "width"}, {"y", "height"}, {"z", "depth"}}

// axisChoice is an axis by its number as a choice of a part's measures.
func axisChoice[T any](name, label string, at func(m *T) *int, then func(m *T, s *Subject)) Value[T] {
	return Value[T]{Name: name, Label: label, As: AsChoice, Options: sides, Then: then,
		Get: func(m *T, _ *shot.Part) any { return sides[min(2, max(0, *at(m)))].Value },
		Set: func(m *T, raw json.RawMessage, _ *Subject) error {
			var v string
			if json.Unmarshal(raw, &v) != nil {
				return fmt.Errorf("an axis is x, y or z, not %s", raw)
			}
			i := slices.IndexFunc(sides, func(o Option) bool { return o.Value == v })
			if i < 0 {
				return fmt.Errorf("an axis is x, y or z, not %q", v)
			}
			*at(m) = i
			return nil
		},
		check: func(m *T) error {
			if a := *at(m); a < 0 || a > 2 {
				return fmt.Errorf("an axis is 0 to 2 for x to z, not %d", a)
			}
			return nil
		}}
}
