package assembly

import (
	"context"
	"math"
	"slices"
	"sync"

	"github.com/sourcegraph/conc/iter"

	"perigyre/core/geom"
)

// blocking tells which pieces are in the way of which, along the directions in which each may leave: a directed graph for each
// direction (Wilson and Latombe, Geometric Reasoning about Mechanical Assembly, 1994). It is worked out as far as it is asked for, and
// may be asked from several goroutines.
type blocking struct {
	pieces []Piece
	ways   []ways // of each piece
	given  []ways // and those of them that its contacts speak for
	thick  []float64
	box    geom.Box

	mu     sync.Mutex
	shrunk map[shrinking]*Solid
	depths map[[2]int]float64 // of pairs, at rest
	exits  map[exit]*leaving
	known  map[against]bool
}

// against is a pair of pieces, and the way that the first one goes.
type against struct {
	i, k int
	way  geom.Vec3
}

type shrinking struct {
	piece int
	by    float64
}

// exit is a piece along one of its ways.
type exit struct{ piece, way int }

// leaving is what is known of an exit: which others are in no way, and one that is.
type leaving struct {
	mu     sync.Mutex
	clear  []bool
	stands int // one that is in the way, -1 for none that is known
}

func newBlocking(ctx context.Context, list []Piece) *blocking {
	b := &blocking{pieces: list, ways: make([]ways, len(list)), given: make([]ways, len(list)), box: geom.EmptyBox(), shrunk: map[shrinking]*Solid{}, depths: map[[2]int]float64{}, exits: map[exit]*leaving{}, known: map[against]bool{}}
	for i := range list {
		b.box = b.box.Union(list[i].Bounds())
	}
	for i := range list {
		b.thick = append(b.thick, list[i].thickness())
	}
	each(ctx, len(list), func(i int) {
		var near []*Piece
		for k := range list {
			if touch := tolerance * min(list[i].Size(), list[k].Size()); k != i && Apart(list[i].Bounds(), list[k].Bounds()) <= touch {
				near = append(near, &list[k])
			}
		}
		b.ways[i], b.given[i] = waysOf(&list[i], near)
	})
	for i := range list {
		for k := range b.ways[i] {
			b.exits[exit{i, k}] = &leaving{clear: make([]bool, len(list)), stands: -1}
		}
	}
	return b
}

// each does something for numbers up to n, as many at a time as there are processors, until the context ends.
func each(ctx context.Context, n int, do func(i int)) {
	iter.ForEachIdx(make([]struct{}, n), func(i int, _ *struct{}) {
		if ctx.Err() == nil {
			do(i)
		}
	})
}

// free reports whether a piece can leave along one of its ways while some others are there.
func (b *blocking) free(e exit, there func(k int) bool) bool {
	l := b.exits[e]
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.stands >= 0 && there(l.stands) {
		return false
	}
	way := b.ways[e.piece][e.way]
	for k := range b.pieces {
		if k == e.piece || l.clear[k] || !there(k) {
			continue
		}
		if b.stands(e.piece, k, way) {
			l.stands = k
			return false
		}
		l.clear[k] = true
	}
	l.stands = -1
	return true
}

// stands reports whether piece k stands in the way of piece i along a direction. The smaller one of them is shrunk by how deep they
// lie in each other at rest, and by the tolerance.
func (b *blocking) stands(i, k int, way geom.Vec3) bool {
	s := sweep{way: way}
	x, y := b.pieces[i].Bounds(), b.pieces[k].Bounds()
	if !s.reaches(&x, &y) {
		return false
	}
	if b.pieces[i].Size() > b.pieces[k].Size() {
		i, k, way = k, i, way.Mul(-1)
	}
	key := against{i, k, way}
	b.mu.Lock()
	out, ok := b.known[key]
	b.mu.Unlock()
	if ok {
		return out
	}
	depth, fine := b.depth(i, k), tolerance*b.pieces[i].Size()
	if depth+fine > 0.3*b.thick[i] { // it goes through solid matter, and shrunk so far nothing would be left
		out = b.digs(i, k, way, fine)
	} else {
		out = Stops(b.smaller(i, fine+depth*1.01), b.pieces[k].Solid, way)
	}
	b.mu.Lock()
	b.known[key] = out
	b.mu.Unlock()
	return out
}

// digs reports whether a piece comes into matter of another one on its way out of it, where it does not lie at rest: what goes through
// solid matter has its own hole there. Corners and middles of faces of both are looked at, so many of them.
func (b *blocking) digs(i, k int, way geom.Vec3, fine float64) bool {
	x, y := &b.pieces[i], &b.pieces[k]
	_, to := extent(y.Bounds(), way)
	from, _ := extent(x.Bounds(), way)
	near := func(s *Solid, p geom.Vec3) bool { _, _, near := s.to(p, fine); return near }
	deep := func(s *Solid, p geom.Vec3) bool { return s.Holds(p) && !near(s, p) }
	rest := func(p geom.Vec3) bool { return x.Holds(p) || near(x.Solid, p) } // in its hole
	const looks = 24
	for n := 1; n <= looks; n++ {
		move := way.Mul((to - from) * float64(n) / looks)
		for _, p := range x.some() {
			if q := p.Add(move); deep(y.Solid, q) && !rest(q) {
				return true
			}
		}
		for _, p := range y.some() {
			if deep(x.Solid, p.Sub(move)) && !rest(p) {
				return true
			}
		}
	}
	return false
}

// some are points of a surface: the middles of faces, evenly among them.
func (s *Solid) some() (out []geom.Vec3) {
	const many = 160
	for k := 0; k < len(s.triangles); k += max(1, len(s.triangles)/many) {
		t := &s.triangles[k]
		out = append(out, t[0].Add(t[1]).Add(t[2]).Mul(1.0/3))
	}
	return out
}

// depth is how deep two pieces lie in each other at rest, metres.
func (b *blocking) depth(i, k int) float64 {
	key := [2]int{min(i, k), max(i, k)}
	b.mu.Lock()
	d, ok := b.depths[key]
	b.mu.Unlock()
	if ok {
		return d
	}
	if x, y := &b.pieces[i], &b.pieces[k]; !x.Bounds().Intersection(y.Bounds()).Empty() {
		if got, deep := Overlap(x.Solid, y.Solid, geom.Identity, 0); deep {
			d = got.Depth
			if got, deep := overlap(x.Solid, y.Solid, geom.Identity, d, closely); deep {
				d = got.Depth
			}
		}
	}
	b.mu.Lock()
	b.depths[key] = d
	b.mu.Unlock()
	return d
}

// smaller is a piece shrunk by at least a distance.
func (b *blocking) smaller(i int, by float64) *Solid {
	least := tolerance * b.pieces[i].Size()
	by = least * math.Pow(1.25, math.Ceil(math.Log(by/least)/math.Log(1.25)-1e-6)) // few of them
	key := shrinking{i, by}
	b.mu.Lock()
	s := b.shrunk[key]
	b.mu.Unlock()
	if s == nil {
		s = b.pieces[i].Shrunk(by)
		b.mu.Lock()
		b.shrunk[key] = s
		b.mu.Unlock()
	}
	return s
}

// blockers are all of some pieces that stand in the way of one.
func (b *blocking) blockers(e exit, there func(k int) bool) (out []int) {
	for k := range b.pieces {
		if k != e.piece && there(k) && b.stands(e.piece, k, b.ways[e.piece][e.way]) {
			out = append(out, k)
		}
	}
	return out
}

// together is the smallest number of pieces among some that can leave as one along some direction, without one of them: what blocks
// each other there, and is blocked by nothing else (strongly connected, after Tarjan, Depth-First Search and Linear Graph Algorithms,
// 1972).
func (b *blocking) together(ctx context.Context, list []int, stays int) (set []int, way geom.Vec3) {
	var common ways
	for _, i := range list {
		for _, v := range b.ways[i] {
			if len(common) < 14 {
				common.add(v)
			}
		}
	}
	found := make([][]int, len(common))
	each(ctx, len(common), func(w int) {
		next := map[int][]int{}
		for _, i := range list {
			for _, k := range list {
				if i != k && b.stands(i, k, common[w]) {
					next[i] = append(next[i], k)
				}
			}
		}
		for _, c := range components(list, next) {
			closed := !slices.Contains(c, stays) && len(c) < len(list)
			for _, i := range c {
				closed = closed && !slices.ContainsFunc(next[i], func(k int) bool { return !slices.Contains(c, k) })
			}
			if closed && (found[w] == nil || len(c) < len(found[w])) {
				found[w] = c
			}
		}
	})
	for w, c := range found {
		if c != nil && (set == nil || len(c) < len(set)) {
			set, way = c, common[w]
		}
	}
	return set, way
}

// components are the strongly connected sets of a graph.
func components(list []int, next map[int][]int) (out [][]int) {
	index, low, on := map[int]int{}, map[int]int{}, map[int]bool{}
	var stack []int
	var visit func(i int)
	visit = func(i int) {
		index[i] = len(index)
		low[i] = index[i]
		stack, on[i] = append(stack, i), true
		for _, k := range next[i] {
			if _, seen := index[k]; !seen {
				visit(k)
				low[i] = min(low[i], low[k])
			} else if on[k] {
				low[i] = min(low[i], index[k])
			}
		}
		if low[i] != index[i] {
			return
		}
		var c []int
		for {
			k := stack[len(stack)-1]
			stack, on[k] = stack[:len(stack)-1], false
			if c = append(c, k); k == i {
				break
			}
		}
		slices.Sort(c)
		out = append(out, c)
	}
	for _, i := range list {
		if _, seen := index[i]; !seen {
			visit(i)
		}
	}
	return out
}
