package motion

import (
	"errors"
	"math"

	"perigyre/core/geom"
	"perigyre/core/outline"
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

var errNoLine = errors.New("the path data draws no line; it looks like M 0 0 C 10 0 20 10 20 20")

// Drawn lays the first line of SVG path data (SVG 1.1, 8.3) on the floor: its x to the right, its y, which runs
// down, towards the front, its box as wide as is said. Data that draw no line are an error in a sentence.
func Drawn(data string, width float64) (*Path, error) {
	whole, err := outline.Parse(data)
	if err != nil {
		return nil, err
	}
	if len(whole) == 0 {
		return nil, errNoLine
	}
	line := whole[0]
	lo, hi := line.Bounds()
	k := width / math.Max(1e-12, math.Max(hi[0]-lo[0], hi[1]-lo[1]))
	to := func(p geom.Vec2) geom.Vec3 { return geom.Vec3{p[0] * k, 0, p[1] * k} }
	var pieces []piece
	a := to(line.Start)
	straight := func(d geom.Vec3) {
		if a != d {
			pieces = append(pieces, cubicPiece(a, a.Add(d.Sub(a).Mul(1.0/3)), d.Sub(d.Sub(a).Mul(1.0/3)), d))
		}
		a = d
	}
	for _, c := range line.Pieces {
		if c.Straight {
			straight(to(c.End))
			continue
		}
		d := to(c.End)
		if b, c := to(c.B), to(c.C); a != d || a != b || a != c {
			pieces = append(pieces, cubicPiece(a, b, c, d))
		}
		a = d
	}
	if line.Closed {
		straight(to(line.Start))
	}
	if len(pieces) == 0 {
		return nil, errNoLine
	}
	const cuts = 4 // of each piece, for the sums of its length
	n := float64(len(pieces))
	p := &Path{Closed: line.Closed}
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
