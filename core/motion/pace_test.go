package motion

import (
	"math"
	"testing"

	"perigyre/core/shot"
)

func paces() map[string]shot.Pace {
	out := map[string]shot.Pace{
		"constant": {}, "bezier": {Kind: shot.Bezier, Bezier: &[4]float64{0.42, 0, 0.58, 1}},
		"spring": {Kind: shot.Spring, Spring: &shot.SpringSpec{Mass: 1, Stiffness: 100, Damping: 6}},
		"heavy":  {Kind: shot.Spring, Spring: &shot.SpringSpec{Mass: 1, Stiffness: 100, Damping: 50}},
		"just":   {Kind: shot.Spring, Spring: &shot.SpringSpec{Mass: 1, Stiffness: 100, Damping: 20}},
		"drawn":  {Kind: shot.Drawn, Curve: []shot.Pin{{Time: 0, Next: shot.Smooth}, {Time: 0.3, Value: 0.7, Next: shot.Smooth}, {Time: 1, Value: 1}}},
	}
	for _, k := range []shot.PaceKind{shot.Sine, shot.Power, shot.Exponential, shot.Circular, shot.Back, shot.Elastic, shot.Bounce} {
		for _, w := range []string{"in", "out", "both"} {
			out[string(k)+" "+w] = shot.Pace{Kind: k, Way: w, Power: 3}
		}
	}
	return out
}

// Every pace begins at 0 and ends at 1, and its speed is what differences say.
func TestPacesAndTheirSpeeds(t *testing.T) {
	for name, p := range paces() {
		for _, end := range []float64{0, 1} {
			if v, _ := Pace(p, end); math.Abs(v-end) > 1e-12 {
				t.Errorf("%s is %g at %g", name, v, end)
			}
		}
		const h = 1e-6
		for u := 0.013; u < 0.98; u += 0.0237 {
			a, _ := Pace(p, u-h)
			b, _ := Pace(p, u+h)
			_, d := Pace(p, u)
			if want := (b - a) / (2 * h); math.Abs(d-want) > 1e-4*(1+math.Abs(want)) {
				t.Errorf("%s at %g: speed %g, differences say %g", name, u, d, want)
			}
		}
	}
}

// The four jumps of steps(n, jump): W3C CSS Easing Functions Level 1, 2.4, figures of "steps()".
func TestSteps(t *testing.T) {
	for _, c := range []struct {
		jump string
		at   [4]float64 // at 0, 0.2, 0.5 and 1, of two steps
	}{{"jump-end", [4]float64{0, 0, 0.5, 1}}, {"jump-start", [4]float64{0.5, 0.5, 1, 1}}, {"jump-none", [4]float64{0, 0, 1, 1}}, {"jump-both", [4]float64{1.0 / 3, 1.0 / 3, 2.0 / 3, 1}}} {
		for i, u := range []float64{0, 0.2, 0.5, 1} {
			if v, _ := Pace(shot.Pace{Kind: shot.Steps, Steps: 2, Jump: c.jump}, u); math.Abs(v-c.at[i]) > 1e-12 {
				t.Errorf("%s at %g: %g, want %g", c.jump, u, v, c.at[i])
			}
		}
	}
}

// The ease functions of easings.net in its source (from memory): sine, cubic, circular and bounce are the
// same there; back has the same constant.
func TestPacesAgainstCommonEasings(t *testing.T) {
	for _, c := range []struct {
		kind shot.PaceKind
		way  string
		u, v float64
	}{
		{shot.Sine, "in", 0.3, 1 - math.Cos(0.3*math.Pi/2)}, {shot.Sine, "both", 0.3, -(math.Cos(math.Pi*0.3) - 1) / 2},
		{shot.Power, "both", 0.3, 4 * 0.027}, {shot.Power, "both", 0.8, 1 - math.Pow(-2*0.8+2, 3)/2},
		{shot.Circular, "out", 0.3, math.Sqrt(1 - 0.49)}, {shot.Back, "in", 0.4, 2.70158*0.064 - 1.70158*0.16},
		{shot.Bounce, "out", 0.2, 7.5625 * 0.04}, {shot.Bounce, "out", 0.6, 7.5625*(0.6-1.5/2.75)*(0.6-1.5/2.75) + 0.75},
	} {
		if v, _ := Pace(shot.Pace{Kind: c.kind, Way: c.way, Power: 3}, c.u); math.Abs(v-c.v) > 1e-12 {
			t.Errorf("%s %s at %g: %.12f, want %.12f", c.kind, c.way, c.u, v, c.v)
		}
	}
}

// A smooth curve never goes beyond the pins it is between, whatever they are (Fritsch and Carlson 1980), and
// one that repeats and closes goes over the seam at one speed.
func TestSmoothNeverOvershoots(t *testing.T) {
	tr := &shot.Track{After: shot.BeyondRepeat, Before: shot.BeyondRepeat, Pins: []shot.Pin{{Time: 0, Value: 1}, {Time: 3, Value: 4}, {Time: 4, Value: 4.1}, {Time: 9, Value: -2}, {Time: 20, Value: 1}}}
	for i := range tr.Pins {
		tr.Pins[i].Next = shot.Smooth
	}
	for i := 0; i+1 < len(tr.Pins); i++ {
		a, b := tr.Pins[i], tr.Pins[i+1]
		for k := range 101 {
			v := Sample(tr, a.Time+(b.Time-a.Time)*float64(k)/100)
			if v < math.Min(a.Value, b.Value)-1e-9 || v > math.Max(a.Value, b.Value)+1e-9 {
				t.Fatalf("between %g and %g it is %g", a.Value, b.Value, v)
			}
		}
	}
	const h = 1e-5
	if before, after := (Sample(tr, 20)-Sample(tr, 20-h))/h, (Sample(tr, h)-Sample(tr, 0))/h; math.Abs(before-after) > 1e-3 || before == 0 {
		t.Errorf("the speed is %g before the seam and %g after it", before, after)
	}
}
