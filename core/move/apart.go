package move

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"

	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/shot"
)

// Apart takes the parts of a group apart along a plan, and together again: an exploded view. What it does over its span is to go apart,
// to hold, and to come back. A part that several steps name goes one way after another.
type Apart struct {
	Steps   []ApartStep `json:"steps"`
	Spread  float64     `json:"spread"`          // how far, as a share of the plan's distances
	Overlap float64     `json:"overlap"`         // by how much of its time a step begins before the one before it has ended; 1 for all at once
	Hold    float64     `json:"hold"`            // share of the span that it is held apart
	Back    bool        `json:"back"`            // it comes together again
	Lines   bool        `json:"lines,omitempty"` // guide lines to where parts sit are seen in the picture
}

// ApartStep is what leaves at one time.
type ApartStep struct {
	Parts []ApartPart `json:"parts"`
	By    float64     `json:"by"` // metres
}

// ApartPart is a part that leaves.
type ApartPart struct {
	Part string    `json:"part"`
	Way  geom.Vec3 `json:"way"` // a unit vector in the frame of its parent
}

// maxSteps of a plan, and parts in one.
const maxSteps = 10_000

var _ = define(Spec[Apart]{
	Kind: "take apart", Note: "its parts leave each other one after another, and come together again", Find: "exploded view explode assembly disassemble parts",
	Words: []Value[Apart]{
		{Name: "steps", Label: "Step", As: AsPlan, Get: func(m *Apart, _ *shot.Part) any { return m.Steps },
			Set: func(m *Apart, raw json.RawMessage, _ *Subject) error {
				m.Steps = nil
				if err := json.Unmarshal(raw, &m.Steps); err != nil {
					return fmt.Errorf("the steps of a plan are parts with ways and a distance")
				}
				return nil
			}},
		{Name: "spread", Label: "Spread", Unit: Share, Pins: true, In: &Range{0, 100}, At: func(m *Apart) *float64 { return &m.Spread }},
		{Name: "overlap", Label: "Overlap", Unit: Share, In: &Range{0, 1}, Pins: true, At: func(m *Apart) *float64 { return &m.Overlap }},
		{Name: "hold", Label: "Hold", Unit: Share, In: &Range{0, 0.99}, Pins: true, At: func(m *Apart) *float64 { return &m.Hold }},
		{Name: "then", Label: "Then", As: AsChoice, Options: []Option{{"back", "and put together again"}, {"stays", "and left apart"}},
			Get: func(m *Apart, _ *shot.Part) any { return chosen(m.Back, "back", "stays") },
			Set: choose(func(m *Apart, v string, _ *Subject) { m.Back = v == "back" })},
		{Name: "lines", Label: "Guide lines", As: AsChoice, Options: []Option{{"without", "without guide lines"}, {"with", "with guide lines in the picture"}},
			Get: func(m *Apart, _ *shot.Part) any { return chosen(m.Lines, "with", "without") },
			Set: choose(func(m *Apart, v string, _ *Subject) { m.Lines = v == "with" })},
	},
	Sentence: say("Take ", part, " apart in ", val("steps"), " by ", val("spread"), " of their distances, each overlapping the one before by ", val("overlap"),
		", held for ", val("hold"), " of the time, ", val("then"), ", ", val("lines"), timing),
	Check: func(m *Apart, on *shot.Part) error {
		if err := onGroup("taking apart")(on); err != nil {
			return err
		}
		named := 0
		for i, s := range m.Steps {
			named += len(s.Parts)
			if !(math.Abs(s.By) <= most) {
				return fmt.Errorf("step %d of a plan goes by no distance that can be worked with", i+1)
			}
			for _, p := range s.Parts {
				if l := p.Way.Len(); !(l > 0.99 && l < 1.01) {
					return fmt.Errorf("step %d of a plan goes a way of which the direction is no unit vector", i+1)
				}
			}
		}
		if len(m.Steps) > maxSteps || named > 10*maxSteps {
			return fmt.Errorf("a plan has at most %d steps", maxSteps)
		}
		return nil
	},
	Clone: func(m *Apart) *Apart {
		c := *m
		c.Steps = slices.Clone(m.Steps)
		for i := range c.Steps {
			c.Steps[i].Parts = slices.Clone(c.Steps[i].Parts)
		}
		return &c
	},
	Scale: func(m *Apart, k float64) {
		for i := range m.Steps {
			m.Steps[i].By *= k
		}
	},
	Guided: func(m *Apart) bool { return m.Lines },
	Prepare: func(m *Apart, _ *shot.Part) any {
		out := map[string][]leg{}
		for i, s := range m.Steps {
			for _, p := range s.Parts {
				out[p.Part] = append(out[p.Part], leg{i, p.Way.Mul(s.By)})
			}
		}
		return out
	},
	Mends: func(m *Apart, b *Mending) {
		b.Change("Let it come together again", func(c *shot.Move) { c.Data.(*Apart).Back = true })
	},
	Members: &Members[Apart]{
		Deep: true,
		Only: func(m *Apart, _ *shot.Part) []string {
			out := []string{} // none but those that a step names
			for _, s := range m.Steps {
				for _, p := range s.Parts {
					out = append(out, p.Part)
				}
			}
			return out
		},
		Apply: func(m *Apart, c *Context, p *shot.Rest) {
			legs, _ := c.Ready.(map[string][]leg)
			for _, l := range legs[c.Part.ID] {
				p.Position = p.Position.Add(l.way.Mul(m.Spread * m.gone(c, l.step) * c.Metre))
			}
		},
	},
	Bar: func(m *Apart) string { return counted("step", float64(len(m.Steps))) },
	Examples: []Example[Apart]{{
		Says: "held in the middle it is apart by its whole distance", Frame: 48, At: geom.Vec3{0, 0.5, 0}, Turn: geom.NoTurn,
		Move: Apart{Steps: []ApartStep{{Parts: []ApartPart{{Part: "a", Way: geom.Vec3{0, 1, 0}}}, By: 0.5}}, Spread: 1, Hold: 0.2, Back: true},
	}},
})

// leg is one way of a part: in which step, and how far it leads, metres in the frame of its parent.
type leg struct {
	step int
	way  geom.Vec3
}

// gone is how much of its way a step has gone. Steps all take the same time: of n of them that overlap by v, one takes a share of
// 1 / (1 + (n-1)(1-v)) of the way apart.
func (m *Apart) gone(c *Context, step int) float64 {
	bare := *c.Move
	bare.Pace = shot.Pace{}
	u := motion.Progress(c.Time, &bare)
	out := 1 - m.Hold
	if m.Back {
		out /= 2
	}
	x := u / math.Max(out, 1e-9)
	if m.Back {
		x = math.Min(x, (1-u)/math.Max(out, 1e-9))
	}
	after := 1 - m.Overlap // one begins so many of its own times after the other
	x = x*(1+float64(len(m.Steps)-1)*after) - float64(step)*after
	e, _ := motion.Pace(c.Move.Pace, math.Max(0, math.Min(1, x)))
	return e
}

// TakenApart is a move along a plan, as it begins: over the whole shot, a step after another, held for a while, and back.
func TakenApart(steps []ApartStep) shot.Move {
	return shot.Move{Kind: "take apart", Pace: gently().Pace, After: shot.Stays, Data: &Apart{Steps: steps, Spread: 1, Hold: 0.2, Back: true}}
}
