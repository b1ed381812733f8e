// Package motion is the arithmetic of moves: how progress runs over a span, and what a move does to
// a part's pose.
package motion

import (
	"math"

	"perigyre/core/shot"
)

// Pace returns the paced progress at u in [0, 1], and its derivative by u.
func Pace(p shot.Pace, u float64) (value, speed float64) {
	if p.Kind == shot.Bezier && p.Bezier != nil {
		return bezier(*p.Bezier, u)
	}
	return u, 1
}

// bezier evaluates cubic-bezier(x1, y1, x2, y2) of the W3C CSS Easing Functions Level 1, 2.3: the
// curve from (0, 0) to (1, 1) with those two control points, as y over x. The parameter is found to
// 1e-12 by Newton's method inside a shrinking bracket.
func bezier(b [4]float64, x float64) (y, dydx float64) {
	x1, y1, x2, y2 := b[0], b[1], b[2], b[3]
	at := func(a, b, t float64) float64 { return ((1-3*b+3*a)*t*t + (3*b-6*a)*t + 3*a) * t }
	slope := func(a, b, t float64) float64 { return 3*(1-3*b+3*a)*t*t + 2*(3*b-6*a)*t + 3*a }
	lo, hi, t := 0.0, 1.0, x
	for range 64 {
		e := at(x1, x2, t) - x
		if math.Abs(e) < 1e-12 {
			break
		}
		if e > 0 {
			hi = t
		} else {
			lo = t
		}
		next := t - e/slope(x1, x2, t)
		if !(next > lo && next < hi) {
			next = (lo + hi) / 2
		}
		t = next
	}
	return at(y1, y2, t), slope(y1, y2, t) / slope(x1, x2, t)
}
