package motion

import (
	"math"
	"sort"

	"perigyre/core/geom"
)

// Path is a curve measured by its arc length.
type Path struct {
	Closed bool
	Length float64
	at     func(u float64) (p, d geom.Vec3) // point and derivative at the curve's own parameter, 0 to 1
	knots  []float64                        // parameters between which the curve is smooth
	sums   []float64                        // arc length up to each knot
}

// Ellipse lies on the floor and begins at +z, counter-clockwise from above.
func Ellipse(a, b float64) *Path {
	p := &Path{Closed: true, at: func(u float64) (geom.Vec3, geom.Vec3) {
		sin, cos := math.Sincos(2 * math.Pi * u)
		return geom.Vec3{a * sin, 0, b * cos}, geom.Vec3{2 * math.Pi * a * cos, 0, -2 * math.Pi * b * sin}
	}}
	for i := range 33 {
		p.knots = append(p.knots, float64(i)/32)
	}
	return p.measured()
}

// RoundedRectangle begins in the middle of its front, counter-clockwise from above.
func RoundedRectangle(a, b, r float64) *Path {
	r = math.Min(r, math.Min(a, b))
	type side struct {
		from, along geom.Vec3
		long        float64
		arc         bool
	}
	var list []side
	x, z := a-r, b-r
	corner := math.Pi / 2 * r
	add := func(from, along geom.Vec3, long float64, arc bool) {
		if long > 0 {
			list = append(list, side{from, along, long, arc})
		}
	}
	add(geom.Vec3{0, 0, b}, geom.Vec3{1, 0, 0}, x, false)
	add(geom.Vec3{x, 0, b}, geom.Vec3{1, 0, 0}, corner, true)
	add(geom.Vec3{a, 0, z}, geom.Vec3{0, 0, -1}, 2*z, false)
	add(geom.Vec3{a, 0, -z}, geom.Vec3{0, 0, -1}, corner, true)
	add(geom.Vec3{x, 0, -b}, geom.Vec3{-1, 0, 0}, 2*x, false)
	add(geom.Vec3{-x, 0, -b}, geom.Vec3{-1, 0, 0}, corner, true)
	add(geom.Vec3{-a, 0, -z}, geom.Vec3{0, 0, 1}, 2*z, false)
	add(geom.Vec3{-a, 0, z}, geom.Vec3{0, 0, 1}, corner, true)
	add(geom.Vec3{-x, 0, b}, geom.Vec3{1, 0, 0}, x, false)
	total := 0.0
	for _, s := range list {
		total += s.long
	}
	p := &Path{Closed: true, knots: []float64{0}}
	sum := 0.0
	for _, s := range list {
		sum += s.long
		p.knots = append(p.knots, sum/total)
	}
	p.knots[len(p.knots)-1] = 1
	p.at = func(u float64) (geom.Vec3, geom.Vec3) {
		s := u * total
		for i, c := range list {
			if s > c.long && i < len(list)-1 {
				s -= c.long
				continue
			}
			if !c.arc {
				return c.from.Add(c.along.Mul(s)), c.along.Mul(total)
			}
			left := geom.Vec3{c.along[2], 0, -c.along[0]} // counter-clockwise from above
			sin, cos := math.Sincos(s / r)
			return c.from.Add(c.along.Mul(r * sin)).Add(left.Mul(r * (1 - cos))), c.along.Mul(cos).Add(left.Mul(sin)).Mul(total)
		}
		return geom.Vec3{}, geom.Vec3{}
	}
	return p.measured()
}

// Through is a smooth curve through points: a cubic spline of Catmull and Rom, with knots as far apart as
// the roots of the distances (Yuksel, Schaefer and Keyser 2011), which makes no loops.
func Through(points []geom.Vec3, closed bool) *Path {
	n := len(points)
	spans := n - 1
	if closed {
		spans = n
	}
	get := func(i int) geom.Vec3 {
		switch {
		case closed:
			return points[((i%n)+n)%n]
		case i < 0:
			return points[0].Mul(2).Sub(points[1])
		case i >= n:
			return points[n-1].Mul(2).Sub(points[n-2])
		}
		return points[i]
	}
	p := &Path{Closed: closed}
	for i := range spans + 1 {
		p.knots = append(p.knots, float64(i)/float64(spans))
	}
	p.at = func(u float64) (geom.Vec3, geom.Vec3) {
		i := min(spans-1, int(u*float64(spans)))
		a, b, c, d := get(i-1), get(i), get(i+1), get(i+2)
		ta, tb, tc := math.Sqrt(b.Sub(a).Len()), math.Sqrt(c.Sub(b).Len()), math.Sqrt(d.Sub(c).Len())
		slope := func(a, b, c geom.Vec3, ta, tb float64) geom.Vec3 {
			if ta == 0 || tb == 0 {
				return c.Sub(a).Mul(1 / (ta + tb))
			}
			return b.Sub(a).Mul(1 / ta).Sub(c.Sub(a).Mul(1 / (ta + tb))).Add(c.Sub(b).Mul(1 / tb))
		}
		m0, m1 := slope(a, b, c, ta, tb).Mul(tb), slope(b, c, d, tb, tc).Mul(tb)
		s := u*float64(spans) - float64(i)
		h := func(c0, c1, c2, c3 float64) geom.Vec3 {
			return b.Mul(c0).Add(m0.Mul(c1)).Add(c.Mul(c2)).Add(m1.Mul(c3))
		}
		s2, s3 := s*s, s*s*s
		return h(2*s3-3*s2+1, s3-2*s2+s, -2*s3+3*s2, s3-s2), h(6*s2-6*s, 3*s2-4*s+1, -6*s2+6*s, 3*s2-2*s).Mul(float64(spans))
	}
	return p.measured()
}

// Polyline is a closed path of straight pieces.
func Polyline(points []geom.Vec3) *Path {
	n := len(points)
	sums := make([]float64, n+1)
	for i := range n {
		sums[i+1] = sums[i] + points[(i+1)%n].Sub(points[i]).Len()
	}
	p := &Path{Closed: true, Length: sums[n]}
	for _, s := range sums {
		p.knots = append(p.knots, s/sums[n])
	}
	p.sums = sums
	p.at = func(u float64) (geom.Vec3, geom.Vec3) {
		i := max(0, min(n-1, sort.SearchFloat64s(p.knots, u)-1))
		a, b := points[i], points[(i+1)%n]
		share := (u - p.knots[i]) / math.Max(1e-300, p.knots[i+1]-p.knots[i])
		return a.Add(b.Sub(a).Mul(share)), b.Sub(a).Unit().Mul(p.Length)
	}
	return p
}

// measured adds up the arc length from knot to knot.
func (p *Path) measured() *Path {
	p.sums = make([]float64, len(p.knots))
	for i := 1; i < len(p.knots); i++ {
		p.sums[i] = p.sums[i-1] + p.arc(p.knots[i-1], p.knots[i])
	}
	p.Length = p.sums[len(p.sums)-1]
	return p
}

// gauss are the nodes and weights of Gauss-Legendre quadrature with eight points on [-1, 1] (Abramowitz and
// Stegun, table 25.4).
var gauss = [4][2]float64{{0.1834346424956498, 0.3626837833783620}, {0.5255324099163290, 0.3137066458778873}, {0.7966664774136267, 0.2223810344533745}, {0.9602898564975363, 0.1012285362903763}}

// arc integrates the length between two parameters within one smooth piece, in four parts.
func (p *Path) arc(a, b float64) float64 {
	sum := 0.0
	const parts = 4
	for k := range parts {
		lo, hi := a+(b-a)*float64(k)/parts, a+(b-a)*float64(k+1)/parts
		mid, half := (lo+hi)/2, (hi-lo)/2
		for _, g := range gauss {
			_, d := p.at(mid - half*g[0])
			_, e := p.at(mid + half*g[0])
			sum += half * g[1] * (d.Len() + e.Len())
		}
	}
	return sum
}

// At returns the point at a share of the length, and the direction there. A closed path goes on beyond its
// ends; an open one stays there.
func (p *Path) At(share float64) (point, along geom.Vec3) {
	if p.Closed {
		share -= math.Floor(share)
	}
	s := math.Max(0, math.Min(1, share)) * p.Length
	i := max(0, min(len(p.sums)-2, sort.SearchFloat64s(p.sums, s)-1))
	lo, hi := p.knots[i], p.knots[i+1]
	want := s - p.sums[i]
	u := lo
	if whole := p.sums[i+1] - p.sums[i]; whole > 0 {
		u = lo + (hi-lo)*want/whole
	}
	a, b := lo, hi
	for range 30 {
		e := p.arc(lo, u) - want
		if math.Abs(e) < 1e-12*p.Length {
			break
		}
		if e > 0 {
			b = u
		} else {
			a = u
		}
		_, d := p.at(u)
		next := u - e/d.Len()
		if !(next > a && next < b) {
			next = (a + b) / 2
		}
		u = next
	}
	q, d := p.at(u)
	return q, d.Unit()
}

// Bend returns the curvature at a share of the length, to the left seen from above.
func (p *Path) Bend(share float64) float64 {
	const h = 1e-4
	_, a := p.At(share - h)
	_, b := p.At(share + h)
	return (a[2]*b[0] - a[0]*b[2]) / (2 * h * p.Length)
}

// Piece returns which straight piece of a polyline is at a share of the length from 0 to 1, and how much of it is done.
func (p *Path) Piece(share float64) (i int, done float64) {
	n := len(p.knots) - 1
	i = max(0, min(n-1, sort.SearchFloat64s(p.knots, share)-1))
	return i, (share - p.knots[i]) / math.Max(1e-300, p.knots[i+1]-p.knots[i])
}
