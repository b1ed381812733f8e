package planar

import "context"

// link is a corner of a chain, the border of what is triangulated already.
type link struct {
	v         int32
	low, high *link
}

// chain is the border on the left of what is not triangulated yet between two edges of a face, from the lower edge to the
// upper. It bulges to the right: corners that did not were cut off. The last that came is furthest to the right.
type chain struct{ low, high, last *link }

// triangulate triangulates all faces in one sweep, in time n log n (Hertel and Mehlhorn, "Fast triangulation of the plane
// with respect to simple polygons", 1985). Below and above are the faces on both sides of every edge.
func (a *Arrangement) triangulate(ctx context.Context, below, above []int) ([]Triangle, error) {
	var out []Triangle
	gaps := make([]*chain, len(a.edges)) // above each edge
	emit := func(i, j, k int32, face int) bool {
		if side(a.points[i], a.points[j], a.points[k]) <= 0 {
			return false
		}
		out = append(out, Triangle{[3]int32{i, j, k}, face})
		return true
	}
	onTop := func(c *chain, v int32, face int) { // a corner comes at the upper end
		for c.low != c.high && emit(c.high.low.v, v, c.high.v, face) {
			c.high = c.high.low
			c.high.high = nil
		}
		l := &link{v: v, low: c.high}
		c.high.high = l
		c.high, c.last = l, l
	}
	atFoot := func(c *chain, v int32, face int) { // and at the lower end
		for c.low != c.high && emit(c.low.v, v, c.low.high.v, face) {
			c.low = c.low.high
			c.low.low = nil
		}
		l := &link{v: v, high: c.low}
		c.low.low = l
		c.low, c.last = l, l
	}
	err := a.sweep(ctx, func(e int32) bool { return below[e] != above[e] }, func(v, under int32, ended, begun []int32) {
		var lower, upper *chain // below what begins here, and above it
		if len(ended) > 0 {
			if under != nothing && above[under] != Outside {
				lower = gaps[under]
				onTop(lower, v, above[under])
			}
			last := ended[len(ended)-1]
			for _, e := range ended[:len(ended)-1] { // between two that end
				if c := gaps[e]; above[e] != Outside {
					for l := c.low; l != c.high; l = l.high {
						emit(l.v, v, l.high.v, above[e])
					}
				}
				gaps[e] = nil
			}
			if above[last] != Outside {
				upper = gaps[last]
				atFoot(upper, v, above[last])
			}
			gaps[last] = nil
		} else if under != nothing && above[under] != Outside {
			// It lies within a face, and sees the corner that came last.
			c, face := gaps[under], above[under]
			lower = &chain{low: c.low, high: c.last}
			upper = &chain{low: &link{v: c.last.v, high: c.last.high}, high: c.high}
			if c.last == c.high {
				upper.high = upper.low
			} else {
				c.last.high.low = upper.low
			}
			c.last.high = nil
			onTop(lower, v, face)
			atFoot(upper, v, face)
		}
		if len(begun) == 0 {
			if lower != nil && upper != nil { // two gaps are one now, and the corner between them came last
				lower.high.high = upper.low.high
				if upper.low.high != nil {
					upper.low.high.low = lower.high
					lower.high = upper.high
				}
				gaps[under] = lower
			}
			return
		}
		if under != nothing {
			gaps[under] = lower
		}
		for _, e := range begun[:len(begun)-1] {
			if above[e] != Outside {
				l := &link{v: v}
				gaps[e] = &chain{l, l, l}
			}
		}
		gaps[begun[len(begun)-1]] = upper
	})
	return out, err
}
