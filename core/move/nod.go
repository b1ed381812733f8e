package move

import (
	"fmt"
	"math"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

// Nod is a decaying swing: it is struck on its span's first frame, swings about an axis through the pivot less and less,
// and comes to rest.
type Nod struct {
	Axis      geom.Vec3  `json:"axis"`
	Frame     shot.Frame `json:"frame"`
	Amplitude float64    `json:"amplitude"` // radians, of the first swing
	Swings    float64    `json:"swings"`    // to and fro, over the span
	Decrement float64    `json:"decrement"` // logarithm of the ratio of two peaks one swing apart; more is sooner at rest
}

var _ = define(Spec[Nod]{
	Kind: "nod", Note: "struck once, swinging less and less until it rests", Find: "decay damped wobble settle shake bell",
	First: func(s *Subject) (Nod, Timing) {
		t := throughout()
		t.Span = &shot.Span{From: 0, To: math.Max(1, math.Round(s.Frames()*0.75))}
		return Nod{Axis: geom.Vec3{0, 0, 1}, Frame: shot.RoomFrame, Amplitude: math.Pi / 12, Swings: 4, Decrement: math.Ln2}, t
	},
	Words: []Value[Nod]{
		{Name: "amplitude", Label: "Amplitude", Unit: Angle, Pins: true, At: func(m *Nod) *float64 { return &m.Amplitude }},
		{Name: "axis", Label: "Axis", As: AsAxis, Vec: func(m *Nod) *geom.Vec3 { return &m.Axis }},
		{Name: "frame", Label: "Whose axis", As: AsChoice, Options: frames, Str: func(m *Nod) *string { return (*string)(&m.Frame) }},
		{Name: "swings", Label: "Swings", In: &Range{0.25, 10_000}, Ones: "swing", Many: "swings", At: func(m *Nod) *float64 { return &m.Swings }},
		{Name: "decrement", Label: "Logarithmic decrement", In: &Range{0, 100}, At: func(m *Nod) *float64 { return &m.Decrement }},
	},
	Sentence: say("Nod ", part, " by ", val("amplitude"), " about ", val("frame"), " ", val("axis"), ", ", val("swings"), " that die away by a logarithmic decrement of ", val("decrement"), timing),
	Apply:    func(m *Nod, c *Context, p *shot.Rest) { c.rotate(p, m.Axis, m.Frame, m.angle(c.Progress())) },
	Angle:    func(m *Nod, c *Context) float64 { return m.angle(c.Progress()) },
	Bar: func(m *Nod) string {
		return fmt.Sprintf("%.4g°, %s", m.Amplitude*180/math.Pi, counted("swing", m.Swings))
	},
	Handles: []Handle{{Is: "arc", Name: "Amplitude", Values: map[string]string{"axis": "axis", "frame": "frame", "angle": "amplitude"}}},
	Examples: []Example[Nod]{{
		Says: "with a decrement of ln 2 each swing is half of the one before: a quarter past the first whole swing, half of the amplitude less what a quarter takes",
		Move: Nod{Axis: up, Frame: shot.OwnFrame, Amplitude: 0.4, Swings: 4, Decrement: math.Ln2}, Frame: 30, Turn: geom.AxisAngle(up, 0.4*math.Pow(2, -1.25)*(1-1.25/4)),
	}},
})

// angle is the free oscillation of a damped oscillator, A e^(-d n) sin(2 pi n) at n swings, d the logarithmic decrement
// (Thomson, "Theory of Vibration", 2.6, from memory). It is brought to rest at the end of the span by what is left of
// the way, so that nothing stops short.
func (m *Nod) angle(e float64) float64 {
	n := m.Swings * e
	return m.Amplitude * math.Exp(-m.Decrement*n) * math.Sin(2*math.Pi*n) * (1 - math.Min(1, math.Max(0, e)))
}
