package planar

import (
	"cmp"
	"context"
	"slices"

	"perigyre/core/geom"
)

// Inside reports whether a layer's rule takes the place as inside it.
func (a *Arrangement) Inside(c *Cover, layer int) bool { return a.in(layer, c.Winding(layer)) }

func (a *Arrangement) in(layer, winding int) bool {
	switch a.rules[layer] {
	case EvenOdd:
		return winding%2 != 0
	case Positive:
		return winding > 0
	}
	return winding != 0
}

// Point returns a point of the arrangement by its number.
func (a *Arrangement) Point(k int32) geom.Vec2 { return a.grid.from(a.points[k]) }

// Points returns how many points there are.
func (a *Arrangement) Points() int { return len(a.points) }

// Nearest returns the number of the point that a corner of a line became, or -1.
func (a *Arrangement) Nearest(p geom.Vec2) int {
	if k, ok := slices.BinarySearchFunc(a.points, a.grid.to(p), point.compare); ok {
		return k
	}
	return -1
}

// Edge is a straight piece of the border between two faces: what is on its left and on its right on the way from A to B.
type Edge struct {
	A, B        int32
	Left, Right int
}

// Triangle is one of a face, counter-clockwise.
type Triangle struct {
	Corners [3]int32
	Face    int
}

// Faces are areas by number, each triangulated, and the borders between them. Where two meet, they share their corners.
type Faces struct {
	Triangles []Triangle
	Edges     []Edge
}

// Outside is the face that is not made.
const Outside = -1

// Faces parts the plane into faces: of tells which a place belongs to by what covers it, or Outside.
func (a *Arrangement) Faces(ctx context.Context, of func(*Cover) int) (*Faces, error) {
	below, above := make([]int, len(a.edges)), make([]int, len(a.edges))
	out := &Faces{}
	for i, e := range a.edges {
		below[i], above[i] = of(e.below), of(e.above)
		if below[i] != above[i] {
			out.Edges = append(out.Edges, Edge{e.a, e.b, above[i], below[i]})
		}
	}
	var err error
	out.Triangles, err = a.triangulate(ctx, below, above)
	return out, err
}

// Outlines returns the borders of areas that may overlap, by number: of calls add for each that a place belongs to. Outer
// loops run counter-clockwise, those round holes clockwise; loops touch at corners and never cross.
func (a *Arrangement) Outlines(areas int, of func(c *Cover, add func(area int))) [][][]geom.Vec2 {
	var halves []halfEdge
	var below, above []int
	in := func(c *Cover, list []int) []int {
		list = list[:0]
		of(c, func(k int) { list = append(list, k) })
		slices.Sort(list)
		return slices.Compact(list)
	}
	for _, e := range a.edges {
		below, above = in(e.below, below), in(e.above, above)
		i, j := 0, 0
		for i < len(below) || j < len(above) {
			switch {
			case j == len(above) || i < len(below) && below[i] < above[j]:
				halves = append(halves, halfEdge{area: below[i], from: e.b, to: e.a})
				i++
			case i == len(below) || above[j] < below[i]:
				halves = append(halves, halfEdge{area: above[j], from: e.a, to: e.b})
				j++
			default:
				i, j = i+1, j+1
			}
		}
	}
	slices.SortFunc(halves, func(x, y halfEdge) int { return cmp.Or(cmp.Compare(x.area, y.area), cmp.Compare(x.from, y.from)) })
	out := make([][][]geom.Vec2, areas)
	for from := 0; from < len(halves); {
		to := from
		for to < len(halves) && halves[to].area == halves[from].area {
			to++
		}
		out[halves[from].area] = a.loops(halves[from:to])
		from = to
	}
	return out
}

// halfEdge is a piece of the border of an area, which is on its left.
type halfEdge struct {
	area     int
	from, to int32
	used     bool
}

// loops joins the borders of one area, which are in the order of where they begin.
func (a *Arrangement) loops(edges []halfEdge) [][]geom.Vec2 {
	after := func(e halfEdge) int {
		k, _ := slices.BinarySearchFunc(edges, e.to, func(x halfEdge, v int32) int { return cmp.Compare(x.from, v) })
		best := k
		// Of several the first clockwise from where it came: the area between the two is on the left of both.
		back := a.points[e.from].sub(a.points[e.to])
		for k++; k < len(edges) && edges[k].from == e.to; k++ {
			at := a.points[e.to]
			if clockwise(back, a.points[edges[k].to].sub(at), a.points[edges[best].to].sub(at)) {
				best = k
			}
		}
		return best
	}
	var out [][]geom.Vec2
	for k := range edges {
		var loop []int32
		for at := k; !edges[at].used; at = after(edges[at]) {
			edges[at].used = true
			loop = append(loop, edges[at].from)
		}
		if points := a.straightened(loop); len(points) > 2 {
			out = append(out, points)
		}
	}
	return out
}

// clockwise reports whether u comes before v on the way clockwise from a direction.
func clockwise(from, u, v point) bool {
	turn := func(d point) int { // 0 for the half turn that comes first
		if c := cross(from, d); c < 0 || c == 0 && from.x*d.x+from.y*d.y < 0 {
			return 0
		}
		return 1
	}
	if x, y := turn(u), turn(v); x != y {
		return x < y
	}
	return cross(u, v) < 0
}

// straightened leaves out the corners at which a loop goes straight on.
func (a *Arrangement) straightened(loop []int32) []geom.Vec2 {
	var out []geom.Vec2
	n := len(loop)
	for i, v := range loop {
		p, q, r := a.points[loop[(i+n-1)%n]], a.points[v], a.points[loop[(i+1)%n]]
		if d, e := q.sub(p), r.sub(q); cross(d, e) != 0 || d.x*e.x+d.y*e.y < 0 {
			out = append(out, a.grid.from(q))
		}
	}
	return out
}
