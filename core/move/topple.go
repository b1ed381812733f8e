package move

import (
	"fmt"
	"math"

	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/shot"
)

// Topple rolls a prism over its lower edges, one after another, always touching the floor.
type Topple struct {
	Along geom.Vec3 `json:"along"` // in the parent's frame; its upright part is left out
	Sides int       `json:"sides"` // of the cross section: 4 for a box
	Width float64   `json:"width"` // of the side it stands on, along the way, metres
	High  float64   `json:"high"`  // of a box, metres; of others it follows from the width
	Base  geom.Vec3 `json:"base"`  // the middle of what it stands on, along the parent's axes from its origin, metres
	Steps int       `json:"steps"`
}

var _ = define(Spec[Topple]{
	Kind: "topple", Note: "over its edges, always on the floor", Find: "tip fall over flip box",
	First: func(s *Subject) (Topple, Timing) {
		room, local, _ := s.Box()
		size, n := room.Size(), s.Frames()
		t := Timing{Span: &shot.Span{From: 0, To: math.Max(1, math.Round(n*0.75))}, Pace: shot.Pace{Kind: shot.Power, Way: "in", Power: 2}, After: shot.Returns}
		return Topple{
			Along: geom.Vec3{1, 0, 0}, Sides: 4, Width: math.Max(size[0], tiny), High: math.Max(size[1], tiny), Steps: 2,
			Base: geom.Vec3{(local.Min[0] + local.Max[0]) / 2, local.Min[1], (local.Min[2] + local.Max[2]) / 2},
		}, t
	},
	Words: []Value[Topple]{
		{Name: "along", Label: "Way", As: AsWay, Vec: func(m *Topple) *geom.Vec3 { return &m.Along }},
		{Name: "steps", Label: "Times", In: &Range{1, 1000}, Ones: "edge", Many: "edges", Int: func(m *Topple) *int { return &m.Steps }},
		{Name: "sides", Label: "Sides", In: &Range{3, 100}, Ones: "side", Many: "sides", Int: func(m *Topple) *int { return &m.Sides },
			Then: func(m *Topple, _ *Subject) {
				if m.Sides == 4 && m.High == 0 {
					m.High = m.Width
				}
			}},
		{Name: "width", Label: "Width along the way", Unit: Length, In: positive, At: func(m *Topple) *float64 { return &m.Width }},
		{Name: "high", Label: "Height of the box", Unit: Length, In: notBelow, At: func(m *Topple) *float64 { return &m.High }},
		{Name: "base", Label: "What it stands on", As: Hidden, Unit: Length, Vec: func(m *Topple) *geom.Vec3 { return &m.Base }},
	},
	Sentence: say("Topple ", part, " ", val("along"), " over ", val("steps"), "; it has ", val("sides"), ", the lower one ", val("width"), " wide",
		when("sides", 4, " and ", val("high"), " high"), timing),
	Check: func(m *Topple, _ *shot.Part) error {
		if m.Sides == 4 && m.High < tiny {
			return fmt.Errorf("a box that topples is higher than 0")
		}
		return nil
	},
	Apply: func(m *Topple, c *Context, p *shot.Rest) {
		q, by := m.toppled(c.Progress(), c.Move.Pace)
		rigid(p, c.Part.Pivot, q, by.Mul(c.Metre))
	},
	Bar: func(m *Topple) string { return counted("edge", float64(m.Steps)) },
	Examples: []Example[Topple]{{
		Says: "a cube of 2 that has toppled once to the right stands where its neighbour would", Frame: 48,
		Move: Topple{Along: geom.Vec3{1, 0, 0}, Sides: 4, Width: 2, High: 2, Steps: 2}, At: geom.Vec3{1, 1, 0}, Turn: geom.AxisAngle(geom.Vec3{0, 0, 1}, -math.Pi/2),
	}},
})

// rigid moves a pose by a rotation about the parent's origin and then a translation, in the parent's unit.
func rigid(p *shot.Rest, pivot geom.Vec3, q geom.Quat, by geom.Vec3) {
	p.Position = q.Rotate(p.Position.Add(pivot)).Add(by).Sub(pivot)
	p.Rotation = q.Mul(p.Rotation)
}

// toppled returns the rigid motion, in metres, of a prism that has rolled over some of its lower edges: at every moment
// it turns about the edge that lies on the floor. The whole progress is all its steps, each at the pace.
func (m *Topple) toppled(e float64, pace shot.Pace) (geom.Quat, geom.Vec3) {
	along, axis := level(m.Along)
	done := e * float64(m.Steps)
	whole := math.Floor(done)
	rest := done - whole
	if pace.Kind != "" && pace.Kind != shot.Constant {
		rest, _ = motion.Pace(pace, rest)
	}
	step := 2 * math.Pi / float64(m.Sides) // the angle between neighbouring sides
	side := func(k int) float64 {
		if m.Sides == 4 && k%2 != 0 {
			return m.High
		}
		return m.Width
	}
	// Steps are taken one by one; a topple is short.
	q, by := geom.NoTurn, geom.Vec3{}
	about := func(edge geom.Vec3, angle float64) {
		r := geom.AxisAngle(axis, angle)
		q = r.Mul(q)
		by = r.Rotate(by.Sub(edge)).Add(edge)
	}
	edge := m.Base.Add(along.Mul(side(0) / 2))
	n := int(whole)
	for k := 0; k < n; k++ {
		about(edge, step)
		edge = edge.Add(along.Mul(side(k + 1)))
	}
	if rest > 0 {
		about(edge, step*rest)
	}
	return q, by
}
