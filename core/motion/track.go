package motion

import (
	"math"
	"sort"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

// Sample returns the value of a track of numbers at a time in frames.
func Sample(tr *shot.Track, t float64) float64 {
	at, laps := fold(tr, t)
	i := before(tr.Pins, at)
	v := 0.0
	switch {
	case i < 0:
		v = tr.Pins[0].Value
	case i == len(tr.Pins)-1:
		v = tr.Pins[i].Value
	default:
		r := runOf(tr, i)
		v = r.at(at)
	}
	if laps != 0 {
		v += laps * (tr.Pins[len(tr.Pins)-1].Value - tr.Pins[0].Value)
	}
	return v
}

// SampleTurn returns the rotation of an orientation track at a time in frames.
func SampleTurn(tr *shot.Track, t float64) geom.Quat {
	at, laps := fold(tr, t)
	i := before(tr.Pins, at)
	var q geom.Quat
	switch {
	case i < 0:
		q = *tr.Pins[0].Turn
	case i == len(tr.Pins)-1:
		q = *tr.Pins[i].Turn
	default:
		a := arcOf(tr, i)
		if q = a.at(at); laps == 0 {
			return q
		}
	}
	if laps != 0 { // what one lap does, so many times
		lap := tr.Pins[len(tr.Pins)-1].Turn.Mul(tr.Pins[0].Turn.Inverse())
		q = lap.Power(laps).Mul(q)
	}
	return q.Unit()
}

// fold brings a time beyond the pins to one among them, with the number of whole laps that a track that
// carries on has gone round.
func fold(tr *shot.Track, t float64) (at, laps float64) {
	first, last := tr.Pins[0].Time, tr.Pins[len(tr.Pins)-1].Time
	long := last - first
	how := tr.After
	if t < first {
		how = tr.Before
	} else if t <= last {
		return t, 0
	}
	if how == shot.BeyondHold || long == 0 {
		return t, 0
	}
	lap := math.Floor((t - first) / long)
	u := t - first - lap*long
	switch how {
	case shot.BeyondCarryOn:
		return first + u, lap
	case shot.BeyondMirrored:
		if math.Mod(math.Abs(lap), 2) == 1 {
			u = long - u
		}
	}
	return first + u, 0
}

// before returns the index of the last pin at or before a time, -1 for none.
func before(pins []shot.Pin, t float64) int {
	return sort.Search(len(pins), func(i int) bool { return pins[i].Time > t }) - 1
}

// cubic is c0 + c1 s + c2 s^2 + c3 s^3, with s from 0 to 1.
type cubic [4]float64

func (c *cubic) at(s float64) float64 { return c[0] + s*(c[1]+s*(c[2]+s*c[3])) }

// run is how numbers go from one pin to the next: along a cubic. It fills a line of the processor's cache.
type run struct {
	from, rate float64 // time of the first pin, and one over that up to the next
	c          cubic
	x1, x2     float64 // of the handles' times, as shares of the way; x1 is negative where time goes evenly
}

// runOf returns the run from pin i to the next: straight as glTF 2.0, Appendix C.2; along the cubic Bezier of the two
// handles, which with handles a third of the way is the cubic spline of C.5, whose tangents are three times the handles'
// values over the time between the pins; or smooth, along a cubic whose slopes never make it go beyond its pins.
func runOf(tr *shot.Track, i int) run {
	a, b := &tr.Pins[i], &tr.Pins[i+1]
	long := b.Time - a.Time
	r := run{from: a.Time, rate: 1 / long, x1: -1}
	switch a.Next {
	case shot.Holds:
		r.c[0] = a.Value
	case shot.Curves:
		r.x1, r.x2 = uneven(a.Out.Time/long, 1+b.In.Time/long)
		r.bezier(a.Value, a.Value+a.Out.Value, b.Value+b.In.Value, b.Value)
	case shot.Smooth:
		r.bezier(a.Value, a.Value+slope(tr, i)*long/3, b.Value-slope(tr, i+1)*long/3, b.Value)
	default:
		r.c[0], r.c[1] = a.Value, b.Value-a.Value
	}
	return r
}

// bezier makes it go along the cubic Bezier of four values.
func (r *run) bezier(a, b, c, d float64) {
	r.c = cubic{a, 3 * (b - a), 3 * (a - 2*b + c), d - 3*c + 3*b - a}
}

func (r *run) at(t float64) float64 {
	return r.c.at(curveTime(r.x1, r.x2, (t-r.from)*r.rate))
}

// slope returns the slope of a smooth curve at a pin: monotone, after Fritsch and Carlson (1980), by the
// weighted harmonic mean of Fritsch and Butland (1984); level at a turning point, and at an end unless the
// track repeats and closes, where the ends see each other.
func slope(tr *shot.Track, i int) float64 {
	n := len(tr.Pins)
	before, after := i-1, i+1
	if (i == 0 || i == n-1) && tr.After == shot.BeyondRepeat && tr.Pins[0].Value == tr.Pins[n-1].Value && n > 2 {
		h0, h1 := tr.Pins[n-1].Time-tr.Pins[n-2].Time, tr.Pins[1].Time-tr.Pins[0].Time
		return Harmonic((tr.Pins[n-1].Value-tr.Pins[n-2].Value)/h0, (tr.Pins[1].Value-tr.Pins[0].Value)/h1, h0, h1)
	}
	if before < 0 || after >= n {
		return 0
	}
	p, q, r := &tr.Pins[before], &tr.Pins[i], &tr.Pins[after]
	h0, h1 := q.Time-p.Time, r.Time-q.Time
	return Harmonic((q.Value-p.Value)/h0, (r.Value-q.Value)/h1, h0, h1)
}

// Harmonic is the slope of a monotone curve between two straight slopes over the times h0 and h1: 0 where they part,
// else their weighted harmonic mean (Fritsch and Butland 1984).
func Harmonic(d0, d1, h0, h1 float64) float64 {
	if d0*d1 <= 0 {
		return 0
	}
	return 3 * (h0 + h1) / ((2*h1+h0)/d0 + (h1+2*h0)/d1)
}

// arc is how an orientation goes from one pin to the next.
type arc struct {
	from, rate float64 // time of the first pin, and one over that up to the next
	straight   geom.Arc
	curved     *bent // nil where it goes straight
}

// bent is a way of an orientation along handles: each component goes along its Bezier, and is brought to unit length.
type bent struct {
	v      [4]geom.Quat
	x1, x2 float64 // as those of a run
}

// arcOf returns the way from pin i to the next: on the shorter arc at constant speed (glTF 2.0, C.4), or along handles.
func arcOf(tr *shot.Track, i int) arc {
	a, b := &tr.Pins[i], &tr.Pins[i+1]
	long := b.Time - a.Time
	r := arc{from: a.Time, rate: 1 / long}
	switch a.Next {
	case shot.Holds:
		r.straight = geom.NewArc(*a.Turn, *a.Turn)
	case shot.Curves:
		c := &bent{v: [4]geom.Quat{0: *a.Turn, 3: *b.Turn}}
		c.x1, c.x2 = uneven(a.Out.Time/long, 1+b.In.Time/long)
		for k := range a.Turn {
			c.v[1][k], c.v[2][k] = a.Turn[k]+a.Out.Turn[k], b.Turn[k]+b.In.Turn[k]
		}
		r.curved = c
	default:
		r.straight = geom.NewArc(*a.Turn, *b.Turn)
	}
	return r
}

func (r *arc) at(t float64) geom.Quat {
	x := (t - r.from) * r.rate
	c := r.curved
	if c == nil {
		return r.straight.At(x)
	}
	s := curveTime(c.x1, c.x2, x)
	var q geom.Quat
	for k := range q {
		q[k] = Cubic(c.v[0][k], c.v[1][k], c.v[2][k], c.v[3][k], s)
	}
	return q.Unit()
}

// uneven returns the times of handles, the first negative where they are a third and two of the way, so that time goes evenly.
func uneven(x1, x2 float64) (float64, float64) {
	if math.Abs(x1-1.0/3) < 1e-9 && math.Abs(x2-2.0/3) < 1e-9 {
		return -1, 0
	}
	return max(0, x1), x2
}

// curveTime returns the parameter of a Bezier of times 0, x1, x2, 1 at the time x; where x1 is negative they are equal.
func curveTime(x1, x2, x float64) float64 {
	if x1 < 0 {
		return x
	}
	return parameter(x1, x2, x)
}

// Cubic returns the cubic Bezier of four values at s.
func Cubic(a, b, c, d, s float64) float64 {
	r := 1 - s
	return r*r*r*a + 3*r*r*s*b + 3*r*s*s*c + s*s*s*d
}

// Slopes returns how fast a track's value runs away from pin i and into the next, by the frame, whichever way it runs there.
func Slopes(tr *shot.Track, i int) (out, in float64) {
	a, b := &tr.Pins[i], &tr.Pins[i+1]
	if a.Next == shot.Smooth {
		return slope(tr, i), slope(tr, i+1)
	}
	straight := (b.Value - a.Value) / (b.Time - a.Time)
	return straight, straight
}

// Speed returns how fast the value of a track changes at a time, by the frame.
func Speed(tr *shot.Track, t float64) float64 {
	const d = 1e-3
	return (Sample(tr, t+d) - Sample(tr, t-d)) / (2 * d)
}
