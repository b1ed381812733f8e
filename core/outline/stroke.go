package outline

import (
	"math"

	"perigyre/core/geom"
)

// Cap is how the ends of a stroke look, Join how its corners do.
type (
	Cap  string
	Join string
)

// The caps and joins of drawings (SVG 1.1, 11.4).
const (
	Butt      Cap  = "butt"
	RoundCap  Cap  = "round"
	SquareCap Cap  = "square"
	Miter     Join = "miter"
	RoundJoin Join = "round"
	BevelJoin Join = "bevel"
)

// Pen draws strokes.
type Pen struct {
	Width      float64
	Cap        Cap
	Join       Join
	MiterLimit float64   // of the length of a miter to the width, beyond which a corner is bevelled
	Dashes     []float64 // lengths of dashes and gaps by turns; none for a whole line
	Offset     float64   // into the dashes, at which a line begins
}

// strokes collects the pieces of a stroke: closed lines that run counter-clockwise, which together wind round all that the
// pen passes over. A union of them by winding numbers is the stroke, however it crosses itself.
type strokes struct {
	pen       Pen
	r         float64
	tolerance float64
	out       [][]geom.Vec2
}

// maxDashes is how many dashes one path may be cut into; beyond it a line is drawn whole.
const maxDashes = 100_000

// Stroke returns closed lines that together wind round what a pen passes over, none of them clockwise.
func Stroke(lines []Polyline, pen Pen, tolerance float64) [][]geom.Vec2 {
	s := &strokes{pen: pen, r: pen.Width / 2, tolerance: tolerance}
	if !(s.r > 0) {
		return nil
	}
	for _, l := range pen.dashed(lines) {
		s.line(l)
	}
	return s.out
}

func (s *strokes) add(points ...geom.Vec2) {
	area := 0.0
	for i := range points {
		p, q := points[i].Sub(points[0]), points[(i+1)%len(points)].Sub(points[0])
		area += p[0]*q[1] - p[1]*q[0]
	}
	if area < 0 {
		for i, j := 0, len(points)-1; i < j; i, j = i+1, j-1 {
			points[i], points[j] = points[j], points[i]
		}
	}
	s.out = append(s.out, points)
}

// left returns the normal of a direction to its left, as long as the pen is wide to one side.
func (s *strokes) left(a, b geom.Vec2) geom.Vec2 {
	d := b.Sub(a)
	k := s.r / d.Len()
	return geom.Vec2{-d[1] * k, d[0] * k}
}

func plus(a, b geom.Vec2, k float64) geom.Vec2 { return geom.Vec2{a[0] + k*b[0], a[1] + k*b[1]} }

func (s *strokes) line(l Polyline) {
	p := l.Points
	n := len(p)
	if n == 0 {
		return
	}
	if n == 1 { // a line of no length is its caps (SVG 1.1, 11.4)
		if s.pen.Cap == RoundCap {
			s.fan(p[0], 0, 2*math.Pi)
		} else if s.pen.Cap == SquareCap {
			x, y, r := p[0][0], p[0][1], s.r
			s.add(geom.Vec2{x - r, y - r}, geom.Vec2{x + r, y - r}, geom.Vec2{x + r, y + r}, geom.Vec2{x - r, y + r})
		}
		return
	}
	last := n - 1
	if l.Closed && n > 1 {
		last = n
	}
	for i := range last {
		a, b := p[i], p[(i+1)%n]
		u := s.left(a, b)
		s.add(plus(a, u, -1), plus(b, u, -1), plus(b, u, 1), plus(a, u, 1))
		if j := i + 1; j < last || l.Closed {
			s.join(a, b, p[(j+1)%n], l.Smooth[j%n])
		}
	}
	if !l.Closed {
		s.cap(p[1], p[0])
		s.cap(p[n-2], p[n-1])
	}
}

// cap ends a line that comes from a at b.
func (s *strokes) cap(a, b geom.Vec2) {
	u := s.left(a, b)
	switch s.pen.Cap {
	case RoundCap:
		s.fan(b, math.Atan2(-u[1], -u[0]), math.Pi)
	case SquareCap:
		on := geom.Vec2{u[1], -u[0]}
		s.add(plus(b, u, -1), plus(plus(b, u, -1), on, 1), plus(plus(b, u, 1), on, 1), plus(b, u, 1))
	}
}

// fan adds a sector of a disc round a point.
func (s *strokes) fan(c geom.Vec2, from, turn float64) {
	step := math.Pi / 4
	if s.tolerance < s.r {
		step = math.Min(step, 2*math.Acos(1-s.tolerance/s.r))
	}
	n := max(1, int(math.Min(finestCurve, math.Ceil(math.Abs(turn)/step))))
	points := make([]geom.Vec2, 0, n+2)
	if math.Abs(turn) < 2*math.Pi-1e-9 {
		points = append(points, c)
	}
	for k := range n + 1 {
		sin, cos := math.Sincos(from + turn*float64(k)/float64(n))
		points = append(points, geom.Vec2{c[0] + s.r*cos, c[1] + s.r*sin})
	}
	s.add(points...)
}

// join fills the outside of the corner at b.
func (s *strokes) join(a, b, c geom.Vec2, smooth bool) {
	u, v := s.left(a, b), s.left(b, c)
	sin, cos := (u[0]*v[1]-u[1]*v[0])/(s.r*s.r), (u[0]*v[0]+u[1]*v[1])/(s.r*s.r)
	if math.Abs(sin) < 1e-12 && cos > 0 {
		return
	}
	if sin > 0 { // it turns left: the outside is on the right
		u, v = geom.Vec2{-u[0], -u[1]}, geom.Vec2{-v[0], -v[1]}
	}
	join := s.pen.Join
	if smooth {
		join = RoundJoin
	}
	switch join {
	case RoundJoin:
		s.fan(b, math.Atan2(u[1], u[0]), math.Atan2(sin, cos))
	case BevelJoin:
		s.add(b, plus(b, u, 1), plus(b, v, 1))
	default:
		// The miter is 1/cos of half the turn as long as the width (SVG 1.1, 11.4).
		half := math.Sqrt(math.Max(0, (1+cos)/2))
		if half*math.Max(1, s.pen.MiterLimit) < 1 {
			s.add(b, plus(b, u, 1), plus(b, v, 1))
			return
		}
		tip := geom.Vec2{(u[0] + v[0]) / 2, (u[1] + v[1]) / 2}
		s.add(b, plus(b, u, 1), plus(b, tip, 1/(half*half)), plus(b, v, 1))
	}
}

// dashed cuts lines into dashes. A dash that goes round the start of a closed line is one.
func (p Pen) dashed(lines []Polyline) []Polyline {
	total := 0.0
	for _, d := range p.Dashes {
		if !(d >= 0) {
			return lines
		}
		total += d
	}
	long := 0.0
	for _, l := range lines {
		long += l.Length()
	}
	if !(total > 0) || math.IsInf(total, 0) || long/total*float64(len(p.Dashes)) > maxDashes {
		return lines
	}
	dashes := p.Dashes
	if len(dashes)%2 == 1 {
		dashes = append(append([]float64(nil), dashes...), dashes...)
		total *= 2
	}
	begin := math.Mod(p.Offset, total)
	if begin < 0 {
		begin += total
	}
	var out []Polyline
	for _, l := range lines {
		k, left := 0, begin
		for k < len(dashes)-1 && left > 0 && left >= dashes[k] {
			left -= dashes[k]
			k++
		}
		left = dashes[k] - left
		first := len(out)
		var dash *Polyline
		startsOn := k%2 == 0
		n := len(l.Points)
		if n == 0 {
			continue
		}
		if startsOn {
			dash = &Polyline{Points: []geom.Vec2{l.Points[0]}, Smooth: []bool{false}}
		}
		last := n - 1
		if l.Closed {
			last = n
		}
		for i := range last {
			a, b := l.Points[i], l.Points[(i+1)%n]
			length, at := b.Sub(a).Len(), 0.0
			for at+left <= length {
				at += left
				q := mix(a, b, at/length)
				if dash != nil {
					if q == dash.Points[0] { // a dot looks along the line all the same
						q = plus(q, b.Sub(a), 1e-6*p.Width/length)
					}
					dash.Points, dash.Smooth = append(dash.Points, q), append(dash.Smooth, false)
					out = append(out, tidied(*dash))
					dash = nil
				} else {
					dash = &Polyline{Points: []geom.Vec2{q}, Smooth: []bool{false}}
				}
				k = (k + 1) % len(dashes)
				left = dashes[k]
			}
			left -= length - at
			if dash != nil {
				dash.Points, dash.Smooth = append(dash.Points, b), append(dash.Smooth, l.Smooth[(i+1)%n])
			}
		}
		switch {
		case dash == nil:
		case l.Closed && startsOn && len(out) > first:
			f := &out[first]
			*f = tidied(Polyline{Points: append(dash.Points, f.Points[1:]...), Smooth: append(dash.Smooth[:len(dash.Smooth)-1:len(dash.Smooth)-1], append([]bool{l.Smooth[0]}, f.Smooth[1:]...)...)})
		case l.Closed && startsOn: // no gap was met
			out = append(out, l)
		default:
			out = append(out, tidied(*dash))
		}
	}
	return out
}

// tidied leaves out points that stand twice.
func tidied(l Polyline) Polyline {
	k := 0
	for i, p := range l.Points {
		if i > 0 && p == l.Points[k-1] {
			l.Smooth[k-1] = l.Smooth[k-1] && l.Smooth[i]
			continue
		}
		l.Points[k], l.Smooth[k] = p, l.Smooth[i]
		k++
	}
	l.Points, l.Smooth = l.Points[:k], l.Smooth[:k]
	return l
}
