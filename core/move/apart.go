package move

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

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
	Labels  Labelling   `json:"labels,omitempty"`
}

// Labelling is how the parts of a step are labelled in the picture.
type Labelling string

// How parts are labelled.
const (
	Unlabelled   Labelling = ""
	LightNumbers Labelling = "light numbers"
	DarkNumbers  Labelling = "dark numbers"
	LightNames   Labelling = "light names"
	DarkNames    Labelling = "dark names"
)

// ApartStep is what leaves at one time.
type ApartStep struct {
	Parts []ApartPart `json:"parts"`
	By    float64     `json:"by"`             // metres
	Wait  float64     `json:"wait,omitempty"` // how much later it and all that come after it begin, in times of a step
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
		{Name: "labels", Label: "Labels", As: AsChoice, Options: []Option{
			{string(Unlabelled), "without labels"}, {string(LightNames), "with names in light letters"}, {string(DarkNames), "with names in dark letters"},
			{string(LightNumbers), "with light numbers"}, {string(DarkNumbers), "with dark numbers"},
		},
			Get: func(m *Apart, _ *shot.Part) any { return string(m.Labels) },
			Set: choose(func(m *Apart, v string, _ *Subject) { m.Labels = Labelling(v) })},
		{Name: "lines", Label: "Guide lines", As: AsChoice, Options: []Option{{"without", "without guide lines"}, {"with", "with guide lines in the picture"}},
			Get: func(m *Apart, _ *shot.Part) any { return chosen(m.Lines, "with", "without") },
			Set: choose(func(m *Apart, v string, _ *Subject) { m.Lines = v == "with" })},
	},
	Sentence: say("Take ", part, " apart in ", val("steps"), " by ", val("spread"), " of their distances, each overlapping the one before by ", val("overlap"),
		", held for ", val("hold"), " of the time, ", val("then"), ", ", val("lines"), " and ", val("labels"), timing),
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
			if !(s.Wait >= 0 && s.Wait <= 100) {
				return fmt.Errorf("step %d of a plan waits for 0 to 100 times as long as a step takes, not %g", i+1, s.Wait)
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
	Guided: &Guided[Apart]{
		Drawn: func(m *Apart) bool { return m.Lines },
		Legs: func(m *Apart, c *Context) (out []geom.Vec3) {
			m.eachLeg(c, func(by geom.Vec3) { out = append(out, by) })
			return out
		},
		Labels: (*Apart).labels,
	},
	Prepare: func(m *Apart, _ *shot.Part) any {
		out := &sequence{legs: map[string][]leg{}, waits: make([]float64, len(m.Steps))}
		waited := 0.0
		for i, s := range m.Steps {
			waited += s.Wait
			out.waits[i] = waited
			for _, p := range s.Parts {
				out.legs[p.Part] = append(out.legs[p.Part], leg{i, p.Way, s.By})
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
			m.eachLeg(c, func(by geom.Vec3) { p.Position = p.Position.Add(by) })
		},
	},
	Bar: func(m *Apart) string { return counted("step", float64(len(m.Steps))) },
	Examples: []Example[Apart]{{
		Says: "held in the middle it is apart by its whole distance", Frame: 48, At: geom.Vec3{0, 0.5, 0}, Turn: geom.NoTurn,
		Move: Apart{Steps: []ApartStep{{Parts: []ApartPart{{Part: "a", Way: geom.Vec3{0, 1, 0}}}, By: 0.5}}, Spread: 1, Hold: 0.2, Back: true},
	}},
})

// sequence is the plan as it is looked up.
type sequence struct {
	legs  map[string][]leg // of each part
	waits []float64        // how much later each step begins than it would without any waiting, in times of a step
}

// leg is one way of a part: in which step, along which unit vector of its parent's frame, and how far, metres.
type leg struct {
	step int
	way  geom.Vec3
	by   float64
}

// eachLeg calls for the ways that the part of a context has gone, one after another, in its parent's frame.
func (m *Apart) eachLeg(c *Context, call func(by geom.Vec3)) {
	s, _ := c.Ready.(*sequence)
	if s == nil {
		return
	}
	for _, l := range s.legs[c.Part.ID] {
		call(l.way.Mul(l.by * m.Spread * m.gone(c, s, l.step) * c.Along(l.way)))
	}
}

// gone is how much of its way a step has gone. Steps all take the same time: of n of them that overlap by v and wait for w in all, one
// takes a share of 1 / (1 + (n-1)(1-v) + w) of the way apart.
func (m *Apart) gone(c *Context, s *sequence, step int) float64 {
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
	begins := func(k int) float64 { return float64(k)*(1-m.Overlap) + s.waits[k] }
	x = x*(1+begins(len(s.waits)-1)) - begins(step)
	e, _ := motion.Pace(c.Move.Pace, math.Max(0, math.Min(1, x)))
	return e
}

// labels are the names of what leaves in each step, or their numbers, each once: what a step names again has its label.
func (m *Apart) labels(known func(part string) (name string, size float64)) (out []Labelled) {
	had := map[string]bool{}
	for _, s := range m.Steps {
		one := Labelled{Drawn: m.Labels != Unlabelled, Dark: m.Labels == DarkNames || m.Labels == DarkNumbers}
		for _, p := range s.Parts {
			if !had[p.Part] {
				one.Parts = append(one.Parts, p.Part)
			}
			had[p.Part] = true
		}
		if len(one.Parts) == 0 {
			continue
		}
		slices.SortStableFunc(one.Parts, func(a, b string) int {
			_, x := known(a)
			_, y := known(b)
			switch {
			case x > y*(1+1e-6):
				return -1
			case y > x*(1+1e-6):
				return 1
			}
			return 0
		})
		var names []string
		for _, id := range one.Parts {
			name, _ := known(id)
			names = append(names, name)
		}
		if one.Text = together(names); m.Labels == LightNumbers || m.Labels == DarkNumbers {
			one.Text = strconv.Itoa(len(out) + 1)
		}
		out = append(out, one)
	}
	return out
}

// together says some names in one label: Rod 1, Rod 2 and Rod 3 are Rod × 3, and of different ones the first are named.
func together(names []string) string {
	stem := func(s string) string { return strings.TrimRight(s, " 0123456789.-_#") }
	first := stem(names[0])
	for _, n := range names[1:] {
		if first == "" || stem(n) != first {
			if len(names) > 2 {
				return fmt.Sprintf("%s and %d more", names[0], len(names)-1)
			}
			return names[0] + ", " + names[1]
		}
	}
	if len(names) == 1 {
		return names[0]
	}
	return fmt.Sprintf("%s × %d", first, len(names))
}

// TakenApart is a move along a plan, as it begins: over the whole shot, a step after another, held for a while, and back.
func TakenApart(steps []ApartStep) shot.Move {
	return shot.Move{Kind: "take apart", Pace: gently().Pace, After: shot.Stays, Data: &Apart{Steps: steps, Spread: 1, Hold: 0.2, Back: true}}
}
