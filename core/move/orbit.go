package move

import (
	"math"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

// Orbit revolves a camera, or anything else, round a target and keeps it looking there.
type Orbit struct {
	Target string    `json:"target"`          // part, or empty for a point
	Point  geom.Vec3 `json:"point"`           // in the room; with a target, added to its pivot, metres
	Start  float64   `json:"start"`           // radians from the target's front, z
	Turns  float64   `json:"turns"`           // counter-clockwise from above
	Radius float64   `json:"radius"`          // on the floor, metres
	Height float64   `json:"height"`          // over the target, metres
	Wave   float64   `json:"wave,omitempty"`  // that the height goes up and down by, metres
	Waves  float64   `json:"waves,omitempty"` // times over the progress
}

var _ = define(Spec[Orbit]{
	Kind: "orbit", Note: "round a target, looking at it", Find: "camera revolve circle around",
	Suits: func(s *Subject) bool { return s.Part().Kind == shot.Camera },
	First: func(s *Subject) (Orbit, Timing) {
		box, target := s.Scene(), geom.Vec3{}
		if !box.Empty() {
			target = box.Centre()
		}
		at, _ := s.Eye()
		return Orbit{
			Point: target, Start: math.Atan2(at[0]-target[0], at[2]-target[2]), Turns: 1,
			Radius: math.Max(0.01, math.Hypot(at[0]-target[0], at[2]-target[2])), Height: at[1] - target[1],
		}, throughout()
	},
	Words: []Value[Orbit]{
		{Name: "target", Label: "Target", As: AsPart, None: "a point", Str: func(m *Orbit) *string { return &m.Target },
			Then: func(m *Orbit, _ *Subject) { m.Point = geom.Vec3{} }},
		{Name: "round a point", As: Hidden, Label: "Round a point", Get: func(m *Orbit, _ *shot.Part) any { return m.Target == "" }},
		{Name: "point", Label: "Point", Unit: Length, Pins: true, Room: true, Vec: func(m *Orbit) *geom.Vec3 { return &m.Point }},
		{Name: "turns", Label: "Turns", Unit: Turns, Pins: true, At: func(m *Orbit) *float64 { return &m.Turns }},
		{Name: "radius", Label: "Radius of the orbit", Unit: Length, In: positive, Pins: true, At: func(m *Orbit) *float64 { return &m.Radius }},
		{Name: "height", Label: "Height over the target", Unit: Length, Pins: true, At: func(m *Orbit) *float64 { return &m.Height }},
		{Name: "start", Label: "Start", Unit: Angle, Pins: true, At: func(m *Orbit) *float64 { return &m.Start }},
		{Name: "wave", Label: "Wave", Unit: Length, Pins: true, At: func(m *Orbit) *float64 { return &m.Wave }, Then: func(m *Orbit, _ *Subject) {
			if m.Waves == 0 {
				m.Waves = 1
			}
		}},
		{Name: "waves", Label: "Waves", As: Hidden, At: func(m *Orbit) *float64 { return &m.Waves }},
	},
	Sentence: say(part, " orbits ", val("target"), when("round a point", true, val("point")), " by ", val("turns"), " at ", val("radius"), " from it and ", val("height"),
		" above, beginning at ", val("start"), ", rising and falling by ", val("wave"), timing),
	Needs: func(m *Orbit) []string {
		if m.Target == "" {
			return nil
		}
		return []string{m.Target}
	},
	Apply: func(m *Orbit, c *Context, p *shot.Rest) {
		e := c.Progress()
		target := c.Room.Inverse(m.Point, c.Time)
		if m.Target != "" {
			_, pivot := c.Room.Place(m.Target, c.Time)
			target = pivot.Add(m.Point.Mul(c.Metre))
		}
		sin, cos := math.Sincos(m.Start + 2*math.Pi*m.Turns*e)
		height := m.Height + m.Wave*math.Sin(2*math.Pi*m.Waves*e)
		p.Position = target.Add(geom.Vec3{m.Radius * sin, height, m.Radius * cos}.Mul(c.Metre))
		p.Rotation = geom.LookAlong(target.Sub(p.Position))
	},
	Laps: func(m *Orbit) float64 { return m.Turns },
	Mends: func(m *Orbit, b *Mending) {
		b.Rounded("turn", m.Turns, func(data any, k float64) { data.(*Orbit).Turns = k })
		b.Rounded("turn", m.Turns, func(data any, k float64) {
			c := data.(*Orbit)
			c.Turns, c.Waves = k, math.Round(m.Waves)
		})
	},
	Bar: func(m *Orbit) string { return counted("turn", m.Turns) },
	Handles: []Handle{{Is: "orbit", Name: "Where the orbit begins",
		Values: map[string]string{"target": "target", "point": "point", "start": "start", "turns": "turns", "radius": "radius", "height": "height"}}},
	Examples: []Example[Orbit]{{
		Says: "a quarter round the origin at 3 m, from the front to the right side", Move: Orbit{Turns: 1, Radius: 3}, Frame: 24,
		At: geom.Vec3{3, 0, 0}, Turn: geom.AxisAngle(up, math.Pi/2), // it looks along its -z
	}},
})
