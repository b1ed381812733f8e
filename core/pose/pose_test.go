package pose

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/move"
	"perigyre/core/shot"
)

func group(id, parent string, at geom.Vec3, moves ...shot.Move) shot.Part {
	for i := range moves {
		moves[i].ID = fmt.Sprint(id, i)
	}
	p := shot.Part{ID: id, Name: strings.ToUpper(id), Parent: parent, Kind: shot.Group, Rest: shot.AtRest, Moves: moves}
	p.Rest.Position = at
	return p
}

func spin(turns float64) shot.Move {
	return shot.Move{Kind: "turn", Data: &move.Turn{Axis: geom.Vec3{0, 1, 0}, Frame: shot.OwnFrame, Turns: turns, Direction: shot.CounterClockwise}}
}

func geared(driver string, num, den int, mesh string) shot.Move {
	return shot.Move{Kind: "gear", Data: &move.Gear{Driver: driver, Axis: geom.Vec3{0, 1, 0}, Frame: shot.OwnFrame, Num: num, Den: den, Mesh: mesh}}
}

func angleOf(m geom.Mat4) float64 { return math.Atan2(m.Column(2)[0], m.Column(2)[2]) }

// An epicyclic set with its ring held, as the gear moves build it: sun 16, planets 20, ring 56. Willis's
// formula (ws - wc) / (wr - wc) = -zr / zs gives the carrier 16 / 72 of the sun, and the planets turn by
// -(16 / 20)(ws - wc) against the carrier (a handbook's worked example of this kind: sun 16 of 72 teeth, 4.5 to 1).
func TestPlanetaryGearsFollowWillis(t *testing.T) {
	s := shot.New("t")
	s.Parts = []shot.Part{
		group("sun", "", geom.Vec3{}, spin(9)),
		group("carrier", "", geom.Vec3{}, geared("sun", 16, 72, "inside")),
		// In the carrier's frame the sun turns by ws - wc = 56/72 ws, which the planets mesh with outside.
		group("planet", "carrier", geom.Vec3{1, 0, 0}, geared("sun", 16*56, 20*72, "outside")),
	}
	if err := s.Validate(); err != nil {
		t.Fatal(err)
	}
	e := New(s)
	for f := 0.0; f < 96; f += 5.3 {
		w := e.At(f)
		ws := 2 * math.Pi * 9 * f / 96
		wc := ws * 16 / 72
		if d := math.Remainder(angleOf(w[1])-wc, 2*math.Pi); math.Abs(d) > 1e-9 {
			t.Fatalf("frame %g: the carrier is off by %g", f, d)
		}
		if (ws-wc)*16 != 0 && math.Abs((ws-wc)/(0-wc)+56.0/16) > 1e-9 {
			t.Fatal("that is not Willis's formula")
		}
		planet := wc - (ws-wc)*16/20 // in the room
		if d := math.Remainder(angleOf(w[2])-planet, 2*math.Pi); math.Abs(d) > 1e-9 {
			t.Fatalf("frame %g: the planet is off by %g", f, d)
		}
		// Rolling in the ring: the planet's material point at the ring stands still.
		const h = 1e-4
		own, _ := e.At(f)[2].Inverse()
		dir := w[2].Column(3).Unit()
		contact := dir.Mul(56.0 / 36)
		p := own.Point(contact)
		v := e.At(f + h)[2].Point(p).Sub(e.At(f - h)[2].Point(p)).Mul(1 / (2 * h))
		if f > 1 && v.Len() > 1e-6 {
			t.Fatalf("frame %g: the planet slides in the ring at %g a frame", f, v.Len())
		}
	}
}

func TestTrainsAndCircles(t *testing.T) {
	s := shot.New("t")
	s.Parts = []shot.Part{group("a", "", geom.Vec3{}, geared("b", 1, 3, "outside")), group("b", "", geom.Vec3{}, geared("c", 2, 1, "belt")), group("c", "", geom.Vec3{}, spin(3))}
	if err := s.Validate(); err != nil {
		t.Fatal(err)
	}
	w := New(s).At(8)
	for i, want := range []float64{-2 * math.Pi * 2 * 8 / 96, 2 * math.Pi * 6 * 8 / 96, 2 * math.Pi * 3 * 8 / 96} {
		if d := math.Remainder(angleOf(w[i])-want, 2*math.Pi); math.Abs(d) > 1e-12 {
			t.Errorf("part %d is off by %g", i, d)
		}
	}
	s.Parts[2].Moves[0] = geared("a", 1, 1, "belt")
	s.Parts[2].Moves[0].ID = "x"
	if err := s.Validate(); err == nil || !strings.Contains(err.Error(), "A, B, C") {
		t.Errorf("a circle of gears: %v", err)
	}
	s.Parts[2].Moves[0] = geared("nobody", 1, 1, "belt")
	s.Parts[2].Moves[0].ID = "x"
	if err := s.Validate(); err == nil || !strings.Contains(err.Error(), "not in the shot") {
		t.Errorf("a driver that is not there: %v", err)
	}
}

// A follower does what the other did so many frames before, round the seam too, wherever both stand and
// whatever they are in.
func TestFollowWithLag(t *testing.T) {
	s := shot.New("t")
	tilt := group("tilt", "", geom.Vec3{5, 0, 0})
	tilt.Rest.Rotation, tilt.Rest.Size = geom.AxisAngle(geom.Vec3{0, 0, 1}, 0.7), geom.Vec3{2, 2, 2}
	s.Parts = []shot.Part{
		group("lead", "", geom.Vec3{1, 0, 0}, shot.Move{Kind: "slide", Laps: 2, After: shot.Mirrored, Pace: shot.Pace{Kind: shot.Sine, Way: "both"}, Data: &move.Slide{By: geom.Vec3{0.3, 0.6, 0}, Frame: shot.ParentFrame}}),
		tilt, group("late", "tilt", geom.Vec3{0, 1, 0}, shot.Move{Kind: "follow", Data: &move.Follow{Of: "lead", Position: true, Rotation: true, Lag: 10}}),
	}
	if err := s.Validate(); err != nil {
		t.Fatal(err)
	}
	e := New(s)
	rest := tilt.Rest.Position.Add(tilt.Rest.Rotation.Rotate(geom.Vec3{0, 2, 0}))
	for _, f := range []float64{0, 4, 30, 95} {
		lead := e.At(f - 10)[0].Column(3).Sub(geom.Vec3{1, 0, 0})
		if d := e.At(f)[2].Column(3).Sub(rest).Sub(lead).Len(); d > 1e-12 {
			t.Errorf("frame %g: it is %g from where the other was", f, d)
		}
	}
}

// The camera looks at what it orbits, from the same distance, though both are moving.
func TestOrbitLooksAtItsTarget(t *testing.T) {
	s := shot.New("t")
	cam := group("cam", "", geom.Vec3{}, shot.Move{Kind: "orbit", Data: &move.Orbit{Target: "thing", Turns: 1, Radius: 3, Height: 1, Wave: 0.2, Waves: 2}})
	cam.Kind, cam.Camera = shot.Camera, &shot.Lens{Focal: 50, SensorWidth: 36, SensorHeight: 24, Sensor: shot.FitLonger}
	thing := group("thing", "", geom.Vec3{1, 0, 0}, shot.Move{Kind: "float", Data: &move.Float{Height: 0.4, Period: 32}})
	thing.Pivot = geom.Vec3{0, 0.5, 0}
	s.Parts = []shot.Part{cam, thing} // the camera stands before what it looks at
	s.Camera = "cam"
	if err := s.Validate(); err != nil {
		t.Fatal(err)
	}
	e := New(s)
	for f := 0.0; f < 96; f += 7 {
		w := e.At(f)
		to := w[1].Point(thing.Pivot).Sub(w[0].Column(3))
		if math.Abs(math.Hypot(to[0], to[2])-3) > 1e-9 || to.Unit().Sub(w[0].Column(2).Mul(-1)).Len() > 1e-9 {
			t.Errorf("frame %g: %g away, looking %v at %v", f, math.Hypot(to[0], to[2]), w[0].Column(2).Mul(-1), to.Unit())
		}
	}
}

// Letters arrive one after another in their order; before, they are not there; after, they are at rest. Panels
// keep their hinges: the hinge line, x through the origin, stands still in what the panel is on.
func TestRevealAndUnfold(t *testing.T) {
	s := shot.New("t")
	s.Ending = shot.Once
	word := group("word", "", geom.Vec3{}, shot.Move{Kind: "reveal", Span: &shot.Span{From: 10, To: 40}, Data: &move.Reveal{Order: "right", Delay: 6, Takes: 8, From: "slide", By: geom.Vec3{0, 0.2, 0}}})
	box := group("box", "", geom.Vec3{}, shot.Move{Kind: "unfold", Data: &move.Unfold{Angle: 1.9, Order: "list", Deep: true, Share: 0.5}})
	s.Parts = []shot.Part{word, group("l1", "word", geom.Vec3{0, 0, 0}), group("l2", "word", geom.Vec3{1, 0, 0}), group("l3", "word", geom.Vec3{2, 0, 0}),
		box, group("wall", "box", geom.Vec3{0, 0, 1}), group("flap", "wall", geom.Vec3{0, 2, 0})}
	if err := s.Validate(); err != nil {
		t.Fatal(err)
	}
	e := New(s)
	seen := func(f float64, i int) bool { return e.At(f)[i].Column(0).Len() > 1e-3 }
	for i, begin := range map[int]float64{3: 10, 2: 16, 1: 22} {
		if seen(begin-0.5, i) || !seen(begin+0.5, i) {
			t.Errorf("letter %d is not there from frame %g on", i, begin)
		}
		if e.At(begin + 8)[i] != e.AtRest(i) {
			t.Errorf("letter %d is not at rest 8 frames later", i)
		}
	}
	for f := 0.0; f < 96; f += 9 {
		w := e.At(f)
		for i, up := range map[int]int{5: 4, 6: 5} {
			for _, x := range []float64{-1, 1} {
				hinge := s.Parts[i].Rest.Position.Add(geom.Vec3{x, 0, 0})
				if d := w[up].Point(hinge).Sub(w[i].Point(geom.Vec3{x, 0, 0})).Len(); d > 1e-12 {
					t.Fatalf("frame %g: part %d is %g off its hinge", f, i, d)
				}
			}
		}
	}
	last := e.At(95)
	if want := geom.AxisAngle(geom.Vec3{1, 0, 0}, 3.8); last[6].Column(1).Sub(want.Rotate(geom.Vec3{0, 1, 0})).Len() > 1e-9 {
		t.Error("the flap is not open on the open wall")
	}
}

// Pins on a parameter change the move while it runs; a flight goes through its stops and rests there.
func TestPinnedParametersAndFlight(t *testing.T) {
	s := shot.New("t")
	m := shot.Move{Kind: "slide", Span: &shot.Span{From: 0, To: 1}, Data: &move.Slide{Frame: shot.ParentFrame}, Pins: []shot.Track{{Value: "by x", Pins: []shot.Pin{{Time: 10, Value: 1}, {Time: 20, Value: 3}}}}}
	stops := []move.Stop{{At: 0, Rest: 10, Position: geom.Vec3{0, 0, 5}, Rotation: geom.NoTurn}, {At: 40, Position: geom.Vec3{3, 1, 4}, Rotation: geom.AxisAngle(geom.Vec3{0, 1, 0}, 1)}, {At: 80, Rest: 10, Position: geom.Vec3{4, 1, 0}, Rotation: geom.AxisAngle(geom.Vec3{0, 1, 0}, 2)}}
	s.Parts = []shot.Part{group("a", "", geom.Vec3{}, m), group("b", "", geom.Vec3{9, 9, 9}, shot.Move{Kind: "flight", Data: &move.Flight{Stops: stops}})}
	if err := s.Validate(); err != nil {
		t.Fatal(err)
	}
	e := New(s)
	if x := e.At(15)[0].Column(3)[0]; math.Abs(x-2) > 1e-12 {
		t.Errorf("half way between the pins it is at %g", x)
	}
	for _, c := range []struct {
		f float64
		k int
	}{{0, 0}, {10, 0}, {40, 1}, {80, 2}, {95, 2}} {
		w := e.At(c.f)[1]
		if w.Column(3).Sub(stops[c.k].Position).Len() > 1e-9 || w.Column(2).Sub(stops[c.k].Rotation.Rotate(geom.Vec3{0, 0, 1})).Len() > 1e-9 {
			t.Errorf("frame %g: it is not at stop %d", c.f, c.k)
		}
	}
	for f := 0.0; f < 95; f++ { // never beyond the stops, and without a jump in speed
		a, b, c := e.At(f)[1].Column(3), e.At(f + 0.5)[1].Column(3), e.At(f + 1)[1].Column(3)
		if b[0] < -1e-9 || b[0] > 4+1e-9 || b[1] > 1+1e-9 || a.Add(c).Sub(b.Mul(2)).Len() > 0.01 {
			t.Errorf("frame %g: %v %v %v", f, a, b, c)
		}
	}
}

// Each copy plays the motion of what it copies so many frames after the one before, over the seam too.
func TestCopiesPlayLate(t *testing.T) {
	s := shot.New("t")
	ball := group("ball", "", geom.Vec3{0, 0, 1}, shot.Move{Kind: "float", Data: &move.Float{Height: 0.4, Period: 48}})
	ball.Kind, ball.Shape = shot.Made, &mesh.Shape{Kind: mesh.SphereShape, Radius: 0.1}
	row := group("row", "", geom.Vec3{5, 0, 0})
	row.Kind, row.Copies = shot.Copies, &shot.Spread{Of: "ball", Kind: shot.Row, Count: [3]int{8, 1, 1}, Step: geom.Vec3{0.3, 0, 0}, Delay: 5}
	s.Parts = []shot.Part{ball, row}
	if err := s.Validate(); err != nil {
		t.Fatal(err)
	}
	e := New(s)
	if !e.Living(1) {
		t.Error("the copies are said to stand still")
	}
	for _, f := range []float64{0, 11, 90} {
		list, err := e.Spreads(f, e.At(f), nil)
		if err != nil || len(list) != 1 || len(list[0].Places) != 8 {
			t.Fatal(err, list)
		}
		for k, m := range list[0].Places {
			up := e.At(f - 5*float64(k))[0].Column(3)[1]
			if d := m.Column(3).Sub(geom.Vec3{0.3 * float64(k), up, 0}).Len(); d > 1e-12 {
				t.Errorf("frame %g: copy %d is off by %g", f, k, d)
			}
		}
	}
}

// What goes round with a part stands where it would if it were in it: on an arm, about a pivot, later, in a group that is turned.
func TestGoingRoundIsAsStandingOnIt(t *testing.T) {
	turn := shot.Move{ID: "t", Kind: "turn", Pace: shot.Pace{Kind: shot.Constant}, After: shot.Stays, Data: &move.Turn{Axis: geom.Vec3{0, 1, 0}, Frame: shot.OwnFrame, Turns: 1, Direction: shot.Clockwise}}
	slide := shot.Move{ID: "s", Kind: "slide", Pace: shot.Pace{Kind: shot.Constant}, Laps: 2, After: shot.Mirrored, Data: &move.Slide{By: geom.Vec3{0, 0.4, 0}, Frame: shot.ParentFrame}}
	leader := group("leader", "base", geom.Vec3{1, 0, 0}, slide, turn)
	leader.Pivot = geom.Vec3{0.2, 0, 0.1}
	arm := geom.Vec3{0.5, 0.3, 0}
	on := group("on", "leader", arm)
	round := group("round", "base", leader.Rest.Position.Add(arm), shot.Move{ID: "f", Kind: "follow", After: shot.Stays, Data: &move.Follow{Of: "leader", Position: true, Rotation: true, Round: true, Lag: 5}})
	base := group("base", "", geom.Vec3{0, 0, 2})
	base.Rest.Rotation = geom.AxisAngle(geom.Vec3{1, 0, 0}, 0.4)
	s := shot.New("t")
	s.Parts = []shot.Part{base, leader, on, round}
	if err := s.Validate(); err != nil {
		t.Fatal(err)
	}
	e := New(s)
	for f := 5.0; f < 90; f += 7 {
		want, got := e.At(f - 5)[2], e.At(f)[3]
		for k := range want {
			if math.Abs(want[k]-got[k]) > 1e-9 {
				t.Fatalf("frame %g: %v, on it %v", f, got, want)
			}
		}
	}
}

// A burst of a group throws its copies one by one, each its own way, as it does of copies themselves, and all are back in the end; a
// reveal lets them arrive one after another.
func TestCopiesBurstOneByOne(t *testing.T) {
	for _, alone := range []bool{false, true} {
		burst := shot.Move{ID: "b", Kind: "burst", Pace: shot.Pace{Kind: shot.Constant}, Laps: 2, After: shot.Mirrored, Data: &move.Burst{Spread: 1, Turn: 1, Seed: 3}}
		s := shot.New("t")
		ball := group("ball", "all", geom.Vec3{})
		ball.Kind, ball.Shape, ball.Hidden = shot.Made, &mesh.Shape{Kind: mesh.SphereShape, Radius: 0.1}, true
		grid := group("grid", "all", geom.Vec3{})
		grid.Kind, grid.Copies = shot.Copies, &shot.Spread{Of: "ball", Kind: shot.Grid, Count: [3]int{20, 5, 5}, Step: geom.Vec3{0.3, 0.3, 0.3}}
		all := group("all", "", geom.Vec3{})
		if alone {
			grid.Moves = []shot.Move{burst}
		} else {
			all.Moves = []shot.Move{burst}
		}
		s.Parts = []shot.Part{all, ball, grid}
		if err := s.Validate(); err != nil {
			t.Fatal(err)
		}
		e := New(s)
		places := func(f float64) []geom.Mat4 {
			list, err := e.Spreads(f, e.At(f), nil)
			if err != nil || len(list) != 1 || len(list[0].Places) != 500 {
				t.Fatal(err, len(list))
			}
			return list[0].Places
		}
		rest, apart := places(0), places(48)
		ways := map[geom.Vec3]bool{}
		for k := range rest {
			by := apart[k].Column(3).Sub(rest[k].Column(3))
			if ways[by] = true; by.Len() > 1+1e-9 {
				t.Errorf("copy %d goes %g", k, by.Len())
			}
			if want := (geom.Vec3{0.3 * float64(k%20), 0.3 * float64(k/20%5), 0.3 * float64(k/100)}); rest[k].Column(3).Sub(want).Len() > 1e-9 {
				t.Errorf("copy %d begins at %v, not at %v", k, rest[k].Column(3), want)
			}
		}
		if len(ways) != 500 || !e.Living(2) {
			t.Errorf("alone %v: 500 copies go %d ways", alone, len(ways))
		}
	}
}

// A squash keeps the volume at every moment.
func TestSquashKeepsVolume(t *testing.T) {
	s := shot.New("t")
	s.Parts = []shot.Part{group("a", "", geom.Vec3{}, shot.Move{Kind: "squash", Pace: shot.Pace{Kind: shot.Elastic, Way: "out"}, Data: &move.Squash{Axis: 1, Amount: -0.6}})}
	e := New(s)
	for f := 0.0; f < 96; f += 5 {
		if v := e.At(f)[0].Det(); math.Abs(v-1) > 1e-12 {
			t.Errorf("frame %g: the volume is %g", f, v)
		}
	}
}

// Each part of a chain is worked out once for each time that is asked for, however many look at it: 60 parts, each driven
// twice by the one before, would be 2^60 evaluations if it were not so. A ratio of 1 to 2 twice over is 1: each turns as the
// first does.
func TestChainsAreWorkedOutOnce(t *testing.T) {
	s := shot.New("t")
	y := geom.Vec3{0, 1, 0}
	s.Parts = []shot.Part{{ID: "0", Name: "0", Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{
		{ID: "m", Kind: "turn", Data: &move.Turn{Axis: y, Frame: shot.OwnFrame, Turns: 1, Direction: shot.CounterClockwise}}}}}
	for i := 1; i < 60; i++ {
		p := shot.Part{ID: fmt.Sprint(i), Name: "p", Kind: shot.Group, Rest: shot.AtRest}
		for k := range 2 {
			p.Moves = append(p.Moves, shot.Move{ID: fmt.Sprint("g", i, k), Kind: "gear", Data: &move.Gear{
				Driver: fmt.Sprint(i - 1), Axis: y, Frame: shot.OwnFrame, Num: 1, Den: 2, Mesh: "inside"}})
		}
		s.Parts = append(s.Parts, p)
	}
	if err := s.Validate(); err != nil {
		t.Fatal(err)
	}
	world := New(s).At(24)
	for i := range world {
		if d := world[i].Vector(geom.Vec3{1, 0, 0}).Sub(geom.Vec3{0, 0, -1}).Len(); d > 1e-9 {
			t.Fatalf("part %d is off by %g after a quarter of the turn", i, d)
		}
	}
}

// 400 parts follow one another, each half a frame later, and the first goes up and down: part k is where the first was k/2
// frames before. Times that other frames have asked for already give the same.
func TestFollowersOfFollowers(t *testing.T) {
	s := shot.New("t")
	s.Parts = []shot.Part{{ID: "0", Name: "0", Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{{ID: "m", Kind: "float", Data: &move.Float{Height: 1, Period: 48}}}}}
	for i := 1; i < 400; i++ {
		s.Parts = append(s.Parts, shot.Part{ID: fmt.Sprint(i), Name: "p", Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{
			{ID: fmt.Sprint("f", i), Kind: "follow", Data: &move.Follow{Of: fmt.Sprint(i - 1), Position: true, Lag: 0.5}}}})
	}
	if err := s.Validate(); err != nil {
		t.Fatal(err)
	}
	e, first := New(s), New(s)
	some := e.Some(0)
	for _, f := range []float64{0, 10, 10, 95, 10.5, 3} {
		world := e.At(f)
		some.Go(f)
		for _, k := range []int{0, 1, 7, 200, 399} {
			want := first.At(f - float64(k)/2)[0].Column(3)
			if d := world[k].Column(3).Sub(want).Len(); d > 1e-9 {
				t.Fatalf("frame %g: part %d is off by %g", f, k, d)
			}
			if some.Of(k) != world[k] {
				t.Fatalf("frame %g: part %d is elsewhere if it is asked for alone", f, k)
			}
		}
	}
}
