package move

import (
	"encoding/json"
	"fmt"
	"math"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/shot"
)

// Flex bends or twists the meshes of a part, and of all in it as they are at rest, along one of its axes. Below its base
// they stay, beyond its length they go on straight.
type Flex struct {
	Shape   string    `json:"shape"`   // bend or twist
	Axis    int       `json:"axis"`    // 0 to 2 for x to z of the part's own frame
	Towards int       `json:"towards"` // the axis that a bend goes towards
	Base    geom.Vec3 `json:"base"`    // where it begins, along the part's own axes from its origin, metres
	Length  float64   `json:"length"`  // along the axis, metres
	Angle   float64   `json:"angle"`   // radians over the whole length
}

var _ = define(Spec[Flex]{
	Kind: "flex", Note: "bend or twist along an axis", Find: "deform curl twist bend",
	Suits: func(s *Subject) bool { return s.Part().Kind != shot.Camera && s.Part().Kind != shot.Light },
	First: func(s *Subject) (Flex, Timing) {
		m := Flex{Shape: "bend", Axis: 1, Angle: math.Pi / 4}
		m.reach(s)
		return m, gently()
	},
	Words: []Value[Flex]{
		{Name: "shape", Label: "How it flexes", Options: []Option{{"bend", "Bend"}, {"twist", "Twist"}}, Str: func(m *Flex) *string { return &m.Shape }},
		{Name: "angle", Label: "Angle", Unit: Angle, Pins: true, At: func(m *Flex) *float64 { return &m.Angle }},
		axisChoice("axis", "Along", func(m *Flex) *int { return &m.Axis }, func(m *Flex, s *Subject) {
			if m.Towards == m.Axis {
				m.Towards = (m.Axis + 1) % 3
			}
			m.reach(s)
		}),
		axisChoice("towards", "Towards", func(m *Flex) *int { return &m.Towards }, nil),
		{Name: "length", Label: "Length that flexes", Unit: Length, In: positive, At: func(m *Flex) *float64 { return &m.Length }},
		{Name: "base", Label: "Base", As: Hidden, Unit: Length, Vec: func(m *Flex) *geom.Vec3 { return &m.Base }},
		{Name: "begins", Label: "Where it begins", Unit: Length, Get: func(m *Flex, _ *shot.Part) any { return m.Base[min(2, max(0, m.Axis))] },
			Set: func(m *Flex, raw json.RawMessage, _ *Subject) error {
				if json.Unmarshal(raw, &m.Base[m.Axis]) != nil {
					return fmt.Errorf("a flex begins at a number of metres, not at %s", raw)
				}
				return nil
			}},
	},
	Sentence: say(val("shape"), " ", part, " by ", val("angle"), " along its ", val("axis"), when("shape", "bend", " towards its ", val("towards")),
		", over ", val("length"), " from ", val("begins"), timing),
	Check: func(m *Flex, _ *shot.Part) error {
		if m.Towards == m.Axis {
			return fmt.Errorf("a flex bends or twists along x, y or z, and bends towards another of them")
		}
		return nil
	},
	Bend: func(m *Flex, c *Context) Bent {
		return Bent{Bend: mesh.Bend{Twist: m.Shape == "twist", Axis: m.Axis, Towards: m.Towards, Base: m.Base.Mul(c.Own), Length: m.Length * c.Own}, Angle: m.Angle * c.Progress()}
	},
	Bar:     func(m *Flex) string { return fmt.Sprintf("%s %.4g°", m.Shape, m.Angle*180/math.Pi) },
	Handles: []Handle{{Is: "reach", Name: "End of what flexes", Values: map[string]string{"axis": "axis", "base": "base", "length": "length"}}},
})

// reach has it begin at the low end of the part and go on to its high one, in the middle of what is across.
func (m *Flex) reach(s *Subject) {
	_, _, own := s.Box()
	size := own.Size()
	m.Base = own.Centre()
	m.Base[m.Axis] = own.Min[m.Axis]
	m.Length = math.Max(size[m.Axis], 1e-6)
}

// colors of a look are from black to what is brighter than white.
var bright = &Range{0, 1e6}
