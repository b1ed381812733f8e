package motion

import (
	"math"
	"sort"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

// ApplyTrack changes a part's pose by what its pins say at time t. Poses are in the parent's frame.
func ApplyTrack(tr *shot.Track, t Time, p *shot.Rest) {
	switch tr.Value {
	case shot.TrackX:
		p.Position[0] += Sample(tr, t.T)
	case shot.TrackY:
		p.Position[1] += Sample(tr, t.T)
	case shot.TrackZ:
		p.Position[2] += Sample(tr, t.T)
	case shot.TrackOrientation:
		p.Rotation = SampleTurn(tr, t.T).Mul(p.Rotation)
	case shot.TrackTurnX:
		p.Rotation = p.Rotation.Mul(geom.AxisAngle(geom.Vec3{1, 0, 0}, Sample(tr, t.T)))
	case shot.TrackTurnY:
		p.Rotation = p.Rotation.Mul(geom.AxisAngle(geom.Vec3{0, 1, 0}, Sample(tr, t.T)))
	case shot.TrackTurnZ:
		p.Rotation = p.Rotation.Mul(geom.AxisAngle(geom.Vec3{0, 0, 1}, Sample(tr, t.T)))
	case shot.TrackWidth:
		p.Size[0] *= Sample(tr, t.T)
	case shot.TrackHeight:
		p.Size[1] *= Sample(tr, t.T)
	case shot.TrackDepth:
		p.Size[2] *= Sample(tr, t.T)
	}
}

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
	case tr.Pins[i].Next == shot.Smooth:
		v = smooth(tr, i, at)
	default:
		v = between(&tr.Pins[i], &tr.Pins[i+1], at)
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
		q = betweenTurns(&tr.Pins[i], &tr.Pins[i+1], at)
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

// between runs from one pin to the next: straight as glTF 2.0, Appendix C.2, or along the cubic Bezier of
// the two handles. With the handles a third of the way this is the cubic spline of C.5, whose tangents are
// three times the handles' values over the time between the pins.
func between(a, b *shot.Pin, t float64) float64 {
	long := b.Time - a.Time
	switch a.Next {
	case shot.Holds:
		return a.Value
	case shot.Curves:
		s := curveTime(a.Out.Time/long, 1+b.In.Time/long, (t-a.Time)/long)
		return cubic(a.Value, a.Value+a.Out.Value, b.Value+b.In.Value, b.Value, s)
	}
	s := (t - a.Time) / long
	return a.Value + (b.Value-a.Value)*s
}

// smooth runs from pin i to the next along a cubic whose slopes never make it go beyond its pins.
func smooth(tr *shot.Track, i int, t float64) float64 {
	a, b := &tr.Pins[i], &tr.Pins[i+1]
	long := b.Time - a.Time
	ma, mb := slope(tr, i)*long/3, slope(tr, i+1)*long/3
	return cubic(a.Value, a.Value+ma, b.Value-mb, b.Value, (t-a.Time)/long)
}

// slope returns the slope of a smooth curve at a pin: monotone, after Fritsch and Carlson (1980), by the
// weighted harmonic mean of Fritsch and Butland (1984); level at a turning point, and at an end unless the
// track repeats and closes, where the ends see each other.
func slope(tr *shot.Track, i int) float64 {
	n := len(tr.Pins)
	before, after := i-1, i+1
	if (i == 0 || i == n-1) && tr.After == shot.BeyondRepeat && tr.Pins[0].Value == tr.Pins[n-1].Value && n > 2 {
		h0, h1 := tr.Pins[n-1].Time-tr.Pins[n-2].Time, tr.Pins[1].Time-tr.Pins[0].Time
		return harmonic((tr.Pins[n-1].Value-tr.Pins[n-2].Value)/h0, (tr.Pins[1].Value-tr.Pins[0].Value)/h1, h0, h1)
	}
	if before < 0 || after >= n {
		return 0
	}
	p, q, r := &tr.Pins[before], &tr.Pins[i], &tr.Pins[after]
	h0, h1 := q.Time-p.Time, r.Time-q.Time
	return harmonic((q.Value-p.Value)/h0, (r.Value-q.Value)/h1, h0, h1)
}

func harmonic(d0, d1, h0, h1 float64) float64 {
	if d0*d1 <= 0 {
		return 0
	}
	return 3 * (h0 + h1) / ((2*h1+h0)/d0 + (h1+2*h0)/d1)
}

// betweenTurns is between for orientations: on the shorter arc at constant speed (glTF 2.0, C.4), or each
// component along its curve, brought to unit length.
func betweenTurns(a, b *shot.Pin, t float64) geom.Quat {
	long := b.Time - a.Time
	switch a.Next {
	case shot.Holds:
		return *a.Turn
	case shot.Curves:
		s := curveTime(a.Out.Time/long, 1+b.In.Time/long, (t-a.Time)/long)
		var q geom.Quat
		for k := range q {
			q[k] = cubic(a.Turn[k], a.Turn[k]+a.Out.Turn[k], b.Turn[k]+b.In.Turn[k], b.Turn[k], s)
		}
		return q.Unit()
	}
	return a.Turn.Slerp(*b.Turn, (t-a.Time)/long)
}

// curveTime returns the parameter of a Bezier of times 0, x1, x2, 1 at the time x. With thirds they are equal.
func curveTime(x1, x2, x float64) float64 {
	if math.Abs(x1-1.0/3) < 1e-9 && math.Abs(x2-2.0/3) < 1e-9 {
		return x
	}
	return parameter(x1, x2, x)
}

func cubic(a, b, c, d, s float64) float64 {
	r := 1 - s
	return r*r*r*a + 3*r*r*s*b + 3*r*s*s*c + s*s*s*d
}
