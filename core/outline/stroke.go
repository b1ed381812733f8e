package outline

import (
	"context"
	"math"
	"slices"

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

// maxDashes is how many dashes one path may be cut into; beyond it a line is drawn whole.
const maxDashes = 100_000

// Stroke returns the area that a pen passes over. Where the pen is wide beside the pieces of a line, runs of them are united
// first, since what lies under many of them would be cut by all.
func Stroke(ctx context.Context, lines []Polyline, pen Pen, tolerance float64) (Area, error) {
	if !(pen.Width > 0) {
		return Area{}, nil
	}
	lines = pen.dashed(lines)
	s := &strokes{pen, pen.Width / 2, tolerance}
	var out Area
	if !crowded(lines, pen.Width/4) {
		for _, l := range lines {
			out.Lines = append(out.Lines, s.along(l)...)
		}
		return out, nil
	}
	var loops [][]geom.Vec2
	for _, l := range lines {
		for _, run := range l.runs() {
			part := *s
			if run.cut {
				part.pen.Cap = Butt
			}
			loops = append(loops, part.along(run.Polyline)...)
			if run.cut && !l.Closed { // the ends of the line itself
				loops = append(loops, s.ends(run)...)
			}
		}
	}
	r, err := united(ctx, loops)
	return r.Area(), err
}

// crowded reports whether many pieces of lines are shorter than a length.
func crowded(lines []Polyline, than float64) bool {
	short, all := 0, 0
	for _, l := range lines {
		for i := 1; i < len(l.Points); i++ {
			if all++; l.Points[i].Sub(l.Points[i-1]).Len() < than {
				short++
			}
		}
	}
	return short > 500 && short > all/4
}

// run is a part of a line, which overlaps the next by one piece.
type run struct {
	Polyline
	cut         bool
	first, last bool
}

func (l Polyline) runs() []run {
	const long = 24
	n := len(l.Points)
	if n <= 2*long {
		return []run{{Polyline: l}}
	}
	if l.Closed {
		l.Points = append(l.Points[:n:n], l.Points[0], l.Points[1])
		l.Smooth = append(l.Smooth[:n:n], l.Smooth[0], l.Smooth[1])
	}
	var out []run
	for from := 0; from < len(l.Points)-2; from += long {
		to := min(len(l.Points), from+long+2)
		out = append(out, run{Polyline{Points: l.Points[from:to], Smooth: l.Smooth[from:to]}, true, from == 0, to == len(l.Points)})
	}
	return out
}

// united returns the union of closed lines that wind counter-clockwise round what they hold, and of which those next to each
// other lie together.
func united(ctx context.Context, loops [][]geom.Vec2) (Region, error) {
	const parts = 6
	if len(loops) <= parts {
		return Area{Lines: loops}.Resolve(ctx)
	}
	var all Area
	for k := range parts {
		r, err := united(ctx, loops[len(loops)*k/parts:len(loops)*(k+1)/parts])
		if err != nil {
			return Region{}, err
		}
		all.Lines = append(all.Lines, r.loops...)
	}
	return all.Resolve(ctx)
}

// strokes goes along lines on their right. What it returns winds counter-clockwise round every place that the pen passes
// over, however the line crosses itself: the sum of a rectangle for each piece and a sector for each corner, of which only
// what they do not share is left.
type strokes struct {
	pen       Pen
	r         float64
	tolerance float64
}

func reversed(l Polyline) Polyline {
	out := Polyline{slices.Clone(l.Points), slices.Clone(l.Smooth), l.Closed}
	slices.Reverse(out.Points)
	slices.Reverse(out.Smooth)
	return out
}

func (s *strokes) along(l Polyline) [][]geom.Vec2 {
	p := l.Points
	n := len(p)
	switch {
	case n == 0:
		return nil
	case n == 1: // a line of no length is its caps (SVG 1.1, 11.4)
		if s.pen.Cap == RoundCap {
			return [][]geom.Vec2{s.arc(nil, p[0], 0, 2*math.Pi)}
		} else if s.pen.Cap == SquareCap {
			x, y, r := p[0][0], p[0][1], s.r
			return [][]geom.Vec2{{{x - r, y - r}, {x + r, y - r}, {x + r, y + r}, {x - r, y + r}}}
		}
		return nil
	case l.Closed && n > 1:
		return [][]geom.Vec2{s.right(l), s.right(reversed(l))}
	}
	out := s.cap(s.right(l), p[n-2], p[n-1])
	out = append(out, s.right(reversed(l))...)
	return [][]geom.Vec2{s.cap(out, p[1], p[0])}
}

// ends returns the caps of a line that was cut, at those of its ends that the run holds.
func (s *strokes) ends(r run) (out [][]geom.Vec2) {
	add := func(a, b geom.Vec2) {
		if s.pen.Cap == RoundCap || s.pen.Cap == SquareCap {
			u := s.toRight(a, b)
			out = append(out, append(s.cap([]geom.Vec2{plus(b, u, 1)}, a, b), plus(b, u, -1)))
		}
	}
	if p := r.Points; len(p) > 1 {
		if r.first {
			add(p[1], p[0])
		}
		if r.last {
			add(p[len(p)-2], p[len(p)-1])
		}
	}
	return out
}

// toRight returns the normal of a direction to its right, as long as the pen is wide to one side.
func (s *strokes) toRight(a, b geom.Vec2) geom.Vec2 {
	d := b.Sub(a)
	k := s.r / d.Len()
	return geom.Vec2{d[1] * k, -d[0] * k}
}

func plus(a, b geom.Vec2, k float64) geom.Vec2 { return geom.Vec2{a[0] + k*b[0], a[1] + k*b[1]} }

// right returns the line beside a line on its right: round the corners that it is outside of, and by way of the corner
// itself where it is inside.
func (s *strokes) right(l Polyline) []geom.Vec2 {
	p := l.Points
	n := len(p)
	last := n - 1
	if l.Closed {
		last = n
	}
	out := make([]geom.Vec2, 0, 3*n)
	for i := range last {
		a, b := p[i], p[(i+1)%n]
		u := s.toRight(a, b)
		out = append(out, plus(a, u, 1), plus(b, u, 1))
		if i+1 < last || l.Closed {
			out = s.join(out, b, u, s.toRight(b, p[(i+2)%n]), l.Smooth[(i+1)%n])
		}
	}
	return out
}

// cap goes round the end at b of a line that comes from a.
func (s *strokes) cap(out []geom.Vec2, a, b geom.Vec2) []geom.Vec2 {
	u := s.toRight(a, b)
	switch s.pen.Cap {
	case RoundCap:
		return s.arc(out, b, math.Atan2(u[1], u[0]), math.Pi)
	case SquareCap:
		on := geom.Vec2{-u[1], u[0]}
		return append(out, plus(plus(b, u, 1), on, 1), plus(plus(b, u, -1), on, 1))
	}
	return out
}

// arc goes round a point, without the ends unless it goes all round.
func (s *strokes) arc(out []geom.Vec2, c geom.Vec2, from, turn float64) []geom.Vec2 {
	step := math.Pi / 4
	if s.tolerance < s.r {
		step = math.Min(step, 2*math.Acos(1-s.tolerance/s.r))
	}
	n := max(1, int(math.Min(finestCurve, math.Ceil(math.Abs(turn)/step))))
	for k := range n {
		if k == 0 && turn < 2*math.Pi {
			continue
		}
		sin, cos := math.Sincos(from + turn*float64(k)/float64(n))
		out = append(out, geom.Vec2{c[0] + s.r*cos, c[1] + s.r*sin})
	}
	return out
}

// join goes from one piece's right to the next's at the corner b. U and v are the pieces' normals.
func (s *strokes) join(out []geom.Vec2, b, u, v geom.Vec2, smooth bool) []geom.Vec2 {
	sin, cos := (u[0]*v[1]-u[1]*v[0])/(s.r*s.r), (u[0]*v[0]+u[1]*v[1])/(s.r*s.r)
	if math.Abs(sin) < 1e-12 && cos > 0 {
		return out
	}
	if sin < 0 { // it turns right: this is the inside
		return append(out, b)
	}
	join := s.pen.Join
	if smooth {
		join = RoundJoin
	}
	switch join {
	case RoundJoin:
		return s.arc(out, b, math.Atan2(u[1], u[0]), math.Atan2(sin, cos))
	case BevelJoin:
		return out
	}
	// The miter is 1/cos of half the turn as long as the width (SVG 1.1, 11.4).
	half := math.Sqrt(math.Max(0, (1+cos)/2))
	if half*math.Max(1, s.pen.MiterLimit) < 1 {
		return out
	}
	return append(out, plus(b, geom.Vec2{(u[0] + v[0]) / 2, (u[1] + v[1]) / 2}, 1/(half*half)))
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
