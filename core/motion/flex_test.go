package motion

import (
	"math"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

// A bend keeps the length of the axis and takes it to a circle of radius L / angle, whose end looks where the
// angle says; cross sections stay flat and at a right angle to it. The volume element of a bend towards x is
// 1 - x angle / L (the Jacobian of a circular arc), that of a twist is 1 (Barr 1984).
func TestFlexClosedForms(t *testing.T) {
	f := &shot.Flex{Shape: "bend", Axis: 1, Towards: 0, Base: geom.Vec3{0.1, 0.2, 0.3}, Length: 2}
	for _, angle := range []float64{1e-9, 1e-5, 0.3, math.Pi / 2, -2, 2 * math.Pi} {
		long, last := 0.0, f.Base
		const n = 20000
		for i := 1; i <= n; i++ {
			p := Flexed(f, angle, f.Base.Add(geom.Vec3{0, 2 * float64(i) / n, 0}))
			long += p.Sub(last).Len()
			last = p
		}
		if math.Abs(long-2) > 1e-7 {
			t.Errorf("bent by %g the axis is %.9g long, not 2", angle, long)
		}
		r := 2 / angle
		if math.Abs(angle) > 0.1 {
			centre := f.Base.Add(geom.Vec3{r, 0, 0})
			if d := last.Sub(centre).Len(); math.Abs(d-math.Abs(r)) > 1e-9 {
				t.Errorf("bent by %g the end is %g from the centre, not %g", angle, d, r)
			}
		}
		end := Flexed(f, angle, f.Base.Add(geom.Vec3{0, 3, 0})).Sub(last)
		want := geom.Vec3{math.Sin(angle), math.Cos(angle), 0}
		if end.Sub(want).Len() > 1e-9 {
			t.Errorf("beyond its length it goes on along %v, not %v", end, want)
		}
		side := Flexed(f, angle, f.Base.Add(geom.Vec3{0.2, 2, 0.1})).Sub(last)
		if math.Abs(side.Dot(want)) > 1e-9 || math.Abs(side.Len()-math.Hypot(0.2, 0.1)) > 1e-9 {
			t.Errorf("bent by %g the end's cross section is tilted or resized: %v", angle, side)
		}
	}
	volume := func(f *shot.Flex, angle float64, p geom.Vec3) float64 {
		const h = 1e-5
		var d [3]geom.Vec3
		for k := range d {
			step := geom.Vec3{}
			step[k] = h
			d[k] = Flexed(f, angle, p.Add(step)).Sub(Flexed(f, angle, p.Sub(step))).Mul(1 / (2 * h))
		}
		return d[0].Dot(d[1].Cross(d[2]))
	}
	p := f.Base.Add(geom.Vec3{0.3, 1.1, -0.2})
	if v := volume(f, 0.8, p); math.Abs(v-(1-0.3*0.8/2)) > 1e-8 {
		t.Errorf("the bend's volume element is %.9g, not %.9g", v, 1-0.3*0.8/2)
	}
	f.Shape = "twist"
	if v := volume(f, 2.7, p); math.Abs(v-1) > 1e-8 {
		t.Errorf("the twist's volume element is %.9g", v)
	}
	q := Flexed(f, math.Pi, f.Base.Add(geom.Vec3{0.5, 1, 0})) // half way up by half of half a turn, about +y
	if q.Sub(f.Base.Add(geom.Vec3{0, 1, -0.5})).Len() > 1e-12 {
		t.Errorf("twisted by a quarter turn x goes to %v", q.Sub(f.Base))
	}
}

func TestLooksCompose(t *testing.T) {
	s := shot.New("t")
	s.Frames, s.Ending = 100, shot.Loop
	at := func(what string, own bool, from, to [3]float64) *shot.Move {
		return &shot.Move{Kind: shot.KindLook, Look: &shot.Look{What: what, Own: own, From: from, To: to}}
	}
	l := AsItIs
	l.Apply(at("colour", true, [3]float64{}, [3]float64{1, 0, 0}), At(s, 50))
	l.Apply(at("colour", true, [3]float64{}, [3]float64{0, 0, 1}), At(s, 50))
	// Half of the way to red, then half of what is left to blue: a quarter of its own.
	got := Mixed([3]float64{0.8, 0.8, 0.8}, l.Color, l.ColorMix)
	want := [3]float64{0.45, 0.2, 0.7}
	for k := range want {
		if math.Abs(got[k]-want[k]) > 1e-12 {
			t.Fatalf("two changes of colour give %v, not %v", got, want)
		}
	}
	l = AsItIs
	l.Apply(at("opacity", false, [3]float64{1}, [3]float64{0}), At(s, 25))
	l.Apply(at("strength", true, [3]float64{}, [3]float64{3}), At(s, 50))
	if l.Opacity != 0.75 || l.Strength != 2 {
		t.Errorf("opacity %g and strength %g, not 0.75 and 2", l.Opacity, l.Strength)
	}
	outer := AsItIs
	outer.Apply(at("colour", false, [3]float64{0, 1, 0}, [3]float64{0, 1, 0}), At(s, 0))
	inner := AsItIs
	inner.Apply(at("colour", true, [3]float64{}, [3]float64{1, 0, 0}), At(s, 50))
	in := inner.Within(outer)
	if got := Mixed([3]float64{0.3, 0.3, 0.3}, in.Color, in.ColorMix); got != [3]float64{0.5, 0.5, 0} {
		t.Errorf("half red in a green group is %v", got)
	}
}

// A drawn path: the circle of four SVG arcs is as long as a circle and travelled evenly.
func TestDrawnPath(t *testing.T) {
	p := NewPath(&shot.Travel{Path: "drawn", Width: 2, Drawing: "M10 0A10 10 0 0 1 0 10A10 10 0 0 1 -10 0A10 10 0 0 1 0 -10A10 10 0 0 1 10 0Z"})
	if !p.Closed || math.Abs(p.Length-2*math.Pi) > 1e-9 {
		t.Fatalf("a circle of radius 1 is %g long, closed %v", p.Length, p.Closed)
	}
	var last geom.Vec3
	for i := range 101 {
		q, _ := p.At(float64(i) / 100)
		if i > 0 {
			if d := q.Sub(last).Len() / (2 * math.Sin(math.Pi/100)); math.Abs(d-1) > 1e-6 {
				t.Fatalf("step %d is %g of the others", i, d)
			}
		}
		last = q
	}
}
