package planar

import (
	"context"
	"slices"
)

// corners returns the ends of lines and the points nearest to where lines cross, each once, in the order of the sweep.
func corners(ctx context.Context, lines []line) ([]point, error) {
	f := finder{ctx: ctx, lines: lines, enough: maxEdges}
	all := make([]int32, len(lines))
	for i, l := range lines {
		all[i] = int32(i)
		f.found = append(f.found, l.p, l.q)
	}
	if err := f.divide(all, box{point{-1 << 26, -1 << 26}, point{1 << 26, 1 << 26}}, 0); err != nil {
		return nil, err
	}
	slices.SortFunc(f.found, point.compare)
	return slices.Compact(f.found), nil
}

// finder finds crossings by dividing the plane until few lines are left in a cell, or until dividing no longer parts them.
type finder struct {
	ctx   context.Context
	lines []line
	found []point
	pairs int
	// enough is how many may be found before those that were found twice are looked for.
	enough int
}

const fewLines, deepest = 12, 60

func (f *finder) divide(in []int32, cell box, depth int) error {
	if f.pairs += len(in); len(in) <= fewLines || depth > deepest {
		return f.compare(in)
	}
	round := boxOf(f.lines[in[0]].p, f.lines[in[0]].q)
	for _, i := range in[1:] {
		round = round.with(boxOf(f.lines[i].p, f.lines[i].q))
	}
	cell = cell.within(round)
	w, h := cell.hi.x-cell.lo.x, cell.hi.y-cell.lo.y
	if w < 2 && h < 2 {
		return f.compare(in)
	}
	mx, my := cell.lo.x+w/2, cell.lo.y+h/2
	wide := []box{{cell.lo, point{mx, cell.hi.y}}, {point{mx, cell.lo.y}, cell.hi}}
	high := []box{{cell.lo, point{cell.hi.x, my}}, {point{cell.lo.x, my}, cell.hi}}
	first, second := wide, high
	if h > w {
		first, second = high, wide
	}
	four := []box{wide[0].within(high[0]), wide[0].within(high[1]), wide[1].within(high[0]), wide[1].within(high[1])}
	for _, way := range [][]box{first, second, four} {
		parts := make([][]int32, len(way))
		total, cost := 0, 0.0
		for k, b := range way {
			for _, i := range in {
				if b.reaches(f.lines[i].p, f.lines[i].q) {
					parts[k] = append(parts[k], i)
				}
			}
			total += len(parts[k])
			cost += float64(len(parts[k])) * float64(len(parts[k]))
		}
		// Few lines in both halves, or far fewer pairs to compare: it is worth it.
		if total > len(in)*5/4 && cost > 0.8*float64(len(in))*float64(len(in)) {
			continue
		}
		for k, b := range way {
			if err := f.divide(parts[k], b, depth+1); err != nil {
				return err
			}
		}
		return nil
	}
	return f.compare(in)
}

func (f *finder) compare(in []int32) error {
	if f.pairs += len(in) * (len(in) - 1) / 2; f.pairs > maxPairs {
		return errTangled
	}
	for k, i := range in {
		a := &f.lines[i]
		if len(in) > 1000 && k%100 == 0 && f.ctx.Err() != nil {
			return f.ctx.Err()
		}
		low, high := min(a.p.y, a.q.y), max(a.p.y, a.q.y)
		for _, j := range in[k+1:] {
			b := &f.lines[j]
			if b.p.x > a.q.x || b.q.x < a.p.x || min(b.p.y, b.q.y) > high || max(b.p.y, b.q.y) < low {
				continue
			}
			if a.p == b.p || a.q == b.q || a.p == b.q || a.q == b.p {
				continue // they meet at a corner, or run along each other
			}
			if p, ok := meeting(a.p, a.q, b.p, b.q); ok {
				f.found = append(f.found, p)
			}
		}
	}
	if len(f.found) > f.enough {
		slices.SortFunc(f.found, point.compare) // cells find some of them twice
		if f.found = slices.Compact(f.found); len(f.found) > maxEdges/2 {
			return errTangled
		}
		f.enough = 2 * max(maxEdges/2, len(f.found))
	}
	return f.ctx.Err()
}

// tree finds the corners whose pixels a line passes through.
type tree struct {
	points []point
	order  []int32
	nodes  []treeNode
}

type treeNode struct {
	box      box
	from, to int32 // of the order
	second   int32 // of the two nodes in it, the first of which follows it; 0 for a leaf
}

func newTree(points []point) *tree {
	t := &tree{points: points, order: make([]int32, len(points))}
	for i := range t.order {
		t.order[i] = int32(i)
	}
	t.build(0, len(points))
	return t
}

func (t *tree) build(from, to int) {
	at := len(t.nodes)
	in := t.order[from:to]
	b := boxOf(t.points[in[0]], t.points[in[0]])
	for _, i := range in[1:] {
		b = b.with(boxOf(t.points[i], t.points[i]))
	}
	t.nodes = append(t.nodes, treeNode{box: b, from: int32(from), to: int32(to)})
	if len(in) <= 8 {
		return
	}
	// The middle of the longer side parts what is in it: there are points at both its ends.
	upright := b.hi.y-b.lo.y > b.hi.x-b.lo.x
	middle := b.lo.x + (b.hi.x-b.lo.x)/2
	if upright {
		middle = b.lo.y + (b.hi.y-b.lo.y)/2
	}
	k := 0
	for i, v := range in {
		p := t.points[v]
		if c := p.x; upright && p.y <= middle || !upright && c <= middle {
			in[i], in[k] = in[k], in[i]
			k++
		}
	}
	t.build(from, from+k)
	t.nodes[at].second = int32(len(t.nodes))
	t.build(from+k, to)
}

func (t *tree) along(p, q point, out []int32) []int32 {
	stack := make([]int32, 1, 64)
	for len(stack) > 0 {
		k := stack[len(stack)-1]
		stack = stack[:len(stack)-1]
		n := &t.nodes[k]
		if !(box{point{n.box.lo.x - 1, n.box.lo.y - 1}, point{n.box.hi.x + 1, n.box.hi.y + 1}}).reaches(p, q) {
			continue
		}
		if n.second != 0 {
			stack = append(stack, k+1, n.second)
			continue
		}
		for _, i := range t.order[n.from:n.to] {
			if passes(p, q, t.points[i]) {
				out = append(out, i)
			}
		}
	}
	return out
}
