package demo

import (
	"math"
	"strings"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

func named(s *shot.Shot, name string) *shot.Part {
	for i := range s.Parts {
		if s.Parts[i].Name == name {
			return &s.Parts[i]
		}
	}
	return nil
}

// still takes the turntable's move away and gives the camera a place to look from: an angle from the front
// and one from the floor.
func still(s *shot.Shot, round, up float64) {
	if t := named(s, "Turntable"); t != nil {
		t.Moves = []shot.Move{}
	}
	if c := s.Part(s.Camera); c != nil {
		c.Rest.Rotation = geom.AxisAngle(geom.Vec3{0, 1, 0}, round*math.Pi/180).Mul(geom.AxisAngle(geom.Vec3{1, 0, 0}, -up*math.Pi/180))
	}
}

// WindUp drives the gear set: the ring is held, the sun is wound, and the shot closes on the shortest loop in
// which sun, carried planets and rotor all come round.
func WindUp(s *shot.Shot, newID func() string) {
	still(s, 24, 48)
	s.Rate, s.Frames = shot.Rate{Num: 30, Den: 1}, 600
	axis := geom.Vec3{0, 1, 0}
	sun := named(s, "Sun")
	// The carrier makes 2 turns for 9 of the sun (16 to 72), a planet 28 for 45 of it in the carrier (56 / 72 x
	// 16 / 20): 45 turns are the fewest after which all stand as they stood.
	sun.Moves = []shot.Move{{ID: newID(), Kind: shot.KindTurn, After: shot.Stays, Turn: &shot.Turn{Axis: axis, Frame: shot.OwnFrame, Turns: 45, Direction: shot.CounterClockwise}}}
	gear := func(num, den int, mesh string) shot.Move {
		return shot.Move{ID: newID(), Kind: shot.KindGear, After: shot.Stays, Gear: &shot.Geared{Driver: sun.ID, Axis: axis, Frame: shot.OwnFrame, Num: num, Den: den, Mesh: mesh}}
	}
	for _, name := range []string{"Rotor", "Arbor"} {
		named(s, name).Moves = []shot.Move{gear(1, 1, "belt")}
	}
	up := named(s, "Sun").Parent
	carrier := shot.Part{ID: newID(), Name: "Planet carrier", Parent: up, Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{gear(sunTeeth, sunTeeth+ringTeeth, "inside")}}
	var rest, planets []shot.Part
	for _, p := range s.Parts {
		switch {
		case strings.HasPrefix(p.Name, "Planet "):
			p.Parent = carrier.ID
			if p.Mesh != nil && !strings.HasPrefix(p.Name, "Planet pin") {
				// In the carrier's frame the sun turns by 56/72 of itself.
				p.Moves = []shot.Move{gear(sunTeeth*ringTeeth, planetTeeth*(sunTeeth+ringTeeth), "outside")}
			}
			planets = append(planets, p)
		default:
			rest = append(rest, p)
		}
	}
	s.Parts = append(append(rest, carrier), planets...)
}

// Rolling lets the reel roll there and back on the floor while the camera keeps pace.
func Rolling(s *shot.Shot, newID func() string) {
	still(s, 18, 10)
	s.Rate, s.Frames = shot.Rate{Num: 30, Den: 1}, 60
	reel := named(s, "Cord reel")
	reel.Pivot = geom.Vec3{0, 0.06, 0}
	reel.Moves = []shot.Move{{ID: newID(), Kind: shot.KindRoll, After: shot.Mirrored, Laps: 2, Pace: shot.Pace{Kind: shot.Sine, Way: "both"},
		Roll: &shot.Roll{Radius: 0.06, Along: geom.Vec3{1, 0, 0}, Turns: 1, Contact: "ground"}}}
	if p := named(s, "Plinth"); p != nil {
		p.Hidden = true
	}
}

// Opening unfolds the carton's walls with their flaps, holds, and closes it again.
func Opening(s *shot.Shot, newID func() string) {
	still(s, 30, 24)
	s.Frames = 120
	named(s, "Carton").Moves = []shot.Move{{ID: newID(), Kind: shot.KindUnfold, After: shot.Mirrored, Laps: 2, Pace: shot.Pace{Kind: shot.Power, Way: "both", Power: 3},
		Unfold: &shot.Unfold{Angle: 0.44 * math.Pi, Order: "list", Deep: true, Share: 0.5, Base: named(s, "Base").ID}}}
}

// Arriving lets the letters of the word come one after another.
func Arriving(s *shot.Shot, newID func() string) {
	still(s, 14, 6)
	s.Rate, s.Frames, s.Ending = shot.Rate{Num: 30, Den: 1}, 90, shot.Once
	if w := named(s, "Brindlewick"); w != nil {
		w.Moves = []shot.Move{{ID: newID(), Kind: shot.KindReveal, Span: &shot.Span{From: 12, To: 30}, Pace: shot.Pace{Kind: shot.Back, Way: "out"}, After: shot.Stays,
			Reveal: &shot.Reveal{Order: "left", Delay: 4, Takes: 18, From: "slide", By: geom.Vec3{0, 0.04, 0.03}}}}
	}
}
