// Package planar divides the plane by closed lines, and cannot fail on how they lie: crossings, doubled edges, corners
// that touch and lines that all but coincide are brought to an integer grid by snap rounding (Hobby, "Practical segment
// intersection with finite precision output", 1999), after which lines meet at corners alone and every question about
// them is answered exactly. Areas are told by winding numbers, and triangulated in a sweep.
package planar

import (
	"cmp"
	"context"
	"errors"
	"math"
	"slices"

	"perigyre/core/geom"
)

// Rule says which winding numbers are inside.
type Rule int

// The winding rules of drawings (SVG 1.1, 11.3), and that of what winds counter-clockwise.
const (
	NonZero Rule = iota
	EvenOdd
	Positive
)

// Layer is an area by its closed lines, the last point of each joined to its first. Lines may cross themselves and each
// other, and run either way round.
type Layer struct {
	Lines [][]geom.Vec2
	Rule  Rule
}

// What an arrangement may come to: lines that go in, pairs of them that are compared, and edges that come out.
const (
	MaxLines = 4_000_000
	maxPairs = 1_000_000_000
	maxEdges = 3_000_000
)

// Arrangement is the plane divided by layers. Its points are in the order of the sweep.
type Arrangement struct {
	grid   grid
	points []point
	edges  []edge
	rules  []Rule
}

// edge is a straight line between two points, the first of which comes first in the sweep, with what it changes in the
// winding numbers of layers from below it, or from its right where it is upright, to above.
type edge struct {
	a, b         int32
	changes      []change
	below, above *Cover
}

type change struct{ layer, winding int32 }

var errNotANumber = errors.New("a coordinate is not a number")
var errTangled = errors.New("its lines cross each other too often; simplify it before it is exported")

// line is one straight piece that goes in: the first of its ends is first in the sweep.
type line struct {
	p, q    point
	changes []change
}

// Arrange divides the plane by layers, in time near-linear in their lines and crossings. It returns an error in a
// sentence for coordinates that are no numbers and for more work than the limits allow, and that of the context where it
// ends first.
func Arrange(ctx context.Context, layers ...Layer) (*Arrangement, error) {
	lo, hi := geom.Vec2{math.Inf(1), math.Inf(1)}, geom.Vec2{math.Inf(-1), math.Inf(-1)}
	n := 0
	for _, l := range layers {
		for _, points := range l.Lines {
			n += len(points)
			for _, p := range points {
				if !(math.Abs(p[0]) < 1e15 && math.Abs(p[1]) < 1e15) {
					return nil, errNotANumber
				}
				lo = geom.Vec2{math.Min(lo[0], p[0]), math.Min(lo[1], p[1])}
				hi = geom.Vec2{math.Max(hi[0], p[0]), math.Max(hi[1], p[1])}
			}
		}
	}
	a := &Arrangement{rules: make([]Rule, len(layers))}
	for i, l := range layers {
		a.rules[i] = l.Rule
	}
	if n == 0 {
		return a, nil
	}
	if n > MaxLines {
		return nil, errTangled
	}
	a.grid = gridOver(lo, hi)
	lines := a.lines(layers, n)
	if len(lines) == 0 {
		return a, nil
	}
	points, err := corners(ctx, lines)
	if err != nil {
		return nil, err
	}
	a.points = points
	if err := a.cut(ctx, lines); err != nil {
		return nil, err
	}
	return a, a.wind(ctx)
}

// lines brings layers to the grid: each line once, with what it changes in each layer.
func (a *Arrangement) lines(layers []Layer, n int) []line {
	type raw struct {
		p, q point
		change
	}
	all := make([]raw, 0, n)
	for i, l := range layers {
		for _, points := range l.Lines {
			if len(points) < 2 {
				continue
			}
			p := a.grid.to(points[len(points)-1])
			for _, v := range points {
				q := a.grid.to(v)
				switch {
				case p.before(q):
					all = append(all, raw{p, q, change{int32(i), 1}})
				case q.before(p):
					all = append(all, raw{q, p, change{int32(i), -1}})
				}
				p = q
			}
		}
	}
	slices.SortFunc(all, func(a, b raw) int {
		return cmp.Or(a.p.compare(b.p), a.q.compare(b.q), cmp.Compare(a.layer, b.layer))
	})
	var out []line
	for _, r := range all {
		if k := len(out) - 1; k < 0 || out[k].p != r.p || out[k].q != r.q {
			out = append(out, line{p: r.p, q: r.q})
		}
		l := &out[len(out)-1]
		l.changes = added(l.changes, r.change)
	}
	return slices.DeleteFunc(out, func(l line) bool { return len(l.changes) == 0 })
}

// added adds a change to others, which are in the order of their layers.
func added(to []change, c change) []change {
	k, found := slices.BinarySearchFunc(to, c, func(a, b change) int { return cmp.Compare(a.layer, b.layer) })
	if !found {
		return slices.Insert(to, k, c)
	}
	if to[k].winding += c.winding; to[k].winding == 0 {
		return slices.Delete(to, k, k+1)
	}
	return to
}

// cut cuts lines at every corner whose pixel they pass through, and joins the pieces that coincide.
func (a *Arrangement) cut(ctx context.Context, lines []line) error {
	type piece struct {
		a, b, line int32
		turned     bool // against the way of its line, which a corner's pixel may do
	}
	tree := newTree(a.points)
	pieces := make([]piece, 0, 2*len(lines))
	var hit []int32
	for i, l := range lines {
		if i%1024 == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
		hit = tree.along(l.p, l.q, hit[:0])
		d := l.q.sub(l.p)
		slices.SortFunc(hit, func(i, j int32) int {
			p, q := a.points[i].sub(l.p), a.points[j].sub(l.p)
			return cmp.Compare(p.x*d.x+p.y*d.y, q.x*d.x+q.y*d.y)
		})
		for k := 0; k+1 < len(hit); k++ {
			// Points are in the order of the sweep, and so are their numbers.
			p := piece{hit[k], hit[k+1], int32(i), false}
			if p.a > p.b {
				p.a, p.b, p.turned = p.b, p.a, true
			}
			pieces = append(pieces, p)
		}
		if len(pieces) > maxEdges {
			return errTangled
		}
	}
	slices.SortFunc(pieces, func(p, q piece) int { return cmp.Or(cmp.Compare(p.a, q.a), cmp.Compare(p.b, q.b)) })
	for k, p := range pieces {
		changes := lines[p.line].changes
		alone := (k == 0 || pieces[k-1].a != p.a || pieces[k-1].b != p.b) && !p.turned
		if alone {
			// What is shared is copied before it is changed.
			a.edges = append(a.edges, edge{a: p.a, b: p.b, changes: changes[:len(changes):len(changes)]})
			continue
		}
		if n := len(a.edges) - 1; n < 0 || a.edges[n].a != p.a || a.edges[n].b != p.b {
			a.edges = append(a.edges, edge{a: p.a, b: p.b})
		}
		e := &a.edges[len(a.edges)-1]
		e.changes = slices.Clone(e.changes)
		for _, c := range changes {
			if p.turned {
				c.winding = -c.winding
			}
			e.changes = added(e.changes, c)
		}
	}
	a.edges = slices.DeleteFunc(a.edges, func(e edge) bool { return len(e.changes) == 0 })
	return nil
}
