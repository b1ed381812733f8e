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

// Travel goes along a path at the pace of its arc length.
type Travel struct {
	Path    string      `json:"path"`              // circle, ellipse, rounded, points, closed or drawn
	Width   float64     `json:"width,omitempty"`   // of the first three and of a drawing, metres
	Depth   float64     `json:"depth,omitempty"`   // of an ellipse or rounded rectangle, metres
	Corner  float64     `json:"corner,omitempty"`  // radius of a rounded rectangle's corners, metres
	Points  []geom.Vec3 `json:"points,omitempty"`  // that a smooth curve goes through, along the parent's axes from the part's place, metres
	Drawing string      `json:"drawing,omitempty"` // SVG path data, laid on the floor as wide as Width
	From    float64     `json:"from"`              // shares of the path
	To      float64     `json:"to"`
	Lay     bool        `json:"lay"`            // its front along the path, rather than facing as at rest
	Bank    float64     `json:"bank,omitempty"` // radians that it leans into a curve of the radius of its width
}

// longestDrawing is the most letters of path data.
const longestDrawing = 200_000

var _ = define(Spec[Travel]{
	Kind: "travel", Note: "along a path at its arc length", Find: "path curve circle drive follow line",
	First: func(s *Subject) (Travel, Timing) {
		step := s.Step()
		return Travel{Path: "circle", Width: 2 * step, Depth: step, Corner: step / 4, To: 1}, throughout()
	},
	Words: []Value[Travel]{
		{Name: "path", Label: "Path", Options: []Option{
			{"circle", "a circle"}, {"ellipse", "an ellipse"}, {"rounded", "a rounded rectangle"}, {"points", "a curve through points"},
			{"closed", "a closed curve through points"}, {"drawn", "a drawn line"},
		}, Str: func(m *Travel) *string { return &m.Path }, Then: func(m *Travel, _ *Subject) { m.fill() }},
		{Name: "width", Label: "Width", Unit: Length, In: notBelow, At: func(m *Travel) *float64 { return &m.Width }},
		{Name: "depth", Label: "Depth", Unit: Length, In: notBelow, At: func(m *Travel) *float64 { return &m.Depth }},
		{Name: "corner", Label: "Corner", Unit: Length, In: notBelow, At: func(m *Travel) *float64 { return &m.Corner }},
		{Name: "points", Label: "Point", As: AsPoints, Unit: Length, Get: func(m *Travel, _ *shot.Part) any { return m.Points },
			Set: func(m *Travel, raw json.RawMessage, _ *Subject) error {
				m.Points = nil
				if err := json.Unmarshal(raw, &m.Points); err != nil {
					return fmt.Errorf("the points of a path are three numbers each")
				}
				return nil
			}},
		{Name: "drawing", Label: "Path data", As: AsDrawing, Str: func(m *Travel) *string { return &m.Drawing }},
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
	},
	Sentence: say("Let ", part, " travel along ", val("path"),
		when("path", either("points", "closed"), val("points")),
		when("path", either("circle", "ellipse", "rounded", "drawn"), " ", val("width"), " wide"),
		when("path", "drawn", val("drawing")),
		when("path", either("ellipse", "rounded"), " and ", val("depth"), " deep"),
		when("path", "rounded", ", with corners of ", val("corner")),
		", from ", val("from"), " to ", val("to"), ", ", val("facing"), when("facing", "along", ", with ", val("front"), " in front, leaning ", val("bank")), timing),
	Check: func(m *Travel, _ *shot.Part) error {
		switch m.Path {
		case "circle", "ellipse", "rounded":
			if m.Width < tiny || m.Path != "circle" && m.Depth < tiny || m.Path == "rounded" && 2*m.Corner > math.Min(m.Width, m.Depth)*(1+1e-9) {
				return fmt.Errorf("a path has a width and depth of more than 0, and corners that fit")
			}
		case "drawn":
			if m.Width < tiny || len(m.Drawing) > longestDrawing {
				return fmt.Errorf("a drawn path is more than 0 wide, and its data at most %d letters long", longestDrawing)
			}
			if _, err := motion.Drawn(m.Drawing, m.Width); err != nil {
				return err
			}
		case "points", "closed":
			if len(m.Points) < 2 || m.Path == "closed" && len(m.Points) < 3 || len(m.Points) > 10_000 {
				return fmt.Errorf("a path through points has 2 of them, a closed one 3, and at most 10,000")
			}
			for i, q := range m.Points {
				if !(q.Len() <= most) || i > 0 && q == m.Points[i-1] {
					return fmt.Errorf("the points of a path are numbers, each apart from the one before")
				}
			}
		}
		return nil
	},
	Clone: func(m *Travel) *Travel {
		c := *m
		c.Points = slices.Clone(m.Points)
		return &c
	},
	Scale: func(m *Travel, k float64) {
		for i := range m.Points {
			m.Points[i] = m.Points[i].Mul(k)
		}
	},
	Prepare: func(m *Travel, _ *shot.Part) any {
		switch m.Path {
		case "circle":
			return motion.Ellipse(m.Width/2, m.Width/2)
		case "ellipse":
			return motion.Ellipse(m.Width/2, m.Depth/2)
		case "rounded":
			return motion.RoundedRectangle(m.Width/2, m.Depth/2, m.Corner)
		case "drawn":
			p, _ := motion.Drawn(m.Drawing, m.Width) // Check has looked
			return p
		}
		return motion.Through(m.Points, m.Path == "closed")
	},
	Apply: func(m *Travel, c *Context, p *shot.Rest) { m.travel(c, c.Ready.(*motion.Path), p) },
	Laps:  func(m *Travel) float64 { return m.To - m.From },
	Mends: func(m *Travel, b *Mending) {
		if m.Path != "points" {
			b.Rounded("lap", m.To-m.From, func(data any, k float64) { data.(*Travel).To = m.From + k })
		}
	},
	Bar: func(m *Travel) string { return counted("lap", m.To-m.From) },
	Handles: []Handle{
		{Is: "points", Name: "Point", Values: map[string]string{"points": "points"}, When: &When{"path", either("points", "closed")}},
		{Is: "along", Name: "Far end of the path", Values: map[string]string{"length": "width"}, Way: geom.Vec3{0, 0, -1}, When: &When{"path", either("circle")}},
		{Is: "along", Name: "Far end of the path", Values: map[string]string{"length": "depth"}, Way: geom.Vec3{0, 0, -1}, When: &When{"path", either("ellipse", "rounded")}},
		{Is: "along", Name: "Side of the path", Values: map[string]string{"length": "width"}, Way: geom.Vec3{0.5, 0, 0}, When: &When{"path", either("ellipse", "rounded")}},
	},
	Examples: []Example[Travel]{{
		Says: "a quarter of a circle 2 wide, which begins at its front and goes counter-clockwise from above", Frame: 24,
		Move: Travel{Path: "circle", Width: 2, To: 1}, At: geom.Vec3{1, 0, -1}, Turn: geom.NoTurn,
	}},
})

// fill gives a path of another form what it lacks.
func (m *Travel) fill() {
	if m.Width == 0 {
		m.Width = 0.2
	}
	if m.Depth == 0 {
		m.Depth = m.Width
	}
	if m.Corner == 0 {
		m.Corner = math.Min(m.Width, m.Depth) / 5
	}
	m.Corner = math.Min(m.Corner, math.Min(m.Width, m.Depth)/2)
	if len(m.Points) < 3 {
		m.Points = []geom.Vec3{{}, {m.Width, 0, m.Width / 2}, {2 * m.Width, 0, 0}}
	}
	if m.Drawing == "" {
		m.Drawing = "M0 0C10 -20 30 -20 40 0S70 20 80 0"
	}
}

// travel moves a part along its path; at rest it stands where the path begins.
func (m *Travel) travel(c *Context, path *motion.Path, p *shot.Rest) {
	share := m.From + (m.To-m.From)*c.Progress()
	q, d := path.At(share)
	if m.Path != "points" && m.Path != "closed" {
		start, _ := path.At(0)
		q = q.Sub(start)
	}
	p.Position = p.Position.Add(q.Mul(c.Metre))
	if !m.Lay {
		return
	}
	// The front is brought to z, there tipped and leant, and then along the path.
	to := ahead(c.Part)
	back := geom.AxisAngle(up, math.Atan2(d[0], d[2]))
	if flat := math.Hypot(d[0], d[2]); flat > 1e-9 {
		back = back.Mul(geom.AxisAngle(geom.Vec3{1, 0, 0}, -math.Atan2(d[1], flat)))
	}
	if m.Bank != 0 && m.Width > 0 {
		lean := m.Bank * path.Bend(share) * m.Width / 2
		back = back.Mul(geom.AxisAngle(geom.Vec3{0, 0, 1}, -lean))
	}
	p.Rotation = back.Mul(geom.AxisAngle(up, -math.Atan2(to[0], to[2]))).Mul(p.Rotation)
}
