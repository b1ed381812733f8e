package motion

import (
	"math"
	"testing"

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
