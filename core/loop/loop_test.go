package loop

import (
	"math"
	"testing"

	"perigyre/core/framing"
	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

type points []geom.Vec3

func (points) Surface(*shot.Part) ([]geom.Vec3, []uint32, error) { return nil, nil, nil }

func (g points) Support(p *shot.Part) (*mesh.Support, error) {
	if p.ID == "thing" {
		return mesh.NewSupport(g), nil
	}
	return mesh.NewSupport(nil), nil
}

func withMove(m shot.Move) *shot.Shot {
	s := shot.New("t")
	m.ID = "m"
	s.Parts = []shot.Part{
		{ID: "thing", Name: "Thing", Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{m}},
		{ID: "cam", Name: "Camera", Kind: shot.Camera, Rest: shot.Rest{Position: geom.Vec3{0, 0, 4}, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}},
			Camera: &shot.Lens{Focal: 50, SensorWidth: 36, SensorHeight: 24, Sensor: shot.FitLonger, Margin: 8}},
	}
	s.Camera = "cam"
	return s
}

func turn(turns float64, span *shot.Span, after shot.After) shot.Move {
	return shot.Move{Kind: shot.KindTurn, Span: span, After: after, Turn: &shot.Turn{Axis: geom.Vec3{0, 1, 0}, Frame: shot.OwnFrame, Turns: turns, Direction: shot.Clockwise}}
}

func float(period float64) shot.Move {
	return shot.Move{Kind: shot.KindFloat, Float: &shot.Float{Height: 0.1, Period: period, Tilt: 0.1}}
}

// What Closings says in words must be what the poses do: the gap in pixels is nothing exactly where
// every move is said to close, and every mend that is offered closes.
func TestClosingsAgreeWithTheSeam(t *testing.T) {
	g := points{{0.3, 0, 0}, {-0.3, 0.5, 0.2}, {0, 0.1, -0.4}}
	for _, c := range []struct {
		name   string
		move   shot.Move
		closes bool
	}{
		{"turntable", shot.Move{Kind: shot.KindTurntable, Turntable: &shot.Turntable{Moves: shot.ObjectMoves, Direction: shot.Clockwise, Turns: 1}}, true},
		{"two turns", turn(2, nil, shot.Stays), true},
		{"a third of a turn", turn(1.0/3, nil, shot.Stays), false},
		{"one turn, then rest", turn(1, &shot.Span{From: 10, To: 40}, shot.Stays), true},
		{"half a turn and back", turn(0.5, &shot.Span{From: 10, To: 40}, shot.Returns), true},
		{"half a turn, carrying on twice", turn(0.5, &shot.Span{From: 0, To: 48}, shot.CarriesOn), true},
		{"half a turn, carrying on 2.4 times", turn(0.5, &shot.Span{From: 0, To: 40}, shot.CarriesOn), false},
		{"float twice", float(48), true},
		{"float 2.67 times", float(36), false},
		{"slide", shot.Move{Kind: shot.KindSlide, Slide: &shot.Slide{By: geom.Vec3{0.1, 0, 0}, Frame: shot.ParentFrame}}, false},
		{"slide there and back", shot.Move{Kind: shot.KindSlide, Laps: 2, After: shot.Mirrored, Slide: &shot.Slide{By: geom.Vec3{0.1, 0, 0}, Frame: shot.ParentFrame}}, true},
		{"swing twice", shot.Move{Kind: shot.KindSwing, Swing: &shot.Swing{Axis: geom.Vec3{0, 0, 1}, Frame: shot.ParentFrame, Amplitude: 1, Shape: "pendulum", Period: 48}}, true},
		{"swing 2.4 times", shot.Move{Kind: shot.KindSwing, Swing: &shot.Swing{Axis: geom.Vec3{0, 0, 1}, Frame: shot.ParentFrame, Amplitude: 1, Shape: "weighted", Period: 40}}, false},
		{"pendulum of 0.3 m", shot.Move{Kind: shot.KindSwing, Swing: &shot.Swing{Axis: geom.Vec3{0, 0, 1}, Frame: shot.ParentFrame, Amplitude: 1, Shape: "pendulum", Length: 0.3}}, false},
		{"roll a turn", shot.Move{Kind: shot.KindRoll, Roll: &shot.Roll{Radius: 0.1, Along: geom.Vec3{1, 0, 0}, Turns: 1, Contact: "ground"}}, false},
		{"roll round another", shot.Move{Kind: shot.KindRoll, Roll: &shot.Roll{Radius: 0.1, Other: 0.2, Along: geom.Vec3{1, 0, 0}, Turns: 1, Contact: "on"}}, true},
		{"travel round", shot.Move{Kind: shot.KindTravel, Travel: &shot.Travel{Path: "ellipse", Width: 1, Depth: 0.5, To: 1, Lay: true}}, true},
		{"travel most of the way", shot.Move{Kind: shot.KindTravel, Travel: &shot.Travel{Path: "circle", Width: 1, To: 0.8}}, false},
		{"turn in steps", shot.Move{Kind: shot.KindTurn, Turn: &shot.Turn{Axis: geom.Vec3{0, 1, 0}, Frame: shot.OwnFrame, Turns: 1, Direction: shot.Clockwise, Stops: 4, Rest: 0.5}}, true},
	} {
		s := withMove(c.move)
		if err := s.Validate(); err != nil {
			t.Fatal(c.name, err)
		}
		check := func(s *shot.Shot) (bool, float64) {
			e := pose.New(s)
			bodies, _ := framing.Bodies(e, g)
			return Closings(s)[0].Closes, Seam(e, bodies)[0].Pixels
		}
		closes, gap := check(s)
		if closes != c.closes || closes != (gap < Proved) {
			t.Errorf("%s: closes %v, gap %g px; want closes %v", c.name, closes, gap, c.closes)
		}
		if !closes && len(Closings(s)[0].Mends) == 0 {
			t.Errorf("%s: nothing is offered to mend it", c.name)
		}
		for _, m := range Closings(s)[0].Mends {
			mended, _, err := m.Edit.Apply(s)
			if err != nil {
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
	s.Parts[1].Rest.Position = geom.Vec3{0, 0, 1}
	e := pose.New(s)
	bodies, _ := framing.Bodies(e, points{{0, 0, 0}, {0.01, 0, 0}})
	// A quarter turn clockwise takes (0.01, 0, 0) to (0, 0, 0.01).
	want := 0.01 * 50 / 36 * 1080
	if got := Seam(e, bodies)[0].Pixels; math.Abs(got-want) > 1e-6 {
		t.Errorf("gap is %g px, by hand %g", got, want)
	}
}
