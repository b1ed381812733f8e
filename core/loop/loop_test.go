package loop

import (
	"math"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/move"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

type shapes struct{}

func (shapes) Surface(p *shot.Part) (points []geom.Vec3, indices []uint32, err error) {
	if made := p.Shaped(); made != nil {
		m := made.Build()
		for _, v := range m.Positions {
			points = append(points, geom.V3(v))
		}
		return points, m.Indices, nil
	}
	return nil, nil, nil
}

func (shapes) Flesh(*shot.Part) (*mesh.Mesh, error) { return &mesh.Mesh{}, nil }

func withMove(m shot.Move) *shot.Shot {
	s := shot.New("t")
	m.ID = "m"
	s.Parts = []shot.Part{
		{ID: "thing", Name: "Thing", Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{m}},
		{ID: "body", Name: "Body", Parent: "thing", Kind: shot.Made, Rest: shot.AtRest, Moves: []shot.Move{}, Shape: &mesh.Shape{Kind: mesh.BoxShape, Size: geom.Vec3{0.6, 0.5, 0.4}}},
		{ID: "cam", Name: "Camera", Kind: shot.Camera, Rest: shot.Rest{Position: geom.Vec3{0, 0, 4}, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}},
			Camera: &shot.Lens{Focal: 50, SensorWidth: 36, SensorHeight: 24, Sensor: shot.FitLonger, Margin: 8}},
	}
	s.Camera = "cam"
	return s
}

func turn(turns float64, span *shot.Span, after shot.After) shot.Move {
	return shot.Move{Kind: "turn", Span: span, After: after, Data: &move.Turn{Axis: geom.Vec3{0, 1, 0}, Frame: shot.OwnFrame, Turns: turns, Direction: shot.Clockwise}}
}

func float(period float64) shot.Move {
	return shot.Move{Kind: "float", Data: &move.Float{Height: 0.1, Period: period, Tilt: 0.1}}
}

// What Closings says in words must be what the poses do: the gap in pixels is nothing exactly where
// every move is said to close, and every mend that is offered closes.
func TestClosingsAgreeWithTheSeam(t *testing.T) {
	for _, c := range []struct {
		name   string
		move   shot.Move
		closes bool
	}{
		{"turntable", shot.Move{Kind: "turntable", Data: &move.Turntable{Moves: "object", Direction: shot.Clockwise, Turns: 1}}, true},
		{"two turns", turn(2, nil, shot.Stays), true},
		{"a third of a turn", turn(1.0/3, nil, shot.Stays), false},
		{"one turn, then rest", turn(1, &shot.Span{From: 10, To: 40}, shot.Stays), true},
		{"half a turn and back", turn(0.5, &shot.Span{From: 10, To: 40}, shot.Returns), true},
		{"half a turn, carrying on twice", turn(0.5, &shot.Span{From: 0, To: 48}, shot.CarriesOn), true},
		{"half a turn, carrying on 2.4 times", turn(0.5, &shot.Span{From: 0, To: 40}, shot.CarriesOn), false},
		{"float twice", float(48), true},
		{"float 2.67 times", float(36), false},
		{"slide", shot.Move{Kind: "slide", Data: &move.Slide{By: geom.Vec3{0.1, 0, 0}, Frame: shot.ParentFrame}}, false},
		{"slide there and back", shot.Move{Kind: "slide", Laps: 2, After: shot.Mirrored, Data: &move.Slide{By: geom.Vec3{0.1, 0, 0}, Frame: shot.ParentFrame}}, true},
		{"swing twice", shot.Move{Kind: "swing", Data: &move.Swing{Axis: geom.Vec3{0, 0, 1}, Frame: shot.ParentFrame, Amplitude: 1, Shape: "pendulum", Period: 48}}, true},
		{"swing 2.4 times", shot.Move{Kind: "swing", Data: &move.Swing{Axis: geom.Vec3{0, 0, 1}, Frame: shot.ParentFrame, Amplitude: 1, Shape: "weighted", Period: 40}}, false},
		{"pendulum of 0.3 m", shot.Move{Kind: "swing", Data: &move.Swing{Axis: geom.Vec3{0, 0, 1}, Frame: shot.ParentFrame, Amplitude: 1, Shape: "pendulum", Length: 0.3}}, false},
		{"roll a turn", shot.Move{Kind: "roll", Data: &move.Roll{Radius: 0.1, Along: geom.Vec3{1, 0, 0}, Turns: 1, Contact: "ground"}}, false},
		{"roll round another", shot.Move{Kind: "roll", Data: &move.Roll{Radius: 0.1, Other: 0.2, Along: geom.Vec3{1, 0, 0}, Turns: 1, Contact: "on"}}, true},
		{"travel round", shot.Move{Kind: "travel", Data: &move.Travel{Route: move.Route{Path: "ellipse", Width: 1, Depth: 0.5}, To: 1, Lay: true}}, true},
		{"travel most of the way", shot.Move{Kind: "travel", Data: &move.Travel{Route: move.Route{Path: "circle", Width: 1}, To: 0.8}}, false},
		{"turn in steps", shot.Move{Kind: "turn", Data: &move.Turn{Axis: geom.Vec3{0, 1, 0}, Frame: shot.OwnFrame, Turns: 1, Direction: shot.Clockwise, Stops: 4, Rest: 0.5}}, true},
	} {
		s := withMove(c.move)
		if err := s.Validate(); err != nil {
			t.Fatal(c.name, err)
		}
		check := func(s *shot.Shot) (bool, float64) {
			e := pose.New(s)
			seam, err := (&Sight{Pose: e, Geometry: shapes{}}).Prove()
			if err != nil {
				t.Fatal(err)
			}
			return Closings(e)[0].Closes, seam.Gaps[0].Pixels
		}
		closes, gap := check(s)
		if closes != c.closes || closes != (gap < Proved) {
			t.Errorf("%s: closes %v, gap %g px; want closes %v", c.name, closes, gap, c.closes)
		}
		if !closes && len(Closings(pose.New(s))[0].Mends) == 0 {
			t.Errorf("%s: nothing is offered to mend it", c.name)
		}
		for _, m := range Closings(pose.New(s))[0].Mends {
			mended := s.Clone()
			for _, now := range m.Moves {
				_, was := mended.Move(now.ID)
				*was = now.Clone()
			}
			if m.Frames > 0 {
				mended.Frames = m.Frames
			}
			if err := mended.Validate(); err != nil {
				t.Fatal(c.name, m.Words, err)
			}
			if closes, gap := check(mended); !closes || gap >= Proved {
				t.Errorf("%s: after %q: closes %v, gap %g px", c.name, m.Words, closes, gap)
			}
		}
	}
}

// The gap in pixels by hand: a point 1 m before a 50 mm lens on 36 mm that jumps by d is off by
// d 50/36 of the width.
func TestSeamGapInPixels(t *testing.T) {
	s := withMove(turn(0.25, nil, shot.Stays))
	s.Parts[1].Shape.Size = geom.Vec3{0.02, 1e-6, 1e-6}
	s.Parts[2].Rest.Position = geom.Vec3{0, 0, 1}
	e := pose.New(s)
	// A quarter turn clockwise takes (0.01, 0, 0) to (0, 0, 0.01).
	want := 0.01 * 50 / 36 * 1080
	if seam, err := (&Sight{Pose: e, Geometry: shapes{}}).Prove(); err != nil || math.Abs(seam.Gaps[0].Pixels-want) > 1e-2 {
		t.Errorf("gaps are %+v px, by hand %g, %v", seam, want, err)
	}
}

// What the camera sees decides, not what moves do one by one: an arm that one move takes there and another back closes,
// though neither comes back by itself; a part and its camera that go along together close; pins that do not come back do
// not.
func TestTheSeamIsWhatIsSeen(t *testing.T) {
	prove := func(s *shot.Shot) Seam {
		t.Helper()
		if err := s.Validate(); err != nil {
			t.Fatal(err)
		}
		seam, err := (&Sight{Pose: pose.New(s), Geometry: shapes{}}).Prove()
		if err != nil {
			t.Fatal(err)
		}
		return seam
	}
	arm := withMove(turn(0.25, &shot.Span{From: 0, To: 48}, shot.Stays))
	back := turn(-0.25, &shot.Span{From: 48, To: 96}, shot.Stays)
	back.ID = "back"
	arm.Parts[0].Moves = append(arm.Parts[0].Moves, back)
	if s := prove(arm); !s.Closes {
		t.Errorf("there by one move and back by another: %+v", s)
	}
	if at := pose.New(arm).At(47)[0]; math.Abs(at.Point(geom.Vec3{1, 0, 0})[2]-math.Sin(math.Pi/2*47/48)) > 1e-12 {
		t.Errorf("before its span the second move has done something: %v", at)
	}

	along := withMove(shot.Move{Kind: "slide", Data: &move.Slide{By: geom.Vec3{0.4, 0, 0}, Frame: shot.ParentFrame}})
	if s := prove(along); s.Closes {
		t.Error("a part that slides away closes")
	}
	same := along.Parts[0].Moves[0].Clone()
	same.ID = "camera"
	along.Parts[2].Moves = []shot.Move{same}
	if s := prove(along); !s.Closes {
		t.Errorf("a part that the camera keeps pace with: %+v", s)
	}

	pinned := withMove(turn(1, nil, shot.Stays))
	pinned.Parts[0].Tracks = []shot.Track{{Value: shot.TrackX, Pins: []shot.Pin{{Time: 0, Value: 0}, {Time: 96, Value: 0.2}}}}
	if s := prove(pinned); s.Closes || s.Gaps[0].Pixels < 50 {
		t.Errorf("pins that do not come back: %+v", s)
	}
	if c := Closings(pose.New(pinned)); c[0].Closes || c[0].Move != "" {
		t.Errorf("the pins are said to close: %+v", c[0])
	}

	looking := withMove(turn(1, nil, shot.Stays))
	looking.Parts[0].Moves = append(looking.Parts[0].Moves, shot.Move{ID: "l", Kind: "look", After: shot.Stays, Data: &move.Look{What: "colour", From: [3]float64{1, 0, 0}, To: [3]float64{0, 1, 0}}})
	if s := prove(looking); s.Closes {
		t.Error("a colour that ends as another closes")
	}
}

// What a move does after its span ends at the seam, where time begins anew; only a span that runs across the seam is
// carried over it.
func TestTimeBeginsAnewAtTheSeam(t *testing.T) {
	at := func(m shot.Move, f float64) float64 {
		s := withMove(m)
		if err := s.Validate(); err != nil {
			t.Fatal(err)
		}
		p := pose.New(s).At(f)[0].Point(geom.Vec3{1, 0, 0})
		return math.Atan2(-p[2], p[0]) / (2 * math.Pi) // turns, counter-clockwise
	}
	quarter := func(from, to float64, after shot.After) shot.Move {
		m := turn(0.25, &shot.Span{From: from, To: to}, after)
		m.Data.(*move.Turn).Direction = shot.CounterClockwise
		return m
	}
	for _, c := range []struct {
		what string
		m    shot.Move
		f    float64
		want float64
	}{
		{"before its span", quarter(20, 40, shot.Stays), 10, 0},
		{"after it", quarter(20, 40, shot.Stays), 60, 0.25},
		{"on frame 0, though it stays", quarter(20, 40, shot.Stays), 0, 0},
		{"one that returns and ends at the seam, on frame 0", quarter(60, 96, shot.Returns), 0, 0},
		{"one that repeats, before its span", quarter(20, 40, shot.Repeats), 10, 0},
		{"across the seam, after it", quarter(86, 106, shot.Stays), 0, 0.125},
		{"across the seam, at its end", quarter(86, 106, shot.Stays), 50, 0.25},
		{"across the seam, before it", quarter(86, 106, shot.Stays), 91, 0.0625},
	} {
		if got := at(c.m, c.f); math.Abs(got-c.want) > 1e-12 {
			t.Errorf("%s: %g turns, want %g", c.what, got, c.want)
		}
	}
}
