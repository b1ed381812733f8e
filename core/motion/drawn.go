package motion

import (
	"fmt"
	"math"

	"github.com/tdewolff/canvas"

	"perigyre/core/geom"
)

// piece is a smooth piece of a line: a point and a derivative at 0 to 1.
type piece func(s float64) (p, d geom.Vec3)

// cubicPiece is a cubic Bezier curve.
func cubicPiece(a, b, c, e geom.Vec3) piece {
	return func(s float64) (p, d geom.Vec3) {
		r := 1 - s
		p = a.Mul(r * r * r).Add(b.Mul(3 * r * r * s)).Add(c.Mul(3 * r * s * s)).Add(e.Mul(s * s * s))
		d = b.Sub(a).Mul(3 * r * r).Add(c.Sub(b).Mul(6 * r * s)).Add(e.Sub(c).Mul(3 * s * s))
		return p, d
	}
}

// arcPiece is an elliptic arc from one point of the plane to another, its centre and angles from SVG 1.1,
// appendix F.6.5.
func arcPiece(from, to canvas.Point, rx, ry, phi float64, large, sweep bool, place func(canvas.Point) geom.Vec3) piece {
	sin, cos := math.Sincos(phi)
	dx, dy := (from.X-to.X)/2, (from.Y-to.Y)/2
	x, y := cos*dx+sin*dy, -sin*dx+cos*dy
	if over := math.Sqrt(x*x/(rx*rx) + y*y/(ry*ry)); over > 1 { // too small to reach: as large as needed (F.6.6)
		rx, ry = rx*over, ry*over
	}
	k := math.Sqrt(math.Max(0, (rx*rx*ry*ry-rx*rx*y*y-ry*ry*x*x)/(rx*rx*y*y+ry*ry*x*x)))
	if large == sweep {
		k = -k
	}
	cx, cy := k*rx*y/ry, -k*ry*x/rx
	begin := math.Atan2((y-cy)/ry, (x-cx)/rx)
	turn := math.Atan2((-y-cy)/ry, (-x-cx)/rx) - begin
	if sweep && turn < 0 {
		turn += 2 * math.Pi
	} else if !sweep && turn > 0 {
		turn -= 2 * math.Pi
	}
	mx, my := cos*cx-sin*cy+(from.X+to.X)/2, sin*cx+cos*cy+(from.Y+to.Y)/2
	origin := place(canvas.Point{})
	return func(s float64) (p, d geom.Vec3) {
		b, a := math.Sincos(begin + turn*s)
		u, v := rx*a, ry*b
		du, dv := -rx*b*turn, ry*a*turn
		p = place(canvas.Point{X: mx + cos*u - sin*v, Y: my + sin*u + cos*v})
		return p, place(canvas.Point{X: cos*du - sin*dv, Y: sin*du + cos*dv}).Sub(origin)
	}
}

// Drawn lays the first line of SVG path data (SVG 1.1, 8.3) on the floor: its x to the right, its y, which runs
// down, towards the front, its box as wide as is said. Data that draw no line are an error in a sentence.
func Drawn(data string, width float64) (*Path, error) {
	whole, err := canvas.ParseSVGPath(data)
	if err != nil {
		return nil, fmt.Errorf("the path data cannot be read: %w", err)
	}
	lines := whole.Split()
	if len(lines) == 0 || !(lines[0].Length() > 0) {
		return nil, fmt.Errorf("the path data draws no line; it looks like M 0 0 C 10 0 20 10 20 20")
	}
	line := lines[0]
	box := line.Bounds()
	k := width / math.Max(1e-12, math.Max(box.W(), box.H()))
	to := func(p canvas.Point) geom.Vec3 { return geom.Vec3{p.X * k, 0, p.Y * k} }
	var pieces []piece
	for s := line.Scanner(); s.Scan(); {
		a, d := to(s.Start()), to(s.End())
		switch s.Cmd() {
		case canvas.MoveToCmd:
		case canvas.QuadToCmd:
			q := to(s.CP1())
			pieces = append(pieces, cubicPiece(a, a.Add(q.Sub(a).Mul(2.0/3)), d.Add(q.Sub(d).Mul(2.0/3)), d))
		case canvas.CubeToCmd:
			pieces = append(pieces, cubicPiece(a, to(s.CP1()), to(s.CP2()), d))
		case canvas.ArcToCmd:
			rx, ry, phi, large, sweep := s.Arc()
			pieces = append(pieces, arcPiece(s.Start(), s.End(), rx, ry, phi, large, sweep, to))
		default:
			if a != d {
				pieces = append(pieces, cubicPiece(a, a.Add(d.Sub(a).Mul(1.0/3)), d.Sub(d.Sub(a).Mul(1.0/3)), d))
			}
		}
	}
	if len(pieces) == 0 {
		return nil, fmt.Errorf("the path data draws no line; it looks like M 0 0 C 10 0 20 10 20 20")
	}
	const cuts = 4 // of each piece, for the sums of its length
	n := float64(len(pieces))
	p := &Path{Closed: line.Closed()}
	for i := range len(pieces)*cuts + 1 {
		p.knots = append(p.knots, float64(i)/(n*cuts))
	}
	p.at = func(u float64) (geom.Vec3, geom.Vec3) {
		i := max(0, min(len(pieces)-1, int(u*n)))
		q, d := pieces[i](u*n - float64(i))
		return q, d.Mul(n)
	}
	return p.measured(), nil
}
