package move

import (
	"fmt"
	"math"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

// Float lifts a part and lets it down again in a sine, swaying as it goes. It starts at the lowest point, so that what
// stands on a plinth never sinks into it.
type Float struct {
	Height float64 `json:"height"` // from lowest to highest, metres
	Period float64 `json:"period"` // frames
	Tilt   float64 `json:"tilt"`   // sway either way about the parent's z axis, radians
}

var _ = define(Spec[Float]{
	Kind: "float", Note: "gently up and down", Find: "hover bob levitate",
	First: func(s *Subject) (Float, Timing) {
		return Float{Height: round(s.Large() / 30), Period: s.Half()}, throughout()
	},
	Words: []Value[Float]{
		{Name: "height", Label: "Height", Unit: Length, In: notBelow, Pins: true, At: func(m *Float) *float64 { return &m.Height }},
		{Name: "period", Label: "Period", Unit: Frames, In: &Range{1e-3, most}, Pins: true, At: func(m *Float) *float64 { return &m.Period }},
		{Name: "tilt", Label: "Tilt", Unit: Angle, Pins: true, At: func(m *Float) *float64 { return &m.Tilt }},
	},
	Sentence: say("Float ", part, " ", val("height"), " up and down every ", val("period"), ", tilting ", val("tilt"), "."),
	Times:    func(m *Float, _, long func(*float64)) { long(&m.Period) },
	Apply: func(m *Float, c *Context, p *shot.Rest) {
		sin, cos := math.Sincos(2 * math.Pi * c.Time.T / m.Period)
		p.Position[1] += c.Metre * m.Height / 2 * (1 - cos)
		p.Rotation = geom.AxisAngle(geom.Vec3{0, 0, 1}, m.Tilt*sin).Mul(p.Rotation)
	},
	Period: func(m *Float, _ Setting) float64 { return m.Period },
	Wave:   func(u float64) float64 { return (1 - math.Cos(2*math.Pi*u)) / 2 },
	Mends: func(m *Float, b *Mending) {
		b.Periods(func(data any, frames float64) string {
			data.(*Float).Period = frames
			return fmt.Sprintf("Every %.4g f", frames)
		})
	},
	Bar:     func(m *Float) string { return fmt.Sprintf("%.4g mm every %.4g f", m.Height*1000, m.Period) },
	Handles: []Handle{{Is: "along", Name: "Height", Values: map[string]string{"length": "height"}, Way: up}},
	Examples: []Example[Float]{{
		Says: "the highest point is half a period after the lowest", Move: Float{Height: 0.2, Period: 48}, Frame: 24, At: geom.Vec3{0, 0.2, 0}, Turn: geom.NoTurn,
	}},
})
