package motion

import (
	"math"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

// K(k) for k^2 = 0, 0.5 and 0.99: Abramowitz and Stegun, table 17.1; sn(0.5) for k^2 = 0.5 by its
// series (16.22.1, to the seventh power, and the ninth by hand).
func TestEllipticFunctionsAgainstTables(t *testing.T) {
	for _, c := range [][2]float64{{0, 1.570796326794897}, {0.5, 1.854074677301372}, {0.99, 3.695637362989875}} {
		if got := ellipticK(math.Sqrt(c[0])); math.Abs(got-c[1]) > 1e-12 {
			t.Errorf("K(%g) = %.15f, the table says %.15f", c[0], got, c[1])
		}
	}
	for _, m := range []float64{0.1, 0.5, 0.97} { // sn' = cn dn, sn(K) = 1, cn(K) = 0
		k := math.Sqrt(m)
		if sn, cn := jacobi(ellipticK(k), k); math.Abs(sn-1) > 1e-12 || math.Abs(cn) > 1e-7 {
			t.Errorf("sn(K) = %g, cn(K) = %g for m = %g", sn, cn, m)
		}
		for u := 0.1; u < 3; u += 0.3 {
			const h = 1e-5
			a, _ := jacobi(u-h, k)
			b, _ := jacobi(u+h, k)
			sn, cn := jacobi(u, k)
			if d := (b - a) / (2 * h); math.Abs(d-cn*math.Sqrt(1-m*sn*sn)) > 1e-8 {
				t.Errorf("sn'(%g) = %g, cn dn = %g", u, d, cn*math.Sqrt(1-m*sn*sn))
			}
		}
	}
}

// Handbook: at 30 degrees either way a pendulum takes 1.74 % longer than a small swing, at 90 degrees 18.03 %.
// Its angle obeys x” = -(g / l) sin x.
func TestPendulum(t *testing.T) {
	small := 2 * math.Pi * math.Sqrt(1/Gravity)
	for degrees, longer := range map[float64]float64{30: 0.0174, 90: 0.1803} {
		if got := PendulumPeriod(1, degrees*math.Pi/180)/small - 1; math.Abs(got-longer) > 6e-5 {
			t.Errorf("at %g degrees the period is %.4g longer, handbooks say %.4g", degrees, got, longer)
		}
	}
	amplitude := 2.2
	period := PendulumPeriod(1, amplitude)
	const h = 1e-4
	for x := 0.0; x < 1; x += 0.083 {
		at := func(x float64) float64 { return Pendulum(amplitude, x) }
		second := (at(x+h) - 2*at(x) + at(x-h)) / (h * h * period * period)
		if want := -Gravity * math.Sin(at(x)); math.Abs(second-want) > 1e-3 {
			t.Errorf("at %g of the period it is sped up by %g, gravity says %g", x, second, want)
		}
	}
	if got := Pendulum(amplitude, 0.25); math.Abs(got-amplitude) > 1e-9 {
		t.Errorf("after a quarter it is at %g", got)
	}
}

// velocity of the material point of a part that is at a place in its parent's frame at a time.
func velocity(m *shot.Move, s *shot.Shot, t float64, at func(p shot.Rest) geom.Vec3) geom.Vec3 {
	pose := func(t float64) geom.Mat4 {
		r := shot.AtRest
		r.Position = geom.Vec3{0.3, 0.05, -0.2}
		Apply(m, At(s, t), &shot.Part{}, &r, nil)
		return geom.TRS(r.Position, r.Rotation, r.Size)
	}
	r := shot.AtRest
	r.Position = geom.Vec3{0.3, 0.05, -0.2}
	Apply(m, At(s, t), &shot.Part{}, &r, nil)
	inv, _ := pose(t).Inverse()
	own := inv.Point(at(r))
	const h = 1e-4
	return pose(t + h).Point(own).Sub(pose(t - h).Point(own)).Mul(1 / (2 * h))
}

// What rolls does not slip: its material point at the contact stands still at every moment, on the ground, on
// and in another part. A disc of radius 48 turns once in 301.6 (common practice, no source: "about 300"); in a
// lap outside a part of radius R it turns 1 + R/r times, inside R/r - 1 times.
func TestRollDoesNotSlip(t *testing.T) {
	s := shot.New("t")
	for _, c := range []struct {
		contact      string
		radius, size float64
		turns        float64 // of its own, in a lap or turn
	}{{"ground", 0.048, 0, 1}, {"on", 0.05, 0.15, 4}, {"in", 0.05, 0.15, 2}} {
		m := &shot.Move{Kind: shot.KindRoll, Pace: shot.Pace{Kind: shot.Sine, Way: "both"}, Roll: &shot.Roll{Radius: c.radius, Other: c.size, Along: geom.Vec3{1, 5, 2}, Turns: 1, Contact: c.contact}}
		centre := geom.Vec3{0.3, 0.05, -0.2} // of the other part
		switch c.contact {
		case "on":
			centre[1] -= c.size + c.radius
		case "in":
			centre[1] += c.size - c.radius
		}
		for f := 3.0; f < 93; f += 7.3 {
			v := velocity(m, s, f, func(p shot.Rest) geom.Vec3 {
				if c.contact == "ground" {
					return p.Position.Sub(geom.Vec3{0, c.radius, 0})
				}
				return centre.Add(p.Position.Sub(centre).Unit().Mul(c.size))
			})
			if v.Len() > 1e-6 {
				t.Errorf("%s, frame %g: the contact slides at %g a frame", c.contact, f, v.Len())
			}
		}
		if got := rollAngle(m.Roll, 1) / (2 * math.Pi); math.Abs(got-c.turns) > 1e-12 {
			t.Errorf("%s: %g turns, want %g", c.contact, got, c.turns)
		}
	}
	r := shot.AtRest
	Apply(&shot.Move{Roll: &shot.Roll{Radius: 0.048, Along: geom.Vec3{1, 0, 0}, Turns: 1, Contact: "ground"}}, At(s, 95.9999999), nil, &r, nil)
	if math.Abs(r.Position[0]-0.3016) > 1e-4 {
		t.Errorf("a disc of 48 mm rolls %g m in a turn", r.Position[0])
	}
}

// A cycloid, the way of a point on the rim in one turn, is 8 r long.
func TestCycloid(t *testing.T) {
	s := shot.New("t")
	m := &shot.Move{Roll: &shot.Roll{Radius: 0.25, Along: geom.Vec3{0, 0, 1}, Turns: 1, Contact: "ground"}}
	sum, last := 0.0, geom.Vec3{}
	const n = 20000
	for i := range n {
		r := shot.AtRest
		Apply(m, At(s, 96*float64(i)/n), nil, &r, nil)
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
		topple := &shot.Topple{Along: geom.Vec3{0, 0, -1}, Sides: c.sides, Width: c.width, High: c.high, Base: geom.Vec3{0.1, 0.02, 0}, Steps: 5}
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
		m := &shot.Move{Kind: shot.KindTopple, Pace: shot.Pace{Kind: shot.Power, Way: "in", Power: 2}, Topple: topple}
		part := &shot.Part{Pivot: geom.Vec3{0.2, 0.1, 0}}
		for f := 0.0; f < 96; f += 0.7 {
			r := shot.AtRest
			Apply(m, At(s, f), part, &r, nil)
			low := math.Inf(1)
			for _, p := range corners {
				q := r.Position.Add(part.Pivot).Add(r.Rotation.Rotate(p.Sub(part.Pivot)))
				low = math.Min(low, q[1])
			}
			if math.Abs(low-0.02) > 1e-9 {
				t.Fatalf("%d sides, frame %g: the lowest corner is at %g", c.sides, f, low)
			}
		}
		q, move := toppled(topple, 1, m.Pace)
		middle := geom.Vec3{}
		for _, p := range corners {
			middle = middle.Add(q.Rotate(p).Add(move).Sub(p).Mul(1 / float64(len(corners))))
		}
		if math.Abs(-middle[2]-c.way) > 1e-9 {
			t.Errorf("%d sides: it went %g, want %g", c.sides, -middle[2], c.way)
		}
	}
}

// The circumference of an ellipse with half axes 2 and 1 is 8 E(sqrt(3)/2) = 9.688448220547675 (Abramowitz and
// Stegun, table 17.1: E(m = 0.75) = 1.211056027568459); on all paths equal shares are equally long.
func TestPathsByArcLength(t *testing.T) {
	if got := ellipse(2, 1).Length; math.Abs(got-8*1.211056027568459) > 1e-9 {
		t.Errorf("the ellipse is %.12f round", got)
	}
	if got := roundedRectangle(2, 1, 0.5).Length; math.Abs(got-(4+8-8*0.5+math.Pi)) > 1e-9 {
		t.Errorf("the rounded rectangle is %.12f round", got)
	}
	for name, p := range map[string]*Path{
		"ellipse": ellipse(2, 0.4), "rounded": roundedRectangle(2, 1, 0.5), "line": roundedRectangle(1, 1, 0),
		"open":   through([]geom.Vec3{{0, 0, 0}, {1, 0.5, 0}, {1.2, 0, 2}, {5, 0, 2}}, false),
		"closed": through([]geom.Vec3{{0, 0, 0}, {1, 0.5, 0}, {1.2, 0, 2}, {-3, 0, 2}}, true),
	} {
		const n = 200
		for i := range n {
			a, b := float64(i)/n, float64(i+1)/n
			long := 0.0 // of the way between, by many small chords
			last, _ := p.At(a)
			const fine = 64
			for k := 1; k <= fine; k++ {
				q, d := p.At(a + (b-a)*float64(k)/fine)
				long += q.Sub(last).Len()
				last = q
				if math.Abs(d.Len()-1) > 1e-9 {
					t.Fatalf("%s: a direction is %g long", name, d.Len())
				}
			}
			if math.Abs(long/p.Length*n-1) > 2e-5 { // chords are a little short
				t.Errorf("%s: from %g to %g it is %.9g of a share", name, a, b, long/p.Length*n)
			}
		}
	}
	// Spacing itself, without chords: on the ellipse the parameter after each share against the length up to it.
	p := ellipse(2, 1)
	for i := 1; i < 40; i++ {
		q, _ := p.At(float64(i) / 40)
		u := math.Atan2(q[0]/2, q[2]) / (2 * math.Pi)
		if u < 0 {
			u++
		}
		sum, knot := 0.0, 0.0
		for knot+1.0/64 < u {
			sum += p.arc(knot, knot+1.0/64)
			knot += 1.0 / 64
		}
		if sum += p.arc(knot, u); math.Abs(sum/p.Length-float64(i)/40) > 1e-9 {
			t.Errorf("share %d of 40 is at %.12f", i, sum/p.Length)
		}
	}
}
