// Package motion is the arithmetic of moves: how progress runs over a span, and what a move does to
// a part's pose.
package motion

import (
	"math"

	"perigyre/core/shot"
)

// Pace returns the paced progress at u in [0, 1], and its derivative by u. Every pace is 0 at 0 and 1 at 1
// but for steps, which jump where they are told to.
func Pace(p shot.Pace, u float64) (value, speed float64) {
	switch p.Kind {
	case shot.Bezier:
		return bezier(*p.Bezier, u)
	case shot.Steps:
		return steps(p.Steps, p.Jump, u), 0
	case shot.Sine, shot.Power, shot.Exponential, shot.Circular, shot.Back, shot.Elastic, shot.Bounce:
		return ways(p, u)
	case shot.Spring:
		return spring(*p.Spring, u)
	case shot.Drawn:
		tr := shot.Track{Pins: p.Curve}
		const h = 1e-6
		a, b := math.Max(0, u-h), math.Min(1, u+h)
		return Sample(&tr, u), (Sample(&tr, b) - Sample(&tr, a)) / (b - a)
	}
	return u, 1
}

// bezier evaluates cubic-bezier(x1, y1, x2, y2) of the W3C CSS Easing Functions Level 1, 2.3: the
// curve from (0, 0) to (1, 1) with those two control points, as y over x.
func bezier(b [4]float64, x float64) (y, dydx float64) {
	t := parameter(b[0], b[2], x)
	return unitCubic(b[1], b[3], t), unitSlope(b[1], b[3], t) / unitSlope(b[0], b[2], t)
}

// unitCubic is the cubic Bezier from 0 to 1 with inner control values a and b, and unitSlope its
// derivative.
func unitCubic(a, b, t float64) float64 { return ((1-3*b+3*a)*t*t + (3*b-6*a)*t + 3*a) * t }
func unitSlope(a, b, t float64) float64 { return 3*(1-3*b+3*a)*t*t + 2*(3*b-6*a)*t + 3*a }

// parameter returns where the cubic Bezier from 0 to 1 with inner control values x1 and x2, in [0, 1], is
// at x. It is found to 1e-12 by Newton's method inside a shrinking bracket.
func parameter(x1, x2, x float64) float64 {
	lo, hi, t := 0.0, 1.0, x
	for range 64 {
		e := unitCubic(x1, x2, t) - x
		if math.Abs(e) < 1e-12 {
			break
		}
		if e > 0 {
			hi = t
		} else {
			lo = t
		}
		next := t - e/unitSlope(x1, x2, t)
		if !(next > lo && next < hi) {
			next = (lo + hi) / 2
		}
		t = next
	}
	return t
}

// steps is steps(n, jump) of the W3C CSS Easing Functions Level 1, 2.4; jump-end if empty.
func steps(n int, jump string, u float64) float64 {
	jumps := float64(n)
	step := math.Floor(u*jumps + 1e-12) // frames on a step's edge are on the step
	switch jump {
	case "jump-start":
		step++
	case "jump-both":
		step++
		jumps++
	case "jump-none":
		jumps--
	}
	return math.Max(0, math.Min(step, jumps)) / jumps
}

// ways turns a pace that starts gently into one that ends gently, or does both.
func ways(p shot.Pace, u float64) (value, speed float64) {
	switch {
	case p.Way == "out":
		v, s := gentle(p, 1-u)
		return 1 - v, s
	case p.Way == "both" && u < 0.5:
		v, s := gentle(p, 2*u)
		return v / 2, s
	case p.Way == "both":
		v, s := gentle(p, 2-2*u)
		return 1 - v/2, s
	}
	return gentle(p, u)
}

// gentle returns a pace that starts gently and its derivative.
func gentle(p shot.Pace, u float64) (float64, float64) {
	switch p.Kind {
	case shot.Sine:
		sin, cos := math.Sincos(math.Pi / 2 * u)
		return 1 - cos, math.Pi / 2 * sin
	case shot.Power:
		return math.Pow(u, p.Power), p.Power * math.Pow(u, p.Power-1)
	case shot.Exponential: // ten doublings, brought to begin at 0
		e := math.Exp2(10 * u)
		return (e - 1) / 1023, 10 * math.Ln2 * e / 1023
	case shot.Circular:
		root := math.Sqrt(math.Max(0, 1-u*u))
		return 1 - root, u / root
	case shot.Back: // goes back by a tenth first (Penner's constant)
		const c = 1.70158
		return u * u * ((c+1)*u - c), u * (3*(c+1)*u - 2*c)
	case shot.Elastic: // swings three times and a third, growing as the exponential does
		const w = 2 * math.Pi / 0.3
		e := math.Exp2(10 * u)
		sin, cos := math.Sincos(w * (1 - u))
		return (e - 1) / 1023 * cos, 10*math.Ln2*e/1023*cos + (e-1)/1023*w*sin
	case shot.Bounce:
		v, s := bounceOut(1 - u)
		return 1 - v, s
	}
	return u, 1
}

// bounceOut is a fall with three bounces, each parabola half as long as the one before, as most easing
// libraries have it.
func bounceOut(u float64) (value, speed float64) {
	const n, d = 7.5625, 2.75
	for _, b := range [4][2]float64{{0, 0}, {1.5, 0.75}, {2.25, 0.9375}, {2.625, 0.984375}} {
		end := map[float64]float64{0: 1, 1.5: 2, 2.25: 2.5, 2.625: 3}[b[0]]
		if u < end/d || b[0] == 2.625 {
			x := u - b[0]/d
			return n*x*x + b[1], 2 * n * x
		}
	}
	return 1, 0
}

// settled is the amplitude at which a spring counts as settled.
const settled = 1e-3

// spring is the way of a weight on a damped spring to its rest, over the time in which its swing falls to a
// thousandth, and brought to end at 1: x” = -(k x + c x')/m from rest at a distance of 1.
func spring(s shot.SpringSpec, u float64) (value, speed float64) {
	w := math.Sqrt(s.Stiffness / s.Mass)
	z := s.Damping / (2 * math.Sqrt(s.Stiffness*s.Mass))
	slow := z * w // how fast what is left dies away
	if z > 1 {
		slow = w * (z - math.Sqrt(z*z-1))
	}
	whole := math.Log(1/settled) / slow
	at := func(t float64) (float64, float64) {
		switch {
		case z < 1:
			wd := w * math.Sqrt(1-z*z)
			e := math.Exp(-z * w * t)
			sin, cos := math.Sincos(wd * t)
			return 1 - e*(cos+z*w/wd*sin), e * sin * w * w / wd
		case z == 1:
			e := math.Exp(-w * t)
			return 1 - e*(1+w*t), w * w * t * e
		}
		a, b := -w*(z-math.Sqrt(z*z-1)), -w*(z+math.Sqrt(z*z-1))
		ea, eb := math.Exp(a*t), math.Exp(b*t)
		return 1 - (a*eb-b*ea)/(a-b), a * b * (ea - eb) / (a - b)
	}
	end, _ := at(whole)
	v, d := at(u * whole)
	return v / end, d * whole / end
}
