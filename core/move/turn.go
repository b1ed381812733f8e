package move

import (
	"fmt"
	"math"

	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/shot"
)

// Turn rotates a part about an axis through its pivot, in one go or with rests.
type Turn struct {
	Axis      geom.Vec3      `json:"axis"`
	Frame     shot.Frame     `json:"frame"` // of the axis
	Turns     float64        `json:"turns"`
	Direction shot.Direction `json:"direction"`
	Stops     int            `json:"stops,omitempty"` // evenly over the whole angle, each reached by the pace; 0 for none
	Rest      float64        `json:"rest,omitempty"`  // share of each stop's time that it rests there
}

// directions are the ways round.
var directions = []Option{{string(shot.Clockwise), "clockwise"}, {string(shot.CounterClockwise), "counterclockwise"}}

// frames are whose axes are meant.
var frames = []Option{{string(shot.RoomFrame), "the room's"}, {string(shot.OwnFrame), "its own"}, {string(shot.ParentFrame), "its group's"}}

var _ = define(Spec[Turn]{
	Kind: "turn", Note: "about an axis, with stops if you like", Find: "rotate spin revolve",
	First: func(*Subject) (Turn, Timing) {
		return Turn{Axis: up, Frame: shot.RoomFrame, Turns: 1, Direction: shot.Clockwise}, throughout()
	},
	Words: []Value[Turn]{
		{Name: "turns", Label: "Turns", Unit: Turns, Pins: true, At: func(m *Turn) *float64 { return &m.Turns }},
		{Name: "direction", Label: "Direction", Options: directions, Str: func(m *Turn) *string { return (*string)(&m.Direction) }},
		{Name: "axis", Label: "Axis", As: AsAxis, Vec: func(m *Turn) *geom.Vec3 { return &m.Axis }},
		{Name: "frame", Label: "Whose axis", As: AsChoice, Options: frames, Str: func(m *Turn) *string { return (*string)(&m.Frame) }},
		{Name: "in one go", Label: "Stops", As: AsChoice, Options: []Option{{"go", "in one go"}, {"stops", "with stops"}},
			Get: func(m *Turn, _ *shot.Part) any { return chosen(m.Stops > 0, "stops", "go") },
			Set: choose(func(m *Turn, v string, _ *Subject) {
				if m.Stops, m.Rest = 0, 0; v == "stops" {
					m.Stops, m.Rest = 4, 0.5
				}
			})},
		{Name: "stops", Label: "Number of stops", In: &Range{0, 10_000}, Ones: "stop", Many: "stops", Int: func(m *Turn) *int { return &m.Stops }},
		{Name: "rest", Label: "Rest", Unit: Share, In: &Range{0, 0.99}, Pins: true, At: func(m *Turn) *float64 { return &m.Rest }},
	},
	Sentence: say("Turn ", part, " by ", val("turns"), " ", val("direction"), " about ", val("frame"), " ", val("axis"), ", ", val("in one go"),
		when("in one go", "stops", ": ", val("stops"), ", resting for ", val("rest"), " of each"), timing),
	Apply: func(m *Turn, c *Context, p *shot.Rest) { c.rotate(p, m.Axis, m.Frame, m.angle(c)) },
	Angle: func(m *Turn, c *Context) float64 { return m.angle(c) },
	Rests: func(m *Turn) bool { return m.Stops > 0 },
	Laps:  func(m *Turn) float64 { return m.Turns },
	Mends: func(m *Turn, b *Mending) {
		b.Rounded("turn", m.Turns, func(data any, k float64) { data.(*Turn).Turns = k })
	},
	Bar:     func(m *Turn) string { return fmt.Sprintf("%s %s", counted("turn", m.Turns), m.Direction) },
	Handles: []Handle{{Is: "axis", Name: "Axis", Values: map[string]string{"axis": "axis", "frame": "frame"}}},
	Examples: []Example[Turn]{{
		Says: "a quarter of a lap turns x to -z; a positive angle is counter-clockwise seen from the tip of the axis (glTF 2.0, 3.4)",
		Move: Turn{Axis: up, Frame: shot.OwnFrame, Turns: 1, Direction: shot.CounterClockwise}, Frame: 24, Turn: geom.AxisAngle(up, math.Pi/2),
	}},
})

func (m *Turn) angle(c *Context) float64 {
	return m.Direction.Sign() * 2 * math.Pi * m.Turns * m.stopped(c.Progress(), c.Move.Pace)
}

// stopped lays rests into a progress: the whole is cut into as many stops, each reached by the pace in what its rest
// leaves of its time. The progress it is given is paced already where there are no stops.
func (m *Turn) stopped(e float64, pace shot.Pace) float64 {
	if m.Stops == 0 {
		return e
	}
	n := float64(m.Stops)
	k := math.Floor(e * n)
	v := math.Min(1, (e*n-k)/(1-m.Rest))
	if pace.Kind == "" || pace.Kind == shot.Constant {
		v = v * v * (3 - 2*v) // a detent is left and reached gently
	} else {
		v, _ = motion.Pace(pace, v)
	}
	return (k + v) / n
}

// rotate turns a pose about an axis through the part's pivot.
func (c *Context) rotate(p *shot.Rest, axis geom.Vec3, frame shot.Frame, angle float64) {
	if frame == shot.RoomFrame {
		axis = c.fromRoom(axis)
	}
	q := geom.AxisAngle(axis, angle)
	if frame == shot.OwnFrame {
		p.Rotation = p.Rotation.Mul(q)
	} else {
		p.Rotation = q.Mul(p.Rotation)
	}
}

// fromRoom brings a direction of the room into the frame of the part's parent.
func (c *Context) fromRoom(v geom.Vec3) geom.Vec3 {
	d := c.Room.Inverse(v, c.Time).Sub(c.Room.Inverse(geom.Vec3{}, c.Time))
	if d.Len() < 1e-300 {
		return v
	}
	return d
}
