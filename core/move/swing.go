package move

import (
	"fmt"
	"math"

	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/shot"
)

// Swing goes to and fro about an axis through the pivot. It begins in the middle, going the positive way.
type Swing struct {
	Axis      geom.Vec3  `json:"axis"`
	Frame     shot.Frame `json:"frame"`
	Amplitude float64    `json:"amplitude"`        // radians either way
	Shape     string     `json:"shape"`            // sine, pendulum or weighted
	Period    float64    `json:"period"`           // frames; of a pendulum with a length, that follows from it
	Length    float64    `json:"length,omitempty"` // metres, of a pendulum; 0 to give the period instead
	Phase     float64    `json:"phase,omitempty"`  // share of a period that it is ahead
}

var _ = define(Spec[Swing]{
	Kind: "swing", Note: "to and fro, a true pendulum too", Find: "pendulum oscillate rock wobble",
	First: func(s *Subject) (Swing, Timing) {
		return Swing{Axis: geom.Vec3{0, 0, 1}, Frame: shot.RoomFrame, Amplitude: math.Pi / 12, Shape: "sine", Period: s.Half()}, throughout()
	},
	Words: []Value[Swing]{
		{Name: "amplitude", Label: "Amplitude", Unit: Angle, Pins: true, At: func(m *Swing) *float64 { return &m.Amplitude }},
		{Name: "axis", Label: "Axis", As: AsAxis, Vec: func(m *Swing) *geom.Vec3 { return &m.Axis }},
		{Name: "frame", Label: "Whose axis", As: AsChoice, Options: frames, Str: func(m *Swing) *string { return (*string)(&m.Frame) }},
		{Name: "shape", Label: "Shape", Options: []Option{{"sine", "a sine"}, {"pendulum", "a true pendulum"}, {"weighted", "something heavy"}}, Str: func(m *Swing) *string { return &m.Shape },
			Then: func(m *Swing, _ *Subject) {
				if m.Shape != "pendulum" {
					m.Length = 0
				}
			}},
		{Name: "timed by", Label: "Timed by", As: AsChoice, Options: []Option{{"period", "timed by its period"}, {"length", "timed by its length"}},
			Get: func(m *Swing, _ *shot.Part) any { return chosen(m.long(), "length", "period") },
			Set: choose(func(m *Swing, v string, _ *Subject) {
				if m.Length = 0; v == "length" {
					m.Length = 0.25
				}
			})},
		{Name: "length", Label: "Length", Unit: Length, In: notBelow, At: func(m *Swing) *float64 { return &m.Length }},
		{Name: "period", Label: "Period", Unit: Frames, In: &Range{0, most}, Pins: true, At: func(m *Swing) *float64 { return &m.Period }},
		{Name: "phase", Label: "Phase", Unit: Share, Pins: true, At: func(m *Swing) *float64 { return &m.Phase }},
	},
	Sentence: say("Swing ", part, " by ", val("amplitude"), " either way about ", val("frame"), " ", val("axis"), ", as ", val("shape"), ", ",
		when("shape", "pendulum", val("timed by"), ": "), when("timed by", "length", val("length")), when("timed by", "period", "every ", val("period")),
		", ahead by ", val("phase"), " of a swing."),
	Check: func(m *Swing, _ *shot.Part) error {
		switch {
		case !m.long() && !(m.Period >= 1e-3):
			return fmt.Errorf("a swing has a period of more than 0 frames")
		case m.Shape == "pendulum" && !(math.Abs(m.Amplitude) < math.Pi):
			return fmt.Errorf("a pendulum swings by less than half a turn either way")
		}
		return nil
	},
	Times: func(m *Swing, _, long func(*float64)) {
		if !m.long() { // gravity keeps its time
			long(&m.Period)
		}
	},
	Shift: func(m *Swing, frames float64) {
		if m.Period > 0 {
			m.Phase -= frames / m.Period
			m.Phase -= math.Floor(m.Phase)
		}
	},
	Apply:  func(m *Swing, c *Context, p *shot.Rest) { c.rotate(p, m.Axis, m.Frame, m.angle(c)) },
	Angle:  func(m *Swing, c *Context) float64 { return m.angle(c) },
	Period: func(m *Swing, in Setting) float64 { return m.period(in.Rate()) },
	Wave:   func(u float64) float64 { return (1 + math.Sin(2*math.Pi*u)) / 2 },
	Mends: func(m *Swing, b *Mending) {
		rate := b.Shot.Rate.PerSecond()
		b.Periods(func(data any, frames float64) string {
			c := data.(*Swing)
			if m.long() {
				c.Length = m.Length * math.Pow(frames/m.period(rate), 2)
				return fmt.Sprintf("%.4g mm long", c.Length*1000)
			}
			c.Period = frames
			return fmt.Sprintf("Every %.4g f", frames)
		})
	},
	Bar:     func(m *Swing) string { return fmt.Sprintf("%.4g° %s", m.Amplitude*180/math.Pi, m.Shape) },
	Handles: []Handle{{Is: "arc", Name: "Amplitude", Values: map[string]string{"axis": "axis", "frame": "frame", "angle": "amplitude"}}},
	Examples: []Example[Swing]{{
		Says: "a quarter of a period after the middle it is at its amplitude", Move: Swing{Axis: up, Frame: shot.OwnFrame, Amplitude: 0.3, Shape: "sine", Period: 48},
		Frame: 12, Turn: geom.AxisAngle(up, 0.3),
	}},
})

// long reports whether it is a pendulum that is timed by its length.
func (m *Swing) long() bool { return m.Shape == "pendulum" && m.Length > 0 }

// period returns the period in frames: that of a pendulum with a length follows from it.
func (m *Swing) period(rate float64) float64 {
	if m.long() {
		return motion.PendulumPeriod(m.Length, m.Amplitude) * rate
	}
	return m.Period
}

func (m *Swing) angle(c *Context) float64 {
	x := c.Time.T/m.period(c.Time.Rate) + m.Phase
	switch m.Shape {
	case "pendulum":
		return motion.Pendulum(m.Amplitude, x)
	case "weighted": // lingers at the ends
		return m.Amplitude * math.Sin(math.Pi/2*math.Sin(2*math.Pi*x))
	}
	return m.Amplitude * math.Sin(2*math.Pi*x)
}
