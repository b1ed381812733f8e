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

// Flight goes through saved poses, stopping at each for as long as it rests.
type Flight struct {
	Stops  []Stop `json:"stops"`            // in the order of their times
	Closes bool   `json:"closes,omitempty"` // in a loop: from the last on to the first, over the seam, as smoothly as between any two
}

// Stop is a pose of a flight.
type Stop struct {
	At       float64   `json:"at"`       // frame that it is reached on
	Rest     float64   `json:"rest"`     // frames that it stays
	Position geom.Vec3 `json:"position"` // in the room, metres
	Rotation geom.Quat `json:"rotation"`
}

var _ = define(Spec[Flight]{
	Kind: "flight", Places: true, Note: "through places, resting at some", Find: "camera fly path places stops",
	Suits: func(s *Subject) bool { return s.Part().Kind == shot.Camera },
	First: func(s *Subject) (Flight, Timing) {
		at, turn := s.Eye()
		n := s.Frames()
		return Flight{Stops: []Stop{
			{At: 0, Position: at, Rotation: turn}, {At: float64(int(n/2 + 0.5)), Position: at.Mul(1.3), Rotation: turn}, {At: max(n, 2), Position: at, Rotation: turn},
		}}, throughout()
	},
	Words: []Value[Flight]{
		{Name: "stops", Label: "Stop", As: AsStops, Get: func(m *Flight, _ *shot.Part) any { return m.Stops },
			Set: func(m *Flight, raw json.RawMessage, _ *Subject) error {
				m.Stops = nil
				if err := json.Unmarshal(raw, &m.Stops); err != nil {
					return fmt.Errorf("the stops of a flight are places with times")
				}
				return nil
			}},
		{Name: "closes", Label: "After the last stop", As: AsChoice, Options: []Option{{"ends", "and stays at the last"}, {"closes", "and on to the first again"}},
			Get: func(m *Flight, _ *shot.Part) any { return chosen(m.Closes, "closes", "ends") },
			Set: choose(func(m *Flight, v string, _ *Subject) { m.Closes = v == "closes" })},
	},
	Sentence: say(part, " flies through ", val("stops"), ", ", val("closes"), "."),
	Clone:    func(m *Flight) *Flight { return &Flight{slices.Clone(m.Stops), m.Closes} },
	Check: func(m *Flight, _ *shot.Part) error {
		if len(m.Stops) == 0 || len(m.Stops) > 10_000 {
			return fmt.Errorf("a flight has 1 to 10,000 stops")
		}
		for i, s := range m.Stops {
			q := s.Rotation
			if n := q[0]*q[0] + q[1]*q[1] + q[2]*q[2] + q[3]*q[3]; !(n > 0.5 && n < 2) {
				return fmt.Errorf("the orientation of stop %d of a flight is no rotation", i+1)
			}
			if !(s.At >= -most && s.At <= most && s.Rest >= 0 && s.Rest <= most && s.Position.Len() <= most) ||
				i > 0 && s.At < m.Stops[i-1].At+m.Stops[i-1].Rest {
				return fmt.Errorf("the stops of a flight come one after another, each after the rest before it")
			}
		}
		return nil
	},
	Times: func(m *Flight, at, long func(*float64)) {
		for k := range m.Stops {
			at(&m.Stops[k].At)
			long(&m.Stops[k].Rest)
		}
	},
	Apply:   func(m *Flight, c *Context, p *shot.Rest) { m.fly(c, p) },
	Bar:     func(m *Flight) string { return counted("stop", float64(len(m.Stops))) },
	Handles: []Handle{{Is: "stops", Name: "Stop", Values: map[string]string{"stops": "stops"}}},
	Examples: []Example[Flight]{{
		Says: "half-way in time between two stops where it rests it is half-way between them", Frame: 48, At: geom.Vec3{1, 0, 0}, Turn: geom.NoTurn,
		Move: Flight{Stops: []Stop{{At: 0, Rotation: geom.NoTurn}, {At: 96, Position: geom.Vec3{2, 0, 0}, Rotation: geom.NoTurn}}},
	}},
})

// fly goes smoothly through the stops: each component of the position along a monotone curve that is level at the stops
// that rest, the orientation on the shorter arc by the same share of the way.
func (m *Flight) fly(c *Context, p *shot.Rest) {
	if m.Closes && c.Time.Loop && len(m.Stops) > 1 {
		m = m.round(c.Time.Frames)
	}
	stops, x := m.Stops, c.Time.T
	at := func(s *Stop) { p.Position, p.Rotation = c.Room.Inverse(s.Position, c.Time), s.Rotation.Unit() }
	if x <= stops[0].At {
		at(&stops[0])
		return
	}
	for i := range stops {
		s := &stops[i]
		if i == len(stops)-1 || x <= s.At+s.Rest {
			at(s)
			return
		}
		next := &stops[i+1]
		if x > next.At {
			continue
		}
		long := next.At - s.At - s.Rest
		u := (x - s.At - s.Rest) / long
		var place geom.Vec3
		for k := range place {
			place[k] = hermite(s.Position[k], next.Position[k], m.slope(i, k)*long, m.slope(i+1, k)*long, u)
		}
		p.Position = c.Room.Inverse(place, c.Time)
		p.Rotation = s.Rotation.Unit().Slerp(next.Rotation.Unit(), hermite(0, 1, m.eased(i), m.eased(i+1), u))
		return
	}
}

// round returns the flight with the stops of the laps before and after at its ends, two of each, which is as far as a curve
// between two stops looks.
func (m *Flight) round(frames float64) *Flight {
	n := len(m.Stops)
	out := &Flight{Stops: make([]Stop, 0, n+4)}
	for k := -2; k < n+2; k++ {
		lap := math.Floor(float64(k) / float64(n))
		s := m.Stops[k-int(lap)*n]
		s.At += lap * frames
		out.Stops = append(out.Stops, s)
	}
	return out
}

// level reports whether the flight rests or ends at a stop, so that its curves are level there.
func (m *Flight) level(i int) bool { return m.Stops[i].Rest > 0 || i == 0 || i == len(m.Stops)-1 }

// eased is the slope of the share of the way at a stop.
func (m *Flight) eased(i int) float64 {
	if m.level(i) {
		return 0
	}
	return 1
}

func (m *Flight) slope(i, k int) float64 {
	if m.level(i) {
		return 0
	}
	a, b, c := &m.Stops[i-1], &m.Stops[i], &m.Stops[i+1]
	h0, h1 := b.At-a.At-a.Rest, c.At-b.At
	if h0 <= 0 || h1 <= 0 {
		return 0
	}
	return motion.Harmonic((b.Position[k]-a.Position[k])/h0, (c.Position[k]-b.Position[k])/h1, h0, h1)
}

func hermite(a, b, ma, mb, s float64) float64 { return motion.Cubic(a, a+ma/3, b-mb/3, b, s) }
