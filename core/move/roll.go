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

// Roll turns a round part as far as it travels: no slip.
type Roll struct {
	Radius  float64   `json:"radius"`          // metres
	Along   geom.Vec3 `json:"along"`           // in the parent's frame; its upright part is left out
	Turns   float64   `json:"turns"`           // its own, on the ground; laps round the other, on or in it
	Contact string    `json:"contact"`         // ground; path: along a route; on or in: outside or inside another round part; top: on top of one that rolls itself
	Other   float64   `json:"other,omitempty"` // radius of the other part, metres
	Under   string    `json:"under,omitempty"` // the part that it is on top of
	Laps    float64   `json:"laps,omitempty"`  // of the route
	Route
}

var _ = define(Spec[Roll]{
	Kind: "roll", Note: "turning as far as it goes: no slip", Find: "wheel ball rolling", Axle: true,
	First: func(s *Subject) (Roll, Timing) {
		room, _, _ := s.Box()
		t := gently()
		t.Pace = shot.Pace{Kind: shot.Constant}
		return Roll{Radius: math.Max(room.Size()[1], 2e-5) / 2, Along: geom.Vec3{1, 0, 0}, Turns: 1, Contact: "ground"}, t
	},
	Words: append([]Value[Roll]{
		{Name: "radius", Label: "Radius of what rolls", Unit: Length, In: positive, At: func(m *Roll) *float64 { return &m.Radius }},
		{Name: "along", Label: "Way", As: AsWay, Vec: func(m *Roll) *geom.Vec3 { return &m.Along }},
		{Name: "contact", Label: "Contact", Options: []Option{{"ground", "on the ground"}, {"path", "along"}, {"on", "round the outside of another"}, {"in", "inside another"}, {"top", "on top of"}}, Str: func(m *Roll) *string { return &m.Contact },
			Then: func(m *Roll, s *Subject) {
				if m.Contact == "top" && m.Under == "" {
					m.onTop(s)
				}
				if m.Contact == "path" {
					m.onRoute(s)
				}
				if m.Other == 0 {
					m.Other = 3 * m.Radius
				}
			}},
		{Name: "under", Label: "What it is on top of", As: AsPart, Str: func(m *Roll) *string { return &m.Under }, Then: func(m *Roll, s *Subject) { m.onTop(s) }},
		{Name: "other", Label: "Radius of the other", Unit: Length, In: notBelow, At: func(m *Roll) *float64 { return &m.Other }},
		{Name: "turns", Label: "Turns", Unit: Turns, Pins: true, At: func(m *Roll) *float64 { return &m.Turns }},
		{Name: "distance", Label: "Distance", Unit: Length, Get: func(m *Roll, _ *shot.Part) any { return m.Turns * 2 * math.Pi * m.Radius },
			Set: func(m *Roll, raw json.RawMessage, _ *Subject) error {
				var d float64
				if err := json.Unmarshal(raw, &d); err != nil {
					return fmt.Errorf("a distance is a number, not %s", raw)
				}
				m.Turns = d / (2 * math.Pi * m.Radius)
				return nil
			}},
		{Name: "laps", Label: "Laps", Ones: "lap", Many: "laps", Pins: true, At: func(m *Roll) *float64 { return &m.Laps }},
	}, routeWords(func(m *Roll) *Route { return &m.Route }, func(m *Roll) bool { return m.Contact == "path" })...),
	Sentence: say("Roll ", part, ", of radius ", val("radius"), ", ", val("along"), " ", val("contact"),
		when("contact", either("on", "in"), " of radius ", val("other")),
		when("contact", "top", " ", val("under"), ", of radius ", val("other"), ", which turns it and takes it along."),
		when("contact", "path", " ", routeSaid, " by ", val("laps"), timing),
		when("contact", either("ground", "on", "in"), " by ", val("turns")),
		when("contact", "ground", ", which is ", val("distance")), when("contact", either("ground", "on", "in"), timing)),
	Needs: func(m *Roll) []string {
		if m.Contact == "top" {
			return []string{m.Under}
		}
		return nil
	},
	Check: func(m *Roll, _ *shot.Part) error {
		if m.Contact == "path" {
			return m.check()
		}
		if m.Contact != "ground" && m.Other < tiny || m.Contact == "in" && m.Other <= m.Radius {
			return fmt.Errorf("the other part has a radius of more than 0, and more than that of what rolls in it")
		}
		return nil
	},
	Clone: func(m *Roll) *Roll {
		c := *m
		c.Route = m.clone()
		return &c
	},
	Scale: func(m *Roll, k float64) { m.scale(k) },
	Prepare: func(m *Roll, _ *shot.Part) any {
		if m.Contact != "path" {
			return nil
		}
		return m.line()
	},
	Apply: func(m *Roll, c *Context, p *shot.Rest) { m.roll(c, p) },
	Angle: func(m *Roll, c *Context) float64 {
		if m.Contact == "top" {
			return m.turned(c)
		}
		return m.angle(c, c.Progress())
	},
	Mends: (*Roll).mends,
	Bar: func(m *Roll) string {
		if m.Contact == "top" {
			return "on top"
		}
		if m.Contact == "path" {
			return counted("lap", m.Laps)
		}
		return counted("turn", m.Turns)
	},
	Handles: append([]Handle{{Is: "along", Name: "Radius of what rolls", Values: map[string]string{"length": "radius"}, Way: geom.Vec3{0, -1, 0}}}, routeHandles...),
	Examples: []Example[Roll]{{
		Says: "distance = radius x angle: a wheel of radius 1 goes as far as its circumference in a turn, half of it in half a turn", Frame: 48,
		Move: Roll{Radius: 1, Along: geom.Vec3{1, 0, 0}, Turns: 1, Contact: "ground"}, At: geom.Vec3{math.Pi, 0, 0}, Turn: geom.AxisAngle(geom.Vec3{0, 0, 1}, -math.Pi),
	}, {
		Says: "half round a circle of radius 2 a wheel of radius 1 has turned once about its axle, which has come half round", Frame: 48,
		Move: Roll{Radius: 1, Along: geom.Vec3{1, 0, 0}, Contact: "path", Laps: 1, Route: Route{Path: "circle", Width: 4}}, At: geom.Vec3{0, 0, -4}, Turn: geom.AxisAngle(up, math.Pi),
	}},
})

// angle returns how far it has turned: on the ground its turns; round another part of radius R once for each lap and
// R / r times for the way along it, outside added and inside taken off (Coin rotation; Wolfram MathWorld, "Circle
// Rolling", from memory); along a route its length over the radius.
func (m *Roll) angle(c *Context, e float64) float64 {
	switch m.Contact {
	case "path":
		return m.Laps * e * m.routed(c).Length / m.Radius
	case "on":
		return 2 * math.Pi * m.Turns * e * (1 + m.Other/m.Radius)
	case "in":
		return 2 * math.Pi * m.Turns * e * (m.Other/m.Radius - 1)
	}
	return 2 * math.Pi * m.Turns * e
}

// onTop puts it on top of another part: one that rolls, whose radius is known, if there is one.
func (m *Roll) onTop(s *Subject) {
	rolls := func(p *shot.Part) bool {
		return slices.ContainsFunc(p.Moves, func(o shot.Move) bool { _, ok := o.Data.(*Roll); return ok })
	}
	under := s.Shot.Part(m.Under)
	if under == nil {
		if under = s.Other(rolls); under == nil {
			under = s.Other(anyPart)
		}
	}
	if under == nil {
		return
	}
	m.Under = under.ID
	for _, o := range under.Moves {
		if r, ok := o.Data.(*Roll); ok {
			m.Other, m.Along = r.Radius, r.Along
		}
	}
}

// turned is how far the part under it has turned it: where two round parts touch, both go as far, and so in opposite ways.
func (m *Roll) turned(c *Context) float64 {
	return -c.Room.Turned(m.Under, c.Time) * m.Other / m.Radius
}

// roll ties rotation and travel together: distance = radius x angle. On another part the rolling one begins on its top,
// in another at its bottom.
func (m *Roll) roll(c *Context, p *shot.Rest) {
	along, axis := level(m.Along)
	if m.Contact == "top" {
		p.Position = p.Position.Add(c.Room.Moved(m.Under, c.Time).Position)
		p.Rotation = geom.AxisAngle(axis, m.turned(c)).Mul(p.Rotation)
		return
	}
	e := c.Progress()
	angle := m.angle(c, e)
	if m.Contact == "path" {
		m.follow(c, p, e, angle)
		return
	}
	by := along.Mul(m.Radius * angle)
	sin, cos := math.Sincos(2 * math.Pi * m.Turns * e)
	switch m.Contact {
	case "on":
		d := m.Other + m.Radius
		by = along.Mul(d * sin).Add(up.Mul(d * (cos - 1)))
	case "in":
		d := m.Other - m.Radius
		by = along.Mul(d * sin).Add(up.Mul(d * (1 - cos)))
	}
	p.Position = p.Position.Add(by.Mul(c.Metre))
	p.Rotation = geom.AxisAngle(axis, angle).Mul(p.Rotation)
}

// follow rolls a part along its route: what it goes along at rest is turned to the route, and it turns about its axle, which lies across.
func (m *Roll) follow(c *Context, p *shot.Rest, e, angle float64) {
	by, d := m.at(m.routed(c), m.Laps*e)
	p.Position = p.Position.Add(by.Mul(c.Metre))
	along, axis := level(m.Along)
	ahead := towards(d).Mul(geom.AxisAngle(up, -math.Atan2(along[0], along[2])))
	p.Rotation = ahead.Mul(geom.AxisAngle(axis, angle)).Mul(p.Rotation)
}

// routed is its route, measured.
func (m *Roll) routed(c *Context) *motion.Path {
	if line, ok := c.Ready.(*motion.Path); ok {
		return line
	}
	return m.line() // nobody has prepared it
}

// onRoute gives it a route to begin with: a circle on which it turns whole times in a lap.
func (m *Roll) onRoute(s *Subject) {
	if m.Path == "" {
		m.Path, m.Width = "circle", 2*m.Radius*math.Max(2, math.Round(s.Step()/m.Radius))
		m.fill()
	}
	if m.Laps == 0 {
		m.Laps = 1
	}
}

// mends of what rolls along a route: whole laps, and a route on which it turns whole times meanwhile.
func (m *Roll) mends(b *Mending) {
	if m.Contact != "path" || !m.closes() {
		return
	}
	b.Rounded("lap", m.Laps, func(data any, k float64) { data.(*Roll).Laps = k })
	laps := math.Max(1, math.Round(math.Abs(m.Laps)))
	turns := laps * m.line().Length / (2 * math.Pi * m.Radius)
	for _, k := range []float64{math.Floor(turns), math.Ceil(turns)} {
		if k == 0 {
			continue
		}
		b.Change(fmt.Sprintf("Make the path %.4g %% as large: %s", 100*k/turns, counted("turn", k)), func(c *shot.Move) {
			r := c.Data.(*Roll)
			r.Laps = math.Copysign(laps, m.Laps)
			r.Width, r.Depth, r.Corner = r.Width*k/turns, r.Depth*k/turns, r.Corner*k/turns
			r.scale(k / turns)
		})
	}
}

// level returns the unit vector of a way along the floor, and the axis about which what goes there rolls.
func level(v geom.Vec3) (along, axis geom.Vec3) {
	along = geom.Vec3{v[0], 0, v[2]}.Unit()
	return along, up.Cross(along)
}
