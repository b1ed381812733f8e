package move

import (
	"math"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/shot"
)

// acted changes a pose by a move, in a frame whose unit is the metre.
func acted(m *shot.Move, at motion.Time, on *shot.Part, p *shot.Rest) {
	if on == nil {
		on = &shot.Part{}
	}
	Apply(Context{Move: m, Time: at, Part: on, Metre: 1, Own: 1}, p)
}

// velocity of the material point of a part that is at a place in its parent's frame at a time.
func velocity(m *shot.Move, s *shot.Shot, t float64, at func(p shot.Rest) geom.Vec3) geom.Vec3 {
	pose := func(t float64) geom.Mat4 {
		r := shot.AtRest
		r.Position = geom.Vec3{0.3, 0.05, -0.2}
		acted(m, motion.At(s, t), &shot.Part{}, &r)
		return geom.TRS(r.Position, r.Rotation, r.Size)
	}
	r := shot.AtRest
	r.Position = geom.Vec3{0.3, 0.05, -0.2}
	acted(m, motion.At(s, t), &shot.Part{}, &r)
	inv, _ := pose(t).Inverse()
	own := inv.Point(at(r))
	const h = 1e-4
	return pose(t + h).Point(own).Sub(pose(t - h).Point(own)).Mul(1 / (2 * h))
}

// What rolls does not slip: its material point at the contact stands still at every moment, on the ground, on
// and in another part. A disc of radius 48 turns once in 301.6 (common practice, no source: "about 300"); in a
// lap outside a part of radius R it turns 1 + R/r times, inside R/r - 1 times, along a circle R/r times.
func TestRollDoesNotSlip(t *testing.T) {
	s := shot.New("t")
	for _, c := range []struct {
		contact      string
		radius, size float64
		turns        float64 // of its own, in a lap or turn
	}{{"ground", 0.048, 0, 1}, {"on", 0.05, 0.15, 4}, {"in", 0.05, 0.15, 2}, {"path", 0.05, 0.4, 4}} {
		m := &shot.Move{Kind: "roll", Pace: shot.Pace{Kind: shot.Sine, Way: "both"}, Data: &Roll{Radius: c.radius, Other: c.size, Along: geom.Vec3{1, 5, 2}, Turns: 1, Contact: c.contact, Laps: 1, Route: Route{Path: "circle", Width: c.size}}}
		centre := geom.Vec3{0.3, 0.05, -0.2} // of the other part
		switch c.contact {
		case "on":
			centre[1] -= c.size + c.radius
		case "in":
			centre[1] += c.size - c.radius
		}
		for f := 3.0; f < 93; f += 7.3 {
			v := velocity(m, s, f, func(p shot.Rest) geom.Vec3 {
				if c.contact == "ground" || c.contact == "path" {
					return p.Position.Sub(geom.Vec3{0, c.radius, 0})
				}
				return centre.Add(p.Position.Sub(centre).Unit().Mul(c.size))
			})
			if v.Len() > 1e-6 {
				t.Errorf("%s, frame %g: the contact slides at %g a frame", c.contact, f, v.Len())
			}
		}
		if got := m.Data.(*Roll).angle(&Context{}, 1) / (2 * math.Pi); math.Abs(got-c.turns) > 1e-12 {
			t.Errorf("%s: %g turns, want %g", c.contact, got, c.turns)
		}
	}
	r := shot.AtRest
	acted(&shot.Move{Kind: "roll", Data: &Roll{Radius: 0.048, Along: geom.Vec3{1, 0, 0}, Turns: 1, Contact: "ground"}}, motion.At(s, 95.9999999), nil, &r)
	if math.Abs(r.Position[0]-0.3016) > 1e-4 {
		t.Errorf("a disc of 48 mm rolls %g m in a turn", r.Position[0])
	}
}

// A cycloid, the way of a point on the rim in one turn, is 8 r long.
func TestCycloid(t *testing.T) {
	s := shot.New("t")
	m := &shot.Move{Kind: "roll", Data: &Roll{Radius: 0.25, Along: geom.Vec3{0, 0, 1}, Turns: 1, Contact: "ground"}}
	sum, last := 0.0, geom.Vec3{}
	const n = 20000
	for i := range n {
		r := shot.AtRest
		acted(m, motion.At(s, 96*float64(i)/n), nil, &r)
		p := r.Position.Add(r.Rotation.Rotate(geom.Vec3{0, -0.25, 0}))
		if i > 0 {
			sum += p.Sub(last).Len()
		}
		last = p
	}
	if math.Abs(sum-2) > 1e-3 {
		t.Errorf("the cycloid is %g long, want 8 x 0.25", sum)
	}
}

// What topples has its lowest corner on the floor at every moment, and ends a whole number of sides further.
func TestToppleKeepsToTheFloor(t *testing.T) {
	s := shot.New("t")
	for _, c := range []struct {
		sides       int
		width, high float64
		way         float64 // after all steps
	}{{4, 0.3, 0.5, 2}, {6, 0.2, 0, 1.0}, {3, 0.4, 0, 2.0}} {
		topple := &Topple{Along: geom.Vec3{0, 0, -1}, Sides: c.sides, Width: c.width, High: c.high, Base: geom.Vec3{0.1, 0.02, 0}, Steps: 5}
		var corners []geom.Vec3 // of the cross section, from the parent's frame
		if c.sides == 4 {
			for _, k := range [][2]float64{{-1, 0}, {1, 0}, {1, 1}, {-1, 1}} {
				corners = append(corners, topple.Base.Add(geom.Vec3{0, c.high * k[1], c.width / 2 * k[0]}))
			}
		} else {
			r := c.width / (2 * math.Sin(math.Pi/float64(c.sides)))
			for i := range c.sides {
				sin, cos := math.Sincos(2*math.Pi*float64(i)/float64(c.sides) + math.Pi + math.Pi/float64(c.sides))
				corners = append(corners, topple.Base.Add(geom.Vec3{0, r*math.Cos(math.Pi/float64(c.sides)) + r*cos, r * sin}))
			}
		}
		m := &shot.Move{Kind: "topple", Pace: shot.Pace{Kind: shot.Power, Way: "in", Power: 2}, Data: topple}
		part := &shot.Part{Pivot: geom.Vec3{0.2, 0.1, 0}}
		for f := 0.0; f < 96; f += 0.7 {
			r := shot.AtRest
			acted(m, motion.At(s, f), part, &r)
			low := math.Inf(1)
			for _, p := range corners {
				q := r.Position.Add(part.Pivot).Add(r.Rotation.Rotate(p.Sub(part.Pivot)))
				low = math.Min(low, q[1])
			}
			if math.Abs(low-0.02) > 1e-9 {
				t.Fatalf("%d sides, frame %g: the lowest corner is at %g", c.sides, f, low)
			}
		}
		q, move := topple.toppled(1, m.Pace)
		middle := geom.Vec3{}
		for _, p := range corners {
			middle = middle.Add(q.Rotate(p).Add(move).Sub(p).Mul(1 / float64(len(corners))))
		}
		if math.Abs(-middle[2]-c.way) > 1e-9 {
			t.Errorf("%d sides: it went %g, want %g", c.sides, -middle[2], c.way)
		}
	}
}

// Common practice, no source: a looping turntable is linear, and the frame that would repeat the
// first does not exist.
func TestTurntableIsConstantAndDropsTheLastFrame(t *testing.T) {
	s := shot.New("t")
	s.Frames = 96
	turns := &shot.Move{Kind: "turntable", Data: &Turntable{Moves: "object", Direction: shot.Clockwise, Turns: 2}}
	angle := func(f float64) float64 { return TurnedBy(Context{Move: turns, Time: motion.At(s, f)}) }
	for f := 0; f < 96; f++ {
		want := -2 * math.Pi * 2 * float64(f) / 96
		if got := angle(float64(f)); math.Abs(got-want) > 1e-12 {
			t.Fatalf("frame %d: %g, want %g", f, got, want)
		}
	}
	if got := angle(96); got != 0 {
		t.Errorf("frame 96 is frame 0, but its angle is %g", got)
	}
	// Clockwise seen from above: what faces the viewer (+z) goes to the viewer's left (-x).
	rest := shot.AtRest
	acted(turns, motion.At(s, 12), nil, &rest)
	if got := rest.Rotation.Rotate(geom.Vec3{0, 0, 1}); got.Sub(geom.Vec3{-1, 0, 0}).Len() > 1e-12 {
		t.Errorf("after a quarter turn clockwise +z is at %v", got)
	}
	s.Ending = shot.Once
	if got := angle(95); math.Abs(got+4*math.Pi) > 1e-12 {
		t.Errorf("a shot that ends reaches its end on its last frame, not %g", got)
	}
}

func TestFloatNeverSinks(t *testing.T) {
	s := shot.New("t")
	m := &shot.Move{Kind: "float", Data: &Float{Height: 0.006, Period: 48, Tilt: 0.1}}
	top := 0.0
	for f := 0; f < s.Frames; f++ {
		p := shot.AtRest
		acted(m, motion.At(s, float64(f)), nil, &p)
		if p.Position[1] < 0 {
			t.Fatalf("frame %d is %g below the floor", f, p.Position[1])
		}
		top = math.Max(top, p.Position[1])
	}
	if math.Abs(top-0.006) > 1e-12 {
		t.Errorf("rises %g, want 0.006", top)
	}
}

func TestLooksCompose(t *testing.T) {
	s := shot.New("t")
	s.Frames, s.Ending = 100, shot.Loop
	at := func(what string, own bool, from, to [3]float64) *shot.Move {
		return &shot.Move{Kind: "look", Data: &Look{What: what, Own: own, From: from, To: to}}
	}
	l := motion.AsItIs
	ApplyLook(Context{Move: at("colour", true, [3]float64{}, [3]float64{1, 0, 0}), Time: motion.At(s, 50)}, &l)
	ApplyLook(Context{Move: at("colour", true, [3]float64{}, [3]float64{0, 0, 1}), Time: motion.At(s, 50)}, &l)
	// Half of the way to red, then half of what is left to blue: a quarter of its own.
	got := motion.Mixed([3]float64{0.8, 0.8, 0.8}, l.Color, l.ColorMix)
	want := [3]float64{0.45, 0.2, 0.7}
	for k := range want {
		if math.Abs(got[k]-want[k]) > 1e-12 {
			t.Fatalf("two changes of colour give %v, not %v", got, want)
		}
	}
	l = motion.AsItIs
	ApplyLook(Context{Move: at("opacity", false, [3]float64{1}, [3]float64{0}), Time: motion.At(s, 25)}, &l)
	ApplyLook(Context{Move: at("strength", true, [3]float64{}, [3]float64{3}), Time: motion.At(s, 50)}, &l)
	if l.Opacity != 0.75 || l.Strength != 2 {
		t.Errorf("opacity %g and strength %g, not 0.75 and 2", l.Opacity, l.Strength)
	}
	outer := motion.AsItIs
	ApplyLook(Context{Move: at("colour", false, [3]float64{0, 1, 0}, [3]float64{0, 1, 0}), Time: motion.At(s, 0)}, &outer)
	inner := motion.AsItIs
	ApplyLook(Context{Move: at("colour", true, [3]float64{}, [3]float64{1, 0, 0}), Time: motion.At(s, 50)}, &inner)
	in := inner.Within(outer)
	if got := motion.Mixed([3]float64{0.3, 0.3, 0.3}, in.Color, in.ColorMix); got != [3]float64{0.5, 0.5, 0} {
		t.Errorf("half red in a green group is %v", got)
	}
}
