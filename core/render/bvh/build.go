// Package bvh finds what a ray hits: a bounding-volume hierarchy over the triangles of each mesh and
// one over the placed meshes. It is the renderer's intersection kernel and knows nothing of light.
package bvh

import (
	"math"
	"runtime"
	"sync"

	"github.com/sourcegraph/conc"
)

// box is an axis-aligned box in single precision.
type box struct{ lo, hi Vec }

func emptyBox() box {
	const inf = math.MaxFloat32
	return box{Vec{inf, inf, inf}, Vec{-inf, -inf, -inf}}
}

// grow makes the box hold another. Comparisons rather than min and max, which look after what is no number.
func (b *box) grow(c *box) {
	if c.lo.X < b.lo.X {
		b.lo.X = c.lo.X
	}
	if c.lo.Y < b.lo.Y {
		b.lo.Y = c.lo.Y
	}
	if c.lo.Z < b.lo.Z {
		b.lo.Z = c.lo.Z
	}
	if c.hi.X > b.hi.X {
		b.hi.X = c.hi.X
	}
	if c.hi.Y > b.hi.Y {
		b.hi.Y = c.hi.Y
	}
	if c.hi.Z > b.hi.Z {
		b.hi.Z = c.hi.Z
	}
}

// hold makes the box hold a point.
func (b *box) hold(v Vec) { b.grow(&box{v, v}) }

// area returns half the surface.
func (b *box) area() float32 {
	d := b.hi.Sub(b.lo)
	if d.X < 0 {
		return 0
	}
	return d.X*d.Y + d.Y*d.Z + d.Z*d.X
}

// node is an inner node, whose two children stand at first and first + 1, or a leaf of count items
// from first on. 32 bytes: two to a cache line.
type node struct {
	bounds       box
	first, count uint32 // count is 0 for an inner node
}

const (
	bins     = 16
	maxDepth = 60 // of the traversal stack; beyond it minus a reserve, splits are at the median
	parallel = 4096
)

// item is what is sorted into the tree: its box and its number. Items are moved, not looked up, so that the
// walk over a node's is one through memory. The upper corner is kept negated: then holding is a minimum of all.
type item struct {
	lo  Vec
	id  uint32
	neg Vec
	_   uint32
}

func newItem(b box, id uint32) item { return item{lo: b.lo, neg: b.hi.Mul(-1), id: id} }

// middle returns twice the centre of the box.
func (i *item) middle() Vec { return i.lo.Sub(i.neg) }

// hull is a box that grows by items: laid out as they are.
type hull struct {
	lo  Vec
	_   uint32
	neg Vec
	_   uint32
}

var noHull = hull{lo: Vec{math.MaxFloat32, math.MaxFloat32, math.MaxFloat32}, neg: Vec{math.MaxFloat32, math.MaxFloat32, math.MaxFloat32}}

func (h *hull) box() box { return box{h.lo, h.neg.Mul(-1)} }

// histogram is what a node's items are counted in, by axis and bin.
type histogram struct {
	hull  [3][bins]hull
	count [3][bins]int32
}

// builder makes a tree by the surface area heuristic over binned centroids (Wald, "On fast
// Construction of SAH-based Bounding Volume Hierarchies", 2007). The result does not depend on the
// number of threads.
type builder struct {
	items []item
	nodes []node
	mu    sync.Mutex
	used  int
	most  int           // items of a leaf
	spare chan struct{} // threads that may still be started
	wg    conc.WaitGroup
}

// build returns the nodes, the root first, over leaves of at most so many items each, which it sorts: a leaf's stand
// together. Where nodes stand depends on which thread made them, the tree that they make does not.
func build(items []item, most int) []node {
	n := len(items)
	if n == 0 {
		return nil
	}
	b := &builder{most: most, items: items, nodes: huge(make([]node, 2*n)), used: 1, spare: make(chan struct{}, runtime.GOMAXPROCS(0)-1)}
	whole, centres := reaches(items)
	b.split(0, 0, n, 0, whole, centres)
	b.wg.Wait()
	return b.nodes[:b.used]
}

// spread does n pieces of work on all processors, each a stretch of them.
func spread(n int, do func(from, to int)) {
	threads := min(runtime.GOMAXPROCS(0), n/parallel+1)
	var all conc.WaitGroup
	for k := range threads {
		all.Go(func() { do(n*k/threads, n*(k+1)/threads) })
	}
	all.Wait()
}

// split makes node at over the items first to last, whose boxes and centres lie in two boxes.
func (b *builder) split(at uint32, first, last, depth int, bounds, centres box) {
	items := b.items[first:last]
	n := &b.nodes[at]
	n.bounds = bounds
	n.first, n.count = uint32(first), uint32(len(items))
	if len(items) <= b.most {
		return
	}
	middle := b.partition(items, &centres, depth)
	var sides [2]struct{ bounds, centres box }
	for s, part := range [2][]item{items[:middle], items[middle:]} {
		sides[s].bounds, sides[s].centres = reaches(part)
	}
	b.mu.Lock()
	left := uint32(b.used)
	b.used += 2
	b.mu.Unlock()
	n.first, n.count = left, 0
	if len(items) > parallel {
		select {
		case b.spare <- struct{}{}:
			b.wg.Go(func() {
				b.split(left, first, first+middle, depth+1, sides[0].bounds, sides[0].centres)
				<-b.spare
			})
			b.split(left+1, first+middle, last, depth+1, sides[1].bounds, sides[1].centres)
			return
		default:
		}
	}
	b.split(left, first, first+middle, depth+1, sides[0].bounds, sides[0].centres)
	b.split(left+1, first+middle, last, depth+1, sides[1].bounds, sides[1].centres)
}

// partition reorders the items into two sides and returns the size of the first. All three axes are looked at
// in one walk.
func (b *builder) partition(items []item, centres *box, depth int) int {
	extent := centres.hi.Sub(centres.lo)
	n := min(bins, 6+len(items)/8) // few items need few
	var hist histogram
	for axis := range hist.hull {
		for k := range n {
			hist.hull[axis][k] = noHull
		}
	}
	scale := func(width float32) float32 {
		if width > 0 && depth <= maxDepth-24 {
			return float32(n) * (1 - 1e-6) / width
		}
		return 0
	}
	lo, by := centres.lo, Vec{scale(extent.X), scale(extent.Y), scale(extent.Z)}
	hist.add(items, lo, by)
	best, bestAxis, bestBin := float32(math.MaxFloat32), -1, int32(0)
	for axis := range 3 {
		if by.axis(axis) == 0 {
			continue
		}
		var boxes [bins]box
		for k := range n {
			boxes[k] = hist.hull[axis][k].box()
		}
		h := &hist.count[axis]
		var right [bins]float32 // cost of everything from bin k on
		acc, count := emptyBox(), 0
		for k := n - 1; k > 0; k-- {
			acc.grow(&boxes[k])
			count += int(h[k])
			right[k] = acc.area() * b.blocks(count)
		}
		acc, count = emptyBox(), 0
		for k := 1; k < n; k++ {
			acc.grow(&boxes[k-1])
			count += int(h[k-1])
			if cost := acc.area()*b.blocks(count) + right[k]; cost < best && count > 0 && count < len(items) {
				best, bestAxis, bestBin = cost, axis, int32(k)
			}
		}
	}
	if bestAxis < 0 { // all centres in one place, or too deep: halves
		return len(items) / 2
	}
	low, fine := lo.axis(bestAxis), by.axis(bestAxis)
	i, j := 0, len(items)-1
	for i <= j {
		if int32((items[i].lo.axis(bestAxis)-items[i].neg.axis(bestAxis)-low)*fine) < bestBin {
			i++
		} else {
			items[i], items[j] = items[j], items[i]
			j--
		}
	}
	return i
}

// reachesPlain returns the boxes round the items and round twice their centres.
func reachesPlain(items []item) (bounds, centres box) {
	bounds, centres = emptyBox(), emptyBox()
	for i := range items {
		x := &items[i]
		bounds.grow(&box{x.lo, x.neg.Mul(-1)})
		centres.hold(x.middle())
	}
	return bounds, centres
}

// addPlain counts the items in the bins.
func (h *histogram) addPlain(items []item, lo, by Vec) {
	for i := range items {
		x := &items[i]
		c := x.middle()
		for axis, at := range [3]int32{int32((c.X - lo.X) * by.X), int32((c.Y - lo.Y) * by.Y), int32((c.Z - lo.Z) * by.Z)} {
			at &= bins - 1
			g := &h.hull[axis][at]
			g.lo.X, g.lo.Y, g.lo.Z = min(g.lo.X, x.lo.X), min(g.lo.Y, x.lo.Y), min(g.lo.Z, x.lo.Z)
			g.neg.X, g.neg.Y, g.neg.Z = min(g.neg.X, x.neg.X), min(g.neg.Y, x.neg.Y), min(g.neg.Z, x.neg.Z)
			h.count[axis][at]++
		}
	}
}

// blocks is how many packets a leaf of so many items would be: what looking at them costs, since a packet costs the same whatever is in it.
func (b *builder) blocks(n int) float32 { return float32((n + b.most - 1) / b.most) }
