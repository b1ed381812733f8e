package outline

import (
	"math"

	"perigyre/core/geom"
)

// Piece is a straight line or a cubic Bezier curve, from where the piece before it ends.
type Piece struct {
	Straight bool
	B, C     geom.Vec2 // the handles of a curve
	End      geom.Vec2
	Within   bool // an arc of the drawing goes on beyond the end
}

// Line is a run of pieces. One that is closed ends where it starts, by a straight piece if need be.
type Line struct {
	Start  geom.Vec2
	Pieces []Piece
	Closed bool
}

// Path is a set of lines.
type Path []Line

// MoveTo begins a line.
func (p *Path) MoveTo(to geom.Vec2) { *p = append(*p, Line{Start: to}) }

// last returns the line that goes on: a new one, from where the one before was closed, after that.
func (p *Path) last() *Line {
	if len(*p) == 0 {
		p.MoveTo(geom.Vec2{})
	}
	l := &(*p)[len(*p)-1]
	if l.Closed {
		p.MoveTo(l.Start)
		l = &(*p)[len(*p)-1]
	}
	return l
}

// At returns where the path has come to.
func (p Path) At() geom.Vec2 {
	if len(p) == 0 {
		return geom.Vec2{}
	}
	return p[len(p)-1].End()
}

// End returns the last point of a line.
func (l *Line) End() geom.Vec2 {
	if n := len(l.Pieces); n > 0 && !l.Closed {
		return l.Pieces[n-1].End
	}
	return l.Start
}

// LineTo goes on straight.
func (p *Path) LineTo(to geom.Vec2) {
	l := p.last()
	l.Pieces = append(l.Pieces, Piece{Straight: true, End: to})
}

// CubeTo goes on by a cubic curve.
func (p *Path) CubeTo(b, c, to geom.Vec2) {
	l := p.last()
	l.Pieces = append(l.Pieces, Piece{B: b, C: c, End: to})
}

// QuadTo goes on by a quadratic curve.
func (p *Path) QuadTo(b, to geom.Vec2) {
	a := p.last().End()
	p.CubeTo(mix(a, b, 2.0/3), mix(to, b, 2.0/3), to)
}

// Close closes the line.
func (p *Path) Close() {
	if len(*p) > 0 {
		(*p)[len(*p)-1].Closed = true
	}
}

func mix(a, b geom.Vec2, t float64) geom.Vec2 {
	return geom.Vec2{a[0] + (b[0]-a[0])*t, a[1] + (b[1]-a[1])*t}
}

// finestArc is the turn of one curve of an arc, which differs from it by 1e-9 of the radius.
const finestArc = math.Pi / 16

// ArcTo goes on by an elliptic arc: its centre and angles by SVG 1.1, appendix F.6, phi in radians.
func (p *Path) ArcTo(rx, ry, phi float64, large, sweep bool, to geom.Vec2) {
	from := p.last().End()
	rx, ry = math.Abs(rx), math.Abs(ry)
	if from == to {
		return
	}
	if !(rx > 0 && ry > 0) {
		p.LineTo(to)
		return
	}
	sin, cos := math.Sincos(phi)
	dx, dy := (from[0]-to[0])/2, (from[1]-to[1])/2
	x, y := cos*dx+sin*dy, -sin*dx+cos*dy
	if over := math.Hypot(x/rx, y/ry); over > 1 { // too small to reach: as large as needed (F.6.6)
		rx, ry = rx*over, ry*over
	}
	u, v := x/rx, y/ry
	k := math.Sqrt(math.Max(0, 1/(u*u+v*v)-1))
	if large == sweep {
		k = -k
	}
	cu, cv := k*v, -k*u // the centre, where the ellipse is a circle of radius 1
	begin := math.Atan2(v-cv, u-cu)
	turn := math.Atan2(-v-cv, -u-cu) - begin
	if sweep && turn < 0 {
		turn += 2 * math.Pi
	} else if !sweep && turn > 0 {
		turn -= 2 * math.Pi
	}
	place := Moved((from[0]+to[0])/2, (from[1]+to[1])/2).Mul(Affine{cos, sin, -sin, cos, 0, 0}).Mul(Scaled(rx, ry)).Mul(Moved(cu, cv))
	p.arc(place, begin, turn, to)
}

// arc goes on along the unit circle, placed, to a point that is where it ends.
func (p *Path) arc(place Affine, begin, turn float64, to geom.Vec2) {
	n := max(1, int(math.Ceil(math.Abs(turn)/finestArc-1e-9)))
	h := 4.0 / 3 * math.Tan(turn/float64(n)/4)
	for i := range n {
		s0, c0 := math.Sincos(begin + turn*float64(i)/float64(n))
		s1, c1 := math.Sincos(begin + turn*float64(i+1)/float64(n))
		end := place.Point(geom.Vec2{c1, s1})
		if i == n-1 {
			end = to
		}
		p.CubeTo(place.Point(geom.Vec2{c0 - h*s0, s0 + h*c0}), place.Point(geom.Vec2{c1 + h*s1, s1 - h*c1}), end)
		l := &(*p)[len(*p)-1]
		l.Pieces[len(l.Pieces)-1].Within = i < n-1
	}
}

// Ellipse returns a closed ellipse, from its right end towards y.
func Ellipse(cx, cy, rx, ry float64) Path {
	var p Path
	start := geom.Vec2{cx + rx, cy}
	p.MoveTo(start)
	p.arc(Moved(cx, cy).Mul(Scaled(rx, ry)), 0, 2*math.Pi, start)
	p.Close()
	return p
}

// Transform returns the path where an affine map takes it.
func (p Path) Transform(m Affine) Path {
	out := make(Path, len(p))
	for i, l := range p {
		out[i] = Line{Start: m.Point(l.Start), Pieces: make([]Piece, len(l.Pieces)), Closed: l.Closed}
		for k, c := range l.Pieces {
			out[i].Pieces[k] = Piece{c.Straight, m.Point(c.B), m.Point(c.C), m.Point(c.End), c.Within}
		}
	}
	return out
}

// Polyline is a line whose curves are made straight. Smooth says of each point whether it lies within a curve.
type Polyline struct {
	Points []geom.Vec2
	Smooth []bool
	Closed bool // the last point goes on to the first, which it is not
}

const finestCurve = 4000 // straight pieces that one curve becomes at most

// Flatten makes curves straight, nowhere further off than a tolerance: in even steps of the parameter, as many as the
// second differences of the handles ask for (Wang, "The subdivision method for finding the intersection between two
// Bezier curves or surfaces", 1984). Points that stand twice are left out.
func (p Path) Flatten(tolerance float64) []Polyline {
	out := make([]Polyline, 0, len(p))
	for _, l := range p {
		f := Polyline{Closed: l.Closed}
		add := func(q geom.Vec2, smooth bool) {
			if n := len(f.Points); n > 0 && f.Points[n-1] == q {
				f.Smooth[n-1] = f.Smooth[n-1] && smooth
				return
			}
			f.Points, f.Smooth = append(f.Points, q), append(f.Smooth, smooth)
		}
		add(l.Start, false)
		a := l.Start
		for _, c := range l.Pieces {
			n := 1
			if !c.Straight {
				far := math.Max(bow(a, c.B, c.C), bow(c.B, c.C, c.End))
				n = int(math.Min(finestCurve, math.Ceil(math.Sqrt(0.75*far/tolerance))))
			}
			for k := 1; k < n; k++ {
				t := float64(k) / float64(n)
				add(cubic(a, c.B, c.C, c.End, t), true)
			}
			add(c.End, false)
			a = c.End
		}
		for n := len(f.Points); f.Closed && n > 1 && f.Points[n-1] == f.Points[0]; n-- {
			f.Points, f.Smooth = f.Points[:n-1], f.Smooth[:n-1]
		}
		out = append(out, f)
	}
	return out
}

func bow(a, b, c geom.Vec2) float64 { return math.Hypot(a[0]-2*b[0]+c[0], a[1]-2*b[1]+c[1]) }

func cubic(a, b, c, d geom.Vec2, t float64) geom.Vec2 {
	r := 1 - t
	k := [4]float64{r * r * r, 3 * r * r * t, 3 * r * t * t, t * t * t}
	return geom.Vec2{k[0]*a[0] + k[1]*b[0] + k[2]*c[0] + k[3]*d[0], k[0]*a[1] + k[1]*b[1] + k[2]*c[1] + k[3]*d[1]}
}

// Length returns how long a line of straight pieces is.
func (f Polyline) Length() float64 {
	sum := 0.0
	for i := 1; i < len(f.Points); i++ {
		sum += f.Points[i].Sub(f.Points[i-1]).Len()
	}
	if n := len(f.Points); f.Closed && n > 1 {
		sum += f.Points[0].Sub(f.Points[n-1]).Len()
	}
	return sum
}

// Bounds returns the corners of the box round all lines, and false where there are none or they are not finite.
func (p Path) Bounds() (lo, hi geom.Vec2, ok bool) {
	lo, hi = geom.Vec2{math.Inf(1), math.Inf(1)}, geom.Vec2{math.Inf(-1), math.Inf(-1)}
	for i := range p {
		a, b := p[i].Bounds()
		lo = geom.Vec2{math.Min(lo[0], a[0]), math.Min(lo[1], a[1])}
		hi = geom.Vec2{math.Max(hi[0], b[0]), math.Max(hi[1], b[1])}
	}
	w := hi[0] - lo[0] + hi[1] - lo[1]
	return lo, hi, w >= 0 && !math.IsInf(w, 0)
}

// Bounds returns the corners of the line's box, its curves at their furthest: where their derivatives are zero.
func (l *Line) Bounds() (lo, hi geom.Vec2) {
	lo, hi = l.Start, l.Start
	a := l.Start
	for _, c := range l.Pieces {
		for k := range 2 {
			with := func(v float64) { lo[k], hi[k] = math.Min(lo[k], v), math.Max(hi[k], v) }
			with(c.End[k])
			if c.Straight {
				continue
			}
			p, q, r := c.B[k]-a[k], c.C[k]-c.B[k], c.End[k]-c.C[k] // the derivative is p(1-t)^2 + 2qt(1-t) + rt^2
			u, v := p-2*q+r, p-q
			root := math.Sqrt(math.Max(0, v*v-u*p))
			for _, t := range [3]float64{(v + root) / u, (v - root) / u, p / (2 * v)} {
				if t > 0 && t < 1 {
					with(cubic(a, c.B, c.C, c.End, t)[k])
				}
			}
		}
		a = c.End
	}
	return lo, hi
}
