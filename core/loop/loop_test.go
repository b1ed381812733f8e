package loop

import (
	"math"
	"testing"

	"perigyre/core/framing"
	"perigyre/core/geom"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

type points []geom.Vec3

func (g points) Points(p *shot.Part) ([]geom.Vec3, error) {
	if p.ID == "thing" {
		return g, nil
	}
	return nil, nil
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
	return shot.Move{Kind: shot.KindTurn, Turn: &shot.Turn{Axis: geom.Vec3{0, 1, 0}, Frame: shot.OwnFrame, Turns: turns,
		Direction: shot.Clockwise, Span: span, Pace: shot.Pace{Kind: shot.Constant}, After: after}}
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
	} {
		s := withMove(c.move)
		if err := s.Validate(); err != nil {
			t.Fatal(c.name, err)
		}
		check := func(s *shot.Shot) (bool, float64) {
			e := pose.New(s)
			bodies, _ := framing.Bodies(e, g, nil)
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
	bodies, _ := framing.Bodies(e, points{{0, 0, 0}, {0.01, 0, 0}}, nil)
	// A quarter turn clockwise takes (0.01, 0, 0) to (0, 0, 0.01).
	want := 0.01 * 50 / 36 * 1080
	if got := Seam(e, bodies)[0].Pixels; math.Abs(got-want) > 1e-6 {
		t.Errorf("gap is %g px, by hand %g", got, want)
	}
}
