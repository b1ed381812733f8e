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

// Unfold turns the panels of a group about hinges, from closed to open: along those that were found for each, or about their own x.
type Unfold struct {
	Angle  float64  `json:"angle"`            // radians, of panels that turn about their own x
	Order  string   `json:"order"`            // together or list
	Deep   bool     `json:"deep"`             // panels on panels open too, each after what it is on
	Share  float64  `json:"share"`            // of the progress that one panel takes; 1 for all of it
	Base   string   `json:"base,omitempty"`   // the part that stays, which the others hang on
	Panels []Hinged `json:"panels,omitempty"` // where hinges were found: the panels, in their order
	Open   float64  `json:"open,omitempty"`   // of those, how far they open, as a share of flat
}

// Hinged is a panel with a hinge, a time and a pace of its own.
type Hinged struct {
	Part  string    `json:"part"`
	At    geom.Vec3 `json:"at"`    // a point of the hinge, along the part's own axes from its origin, metres
	Axis  geom.Vec3 `json:"axis"`  // unit vector along it, of the part's own axes
	Angle float64   `json:"angle"` // radians from closed to flat
	From  float64   `json:"from"`  // share of the progress at which it begins, and ends
	To    float64   `json:"to"`
	Pace  shot.Pace `json:"pace"`
}

var _ = define(Spec[Unfold]{
	Kind: "unfold", Note: "its panels open about their hinges", Find: "fold box carton packaging open hinge",
	Suits: (*Subject).holds,
	First: func(*Subject) (Unfold, Timing) {
		return Unfold{Angle: math.Pi / 2, Order: "together", Share: 0.4}, gently()
	},
	Words: []Value[Unfold]{
		{Name: "found", As: Hidden, Label: "Hinges were found", Get: func(m *Unfold, _ *shot.Part) any { return len(m.Panels) > 0 }},
		{Name: "panels", Label: "Panels", As: AsPanels, Get: func(m *Unfold, _ *shot.Part) any { return m.Panels },
			Set: func(m *Unfold, raw json.RawMessage, _ *Subject) error {
				m.Panels = nil
				if json.Unmarshal(raw, &m.Panels) != nil {
					return fmt.Errorf("panels are parts with a hinge, a time and a pace")
				}
				return nil
			}},
		{Name: "open", Label: "How far", Unit: Share, In: &Range{-4, 4}, Pins: true, At: func(m *Unfold) *float64 { return &m.Open }},
		{Name: "angle", Label: "Angle", Unit: Angle, Pins: true, At: func(m *Unfold) *float64 { return &m.Angle }},
		{Name: "order", Label: "Order", Options: []Option{{"together", "all together"}, {"list", "one after another"}}, Str: func(m *Unfold) *string { return &m.Order }},
		{Name: "share", Label: "Share", Unit: Share, In: &Range{1e-3, 1}, Pins: true, At: func(m *Unfold) *float64 { return &m.Share }},
		{Name: "panels on panels", Label: "Panels on panels", As: AsChoice, Options: []Option{{"too", "with the panels on them"}, {"not", "without the panels on them"}},
			Get: func(m *Unfold, _ *shot.Part) any { return chosen(m.Deep, "too", "not") },
			Set: choose(func(m *Unfold, v string, _ *Subject) { m.Deep = v == "too" })},
		{Name: "base", Label: "What stays", As: AsMember, None: "none of them", Str: func(m *Unfold) *string { return &m.Base }},
	},
	Sentence: say("Unfold ", part, when("found", true, " along ", val("panels"), " by ", val("open")),
		when("found", false, ": its panels turn by ", val("angle"), " about their hinges, ", val("order"), when("order", "list", ", each in ", val("share"), " of the whole"),
			", ", val("panels on panels"), "; ", val("base"), " stays"), timing),
	Check: func(m *Unfold, on *shot.Part) error {
		if len(m.Panels) > maxSteps {
			return fmt.Errorf("at most %d panels unfold", maxSteps)
		}
		for i := range m.Panels {
			h := &m.Panels[i]
			if l := h.Axis.Len(); !(l > 0.99 && l < 1.01) || !(h.At.Len() <= most) || !(math.Abs(h.Angle) <= most) {
				return fmt.Errorf("the hinge of panel %d is no line that can be worked with", i+1)
			}
			if !(h.From >= 0 && h.From < h.To && h.To <= 1) {
				return fmt.Errorf("panel %d opens from %.4g to %.4g of the whole; it ends after it begins, within it", i+1, h.From, h.To)
			}
			if err := h.Pace.Check(); err != nil {
				return err
			}
		}
		return onGroup("an unfold")(on)
	},
	Clone: func(m *Unfold) *Unfold {
		c := *m
		c.Panels = slices.Clone(m.Panels)
		return &c
	},
	Scale: func(m *Unfold, k float64) {
		for i := range m.Panels {
			m.Panels[i].At = m.Panels[i].At.Mul(k)
		}
	},
	Prepare: func(m *Unfold, _ *shot.Part) any {
		out := map[string]*Hinged{}
		for i := range m.Panels {
			out[m.Panels[i].Part] = &m.Panels[i]
		}
		return out
	},
	Members: &Members[Unfold]{
		Deep: true,
		Base: func(m *Unfold) string { return m.Base },
		Only: func(m *Unfold, _ *shot.Part) []string {
			var out []string // nil where no hinges were found: all of them
			for i := range m.Panels {
				out = append(out, m.Panels[i].Part)
			}
			return out
		},
		Apply: func(m *Unfold, c *Context, p *shot.Rest) {
			if len(m.Panels) > 0 {
				if h := c.Ready.(map[string]*Hinged)[c.Part.ID]; h != nil {
					h.turn(m.Open*m.passed(c, h), c, p)
				}
				return
			}
			if c.Place.Deep > 1 && !m.Deep {
				return
			}
			p.Rotation = p.Rotation.Mul(geom.AxisAngle(geom.Vec3{1, 0, 0}, m.Angle*m.opened(c)))
		},
	},
	Examples: []Example[Unfold]{{
		Says: "half-way its panels have turned by half of the angle about x", Move: Unfold{Angle: 1, Order: "together", Share: 1}, Frame: 48, Turn: geom.AxisAngle(geom.Vec3{1, 0, 0}, 0.5),
	}},
})

// turn turns a panel about its hinge by a share of its angle.
func (h *Hinged) turn(share float64, c *Context, p *shot.Rest) {
	var arm, axis geom.Vec3 // from the pivot, as it is sized
	for k := range arm {
		arm[k] = (h.At[k]*c.Own - c.Part.Pivot[k]) * p.Size[k]
		axis[k] = h.Axis[k] * p.Size[k]
	}
	at := p.Rotation.Rotate(arm)
	q := geom.AxisAngle(p.Rotation.Rotate(axis.Unit()), h.Angle*share)
	p.Position = p.Position.Add(at).Sub(q.Rotate(at)) // what lies on the hinge stays
	p.Rotation = q.Mul(p.Rotation)
}

// passed is how much of its way a panel with a time of its own has gone.
func (m *Unfold) passed(c *Context, h *Hinged) float64 {
	bare := *c.Move
	bare.Pace = shot.Pace{}
	u := (motion.Progress(c.Time, &bare) - h.From) / (h.To - h.From)
	pace := h.Pace
	if pace.Kind == "" {
		pace = c.Move.Pace
	}
	e, _ := motion.Pace(pace, math.Max(0, math.Min(1, u)))
	return e
}

// Unfolding is a move along a net, as it begins: the panels one after another, the last of them with a long tail; held, and closed again.
func Unfolding(panels []Hinged) shot.Move {
	n := float64(len(panels))
	for i := range panels {
		h := &panels[i]
		h.From, h.To = 0.6*float64(i)/math.Max(1, n), 0.6*float64(i)/math.Max(1, n)+0.3
		if i == len(panels)-1 && n > 1 {
			h.To, h.Pace = 1, shot.Pace{Kind: shot.Power, Way: "out", Power: 5}
		}
	}
	t := gently()
	return shot.Move{Kind: "unfold", Pace: t.Pace, Laps: t.Laps, After: t.After, Data: &Unfold{Order: "together", Share: 0.4, Panels: panels, Open: 1}}
}

// opened is the progress of one of several panels that begin one after another, each taking the same share of the whole.
func (m *Unfold) opened(c *Context) float64 {
	if m.Order != "list" || c.Place.Count < 2 {
		return c.Progress()
	}
	begin := (1 - m.Share) * float64(c.Place.Rank) / float64(c.Place.Count-1)
	bare := *c.Move
	bare.Pace = shot.Pace{}
	u := (motion.Progress(c.Time, &bare) - begin) / m.Share
	e, _ := motion.Pace(c.Move.Pace, math.Max(0, math.Min(1, u)))
	return e
}
