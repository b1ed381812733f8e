package move

import (
	"math"

	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/shot"
)

// Travel goes along a path at the pace of its arc length.
type Travel struct {
	Route
	From float64 `json:"from"` // shares of the path
	To   float64 `json:"to"`
	Lay  bool    `json:"lay"`            // its front along the path, rather than facing as at rest
	Bank float64 `json:"bank,omitempty"` // radians that it leans into a curve of the radius of its width
}

var _ = define(Spec[Travel]{
	Kind: "travel", Note: "along a path at its arc length", Find: "path curve circle drive follow line",
	First: func(s *Subject) (Travel, Timing) {
		step := s.Step()
		return Travel{Route: Route{Path: "circle", Width: 2 * step, Depth: step, Corner: step / 4}, To: 1}, throughout()
	},
	Words: append(routeWords(func(m *Travel) *Route { return &m.Route }, func(*Travel) bool { return true }), []Value[Travel]{
		{Name: "from", Label: "From share", Unit: Share, Pins: true, At: func(m *Travel) *float64 { return &m.From }},
		{Name: "to", Label: "To share", Unit: Share, Pins: true, At: func(m *Travel) *float64 { return &m.To }},
		{Name: "facing", Label: "Facing", As: AsChoice, Options: []Option{{"along", "facing along it"}, {"rest", "facing as it does"}},
			Get: func(m *Travel, _ *shot.Part) any { return chosen(m.Lay, "along", "rest") },
			Set: choose(func(m *Travel, v string, s *Subject) {
				if m.Lay = v == "along"; m.Lay && s.Part().Front == (geom.Vec3{}) {
					s.Part().Front = s.Front()
				}
			})},
		front[Travel](),
		{Name: "bank", Label: "Bank", Unit: Angle, Pins: true, At: func(m *Travel) *float64 { return &m.Bank }},
	}...),
	Sentence: say("Let ", part, " travel along ", routeSaid,
		", from ", val("from"), " to ", val("to"), ", ", val("facing"), when("facing", "along", ", with ", val("front"), " in front, leaning ", val("bank")), timing),
	Check: func(m *Travel, _ *shot.Part) error { return m.check() },
	Clone: func(m *Travel) *Travel {
		c := *m
		c.Route = m.clone()
		return &c
	},
	Scale:   func(m *Travel, k float64) { m.scale(k) },
	Prepare: func(m *Travel, _ *shot.Part) any { return m.line() },
	Apply:   func(m *Travel, c *Context, p *shot.Rest) { m.travel(c, c.Ready.(*motion.Path), p) },
	Laps:    func(m *Travel) float64 { return m.To - m.From },
	Mends: func(m *Travel, b *Mending) {
		if m.closes() {
			b.Rounded("lap", m.To-m.From, func(data any, k float64) { data.(*Travel).To = m.From + k })
		}
	},
	Bar:     func(m *Travel) string { return counted("lap", m.To-m.From) },
	Handles: routeHandles,
	Examples: []Example[Travel]{{
		Says: "a quarter of a circle 2 wide, which begins at its front and goes counter-clockwise from above", Frame: 24,
		Move: Travel{Route: Route{Path: "circle", Width: 2}, To: 1}, At: geom.Vec3{1, 0, -1}, Turn: geom.NoTurn,
	}},
})

// towards turns z to a way, tipped as that rises.
func towards(d geom.Vec3) geom.Quat {
	q := geom.AxisAngle(up, math.Atan2(d[0], d[2]))
	if flat := math.Hypot(d[0], d[2]); flat > 1e-9 {
		q = q.Mul(geom.AxisAngle(geom.Vec3{1, 0, 0}, -math.Atan2(d[1], flat)))
	}
	return q
}

// travel moves a part along its path.
func (m *Travel) travel(c *Context, path *motion.Path, p *shot.Rest) {
	share := m.From + (m.To-m.From)*c.Progress()
	q, d := m.at(path, share)
	p.Position = p.Position.Add(q.Mul(c.Metre))
	if !m.Lay {
		return
	}
	// The front is brought to z, there tipped and leant, and then along the path.
	to := ahead(c.Part)
	back := towards(d)
	if m.Bank != 0 && m.Width > 0 {
		lean := m.Bank * path.Bend(share) * m.Width / 2
		back = back.Mul(geom.AxisAngle(geom.Vec3{0, 0, 1}, -lean))
	}
	p.Rotation = back.Mul(geom.AxisAngle(up, -math.Atan2(to[0], to[2]))).Mul(p.Rotation)
}
