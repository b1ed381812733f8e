package motion

import (
	"math"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

// Values made with the npm package bezier-easing 2.1.0, an independent implementation of the W3C
// CSS Easing Functions: node -e "console.log(require('bezier-easing')(.25,.1,.25,1)(.5))" and so on.
// Its own precision is about 1e-7.
func TestBezierAgainstAnotherImplementation(t *testing.T) {
	ease := [4]float64{0.25, 0.1, 0.25, 1}
	inOut := [4]float64{0.42, 0, 0.58, 1}
	for _, c := range []struct {
		curve [4]float64
		x, y  float64
	}{{ease, 0.1, 0.094796306}, {inOut, 0.1, 0.019722454}, {ease, 0.25, 0.408510591}, {inOut, 0.25, 0.129161931}, {ease, 0.5, 0.802403388}, {inOut, 0.5, 0.500000000}, {ease, 0.75, 0.960458978}, {inOut, 0.75, 0.870838069}, {ease, 0.9, 0.994316477}, {inOut, 0.9, 0.980277546}, {[4]float64{0.6, -0.28, 0.735, 0.045}, 0.5, -0.063621842}} {
		if y, _ := bezier(c.curve, c.x); math.Abs(y-c.y) > 2e-7 {
			t.Errorf("bezier(%v, %g) = %.9f, want %.9f", c.curve, c.x, y, c.y)
		}
	}
	for x := 0.01; x < 1; x += 0.01 { // the derivative against differences
		a, _ := bezier(ease, x-1e-6)
		b, _ := bezier(ease, x+1e-6)
		if _, d := bezier(ease, x); math.Abs(d-(b-a)/2e-6) > 1e-4*(1+d) {
			t.Errorf("slope at %g is %g, differences say %g", x, d, (b-a)/2e-6)
		}
	}
}

// Common practice, no source: a looping turntable is linear, and the frame that would repeat the
// first does not exist.
func TestTurntableIsConstantAndDropsTheLastFrame(t *testing.T) {
	s := shot.New("t")
	s.Frames = 96
	tt := &shot.Turntable{Moves: shot.ObjectMoves, Direction: shot.Clockwise, Turns: 2}
	for f := 0; f < 96; f++ {
		want := -2 * math.Pi * 2 * float64(f) / 96
		if got := TurntableAngle(tt, At(s, float64(f))); math.Abs(got-want) > 1e-12 {
			t.Fatalf("frame %d: %g, want %g", f, got, want)
		}
	}
	if got := TurntableAngle(tt, At(s, 96)); got != 0 {
		t.Errorf("frame 96 is frame 0, but its angle is %g", got)
	}
	// Clockwise seen from above: what faces the viewer (+z) goes to the viewer's left (-x).
	rest := shot.AtRest
	Apply(&shot.Move{Kind: shot.KindTurntable, Turntable: tt}, At(s, 12), nil, &rest, nil)
	if got := rest.Rotation.Rotate(geom.Vec3{0, 0, 1}); got.Sub(geom.Vec3{-1, 0, 0}).Len() > 1e-12 {
		t.Errorf("after a quarter turn clockwise +z is at %v", got)
	}
	s.Ending = shot.Once
	if got := TurntableAngle(tt, At(s, 95)); math.Abs(got+4*math.Pi) > 1e-12 {
		t.Errorf("a shot that ends reaches its end on its last frame, not %g", got)
	}
}

func TestSpansAcrossTheSeamAndAfter(t *testing.T) {
	s := shot.New("t")
	s.Frames = 100
	span := &shot.Span{From: 90, To: 110}
	for _, c := range []struct {
		t     float64
		after shot.After
		want  float64
	}{
		{90, shot.Stays, 0}, {95, shot.Stays, 0.25}, {0, shot.Stays, 0.5}, {5, shot.Stays, 0.75}, {50, shot.Stays, 1},
		{50, shot.Returns, 0}, {15, shot.Repeats, 0.25}, {35, shot.CarriesOn, 2.25}, {100, shot.Stays, 0.5}, {-10, shot.Stays, 0},
		{15, shot.Mirrored, 0.75}, {35, shot.Mirrored, 0.25},
	} {
		if got := Progress(At(s, c.t), &shot.Move{Span: span, After: c.after}); math.Abs(got-c.want) > 1e-12 {
			t.Errorf("at %g, then %s: %g, want %g", c.t, c.after, got, c.want)
		}
	}
	s.Ending = shot.Once
	if got := Progress(At(s, 20), &shot.Move{Span: span, After: shot.Stays}); got != 0 {
		t.Errorf("before its span a move has done nothing, not %g", got)
	}
}

func TestFloatNeverSinks(t *testing.T) {
	s := shot.New("t")
	m := &shot.Move{Kind: shot.KindFloat, Float: &shot.Float{Height: 0.006, Period: 48, Tilt: 0.1}}
	top := 0.0
	for f := 0; f < s.Frames; f++ {
		p := shot.AtRest
		Apply(m, At(s, float64(f)), nil, &p, nil)
		if p.Position[1] < 0 {
			t.Fatalf("frame %d is %g below the floor", f, p.Position[1])
		}
		top = math.Max(top, p.Position[1])
	}
	if math.Abs(top-0.006) > 1e-12 {
		t.Errorf("rises %g, want 0.006", top)
	}
}
