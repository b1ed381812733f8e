package planar

import (
	"cmp"
	"context"
	"slices"

	"github.com/google/btree"
)

const nothing = int32(-1)

// visit is what happens at a point of the sweep: the edge next below it, or nothing; the edges that end there and those
// that begin there, the lowest first.
type visit func(v, below int32, ended, begun []int32)

// sweep goes through the points from left to right. Edges that are not kept are as if they were not there.
func (a *Arrangement) sweep(ctx context.Context, keep func(e int32) bool, do visit) error {
	n := len(a.points)
	begins, ends := make([]int32, n+1), make([]int32, n+1)
	for i := range a.edges {
		if keep(int32(i)) {
			begins[a.edges[i].a+1]++
			ends[a.edges[i].b+1]++
		}
	}
	for i := range n {
		begins[i+1] += begins[i]
		ends[i+1] += ends[i]
	}
	begun, ended := make([]int32, begins[n]), make([]int32, ends[n])
	nextBegun, nextEnded := slices.Clone(begins), slices.Clone(ends)
	for i := range a.edges {
		if keep(int32(i)) {
			e := a.edges[i]
			begun[nextBegun[e.a]] = int32(i)
			ended[nextEnded[e.b]] = int32(i)
			nextBegun[e.a]++
			nextEnded[e.b]++
		}
	}
	var at point // looked for by the edge "nothing"
	status := btree.NewG(16, func(e, f int32) bool {
		if e == f {
			return false
		}
		if e == nothing {
			return side(a.points[a.edges[f].a], a.points[a.edges[f].b], at) < 0
		}
		if f == nothing {
			return side(a.points[a.edges[e].a], a.points[a.edges[e].b], at) > 0
		}
		x, y := &a.edges[e], &a.edges[f]
		if x.a == y.a {
			return cross(a.points[x.b].sub(a.points[x.a]), a.points[y.b].sub(a.points[y.a])) > 0
		}
		if x.a > y.a { // it began later, beside the other
			return side(a.points[y.a], a.points[y.b], a.points[x.a]) < 0
		}
		return side(a.points[x.a], a.points[x.b], a.points[y.a]) > 0
	})
	for v := range int32(n) {
		if v%4096 == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
		in, out := ended[ends[v]:ends[v+1]], begun[begins[v]:begins[v+1]]
		if len(in)+len(out) == 0 {
			continue
		}
		at = a.points[v]
		slices.SortFunc(in, func(e, f int32) int {
			return cmp.Compare(cross(a.points[a.edges[e].a].sub(at), a.points[a.edges[f].a].sub(at)), 0)
		})
		slices.SortFunc(out, func(e, f int32) int {
			return -cmp.Compare(cross(a.points[a.edges[e].b].sub(at), a.points[a.edges[f].b].sub(at)), 0)
		})
		for _, e := range in {
			status.Delete(e)
		}
		below := nothing
		status.DescendLessOrEqual(nothing, func(e int32) bool {
			below = e
			return false
		})
		do(v, below, in, out)
		for _, e := range out {
			status.ReplaceOrInsert(e)
		}
	}
	return nil
}

// wind works out what covers the plane below and above every edge.
func (a *Arrangement) wind(ctx context.Context) error {
	return a.sweep(ctx, func(int32) bool { return true }, func(_, below int32, _, begun []int32) {
		var c *Cover
		if below != nothing {
			c = a.edges[below].above
		}
		for _, e := range begun {
			a.edges[e].below = c
			for _, ch := range a.edges[e].changes {
				c = c.changed(ch)
			}
			a.edges[e].above = c
		}
	})
}
