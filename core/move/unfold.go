package move

import (
	"math"

	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/shot"
)

// Unfold turns the panels of a group about their own hinges, x, from closed to open.
type Unfold struct {
	Angle float64 `json:"angle"`          // radians
	Order string  `json:"order"`          // together or list
	Deep  bool    `json:"deep"`           // panels on panels open too, each after what it is on
	Share float64 `json:"share"`          // of the progress that one panel takes; 1 for all of it
	Base  string  `json:"base,omitempty"` // the part that stays, which the others hang on
}

var _ = define(Spec[Unfold]{
	Kind: "unfold", Note: "its panels open about their hinges", Find: "fold box carton packaging open hinge",
	Suits: (*Subject).holds,
	First: func(*Subject) (Unfold, Timing) {
		return Unfold{Angle: math.Pi / 2, Order: "together", Share: 0.4}, gently()
	},
	Words: []Value[Unfold]{
		{Name: "angle", Label: "Angle", Unit: Angle, Pins: true, At: func(m *Unfold) *float64 { return &m.Angle }},
		{Name: "order", Label: "Order", Options: []Option{{"together", "all together"}, {"list", "one after another"}}, Str: func(m *Unfold) *string { return &m.Order }},
		{Name: "share", Label: "Share", Unit: Share, In: &Range{1e-3, 1}, Pins: true, At: func(m *Unfold) *float64 { return &m.Share }},
		{Name: "panels on panels", Label: "Panels on panels", As: AsChoice, Options: []Option{{"too", "with the panels on them"}, {"not", "without the panels on them"}},
			Get: func(m *Unfold, _ *shot.Part) any { return chosen(m.Deep, "too", "not") },
			Set: choose(func(m *Unfold, v string, _ *Subject) { m.Deep = v == "too" })},
		{Name: "base", Label: "What stays", As: AsMember, None: "none of them", Str: func(m *Unfold) *string { return &m.Base }},
	},
	Sentence: say("Unfold ", part, ": its panels turn by ", val("angle"), " about their hinges, ", val("order"), when("order", "list", ", each in ", val("share"), " of the whole"),
		", ", val("panels on panels"), "; ", val("base"), " stays", timing),
	Check: func(m *Unfold, on *shot.Part) error { return onGroup("an unfold")(on) },
	Members: &Members[Unfold]{
		Deep: true,
		Base: func(m *Unfold) string { return m.Base },
		Apply: func(m *Unfold, c *Context, p *shot.Rest) {
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
