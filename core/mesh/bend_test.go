package mesh

import (
	"math"
	"testing"

	"perigyre/core/geom"
)

// A bend keeps the length of the axis and takes it to a circle of radius L / angle, whose end looks where the
// angle says; cross sections stay flat and at a right angle to it. The volume element of a bend towards x is
// 1 - x angle / L (the Jacobian of a circular arc), that of a twist is 1 (Barr 1984).
func TestFlexClosedForms(t *testing.T) {
	f := &Bend{Axis: 1, Towards: 0, Base: geom.Vec3{0.1, 0.2, 0.3}, Length: 2}
	for _, angle := range []float64{1e-9, 1e-5, 0.3, math.Pi / 2, -2, 2 * math.Pi} {
		long, last := 0.0, f.Base
		const n = 20000
		for i := 1; i <= n; i++ {
			p := f.Point(angle, f.Base.Add(geom.Vec3{0, 2 * float64(i) / n, 0}))
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
		end := f.Point(angle, f.Base.Add(geom.Vec3{0, 3, 0})).Sub(last)
		want := geom.Vec3{math.Sin(angle), math.Cos(angle), 0}
		if end.Sub(want).Len() > 1e-9 {
			t.Errorf("beyond its length it goes on along %v, not %v", end, want)
		}
		side := f.Point(angle, f.Base.Add(geom.Vec3{0.2, 2, 0.1})).Sub(last)
		if math.Abs(side.Dot(want)) > 1e-9 || math.Abs(side.Len()-math.Hypot(0.2, 0.1)) > 1e-9 {
			t.Errorf("bent by %g the end's cross section is tilted or resized: %v", angle, side)
		}
	}
	volume := func(angle float64, p geom.Vec3) float64 {
		const h = 1e-5
		var d [3]geom.Vec3
		for k := range d {
			step := geom.Vec3{}
			step[k] = h
			d[k] = f.Point(angle, p.Add(step)).Sub(f.Point(angle, p.Sub(step))).Mul(1 / (2 * h))
		}
		return d[0].Dot(d[1].Cross(d[2]))
	}
	p := f.Base.Add(geom.Vec3{0.3, 1.1, -0.2})
	if v := volume(0.8, p); math.Abs(v-(1-0.3*0.8/2)) > 1e-8 {
		t.Errorf("the bend's volume element is %.9g, not %.9g", v, 1-0.3*0.8/2)
	}
	f.Twist = true
	if v := volume(2.7, p); math.Abs(v-1) > 1e-8 {
		t.Errorf("the twist's volume element is %.9g", v)
	}
	q := f.Point(math.Pi, f.Base.Add(geom.Vec3{0.5, 1, 0})) // half way up by half of half a turn, about +y
	if q.Sub(f.Base.Add(geom.Vec3{0, 1, -0.5})).Len() > 1e-12 {
		t.Errorf("twisted by a quarter turn x goes to %v", q.Sub(f.Base))
	}
}
