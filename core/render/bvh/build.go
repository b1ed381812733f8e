// Package bvh finds what a ray hits: a bounding-volume hierarchy over the triangles of each mesh and
// one over the placed meshes. It is the renderer's intersection kernel and knows nothing of light.
package bvh

import (
	"math"
	"runtime"
	"sync"
)

// box is an axis-aligned box in single precision.
type box struct{ lo, hi Vec }

func emptyBox() box {
	const inf = math.MaxFloat32
	return box{Vec{inf, inf, inf}, Vec{-inf, -inf, -inf}}
}

func (b box) union(c box) box { return box{b.lo.min(c.lo), b.hi.max(c.hi)} }

// area returns half the surface.
func (b box) area() float32 {
	d := b.hi.Sub(b.lo)
	if d.X < 0 {
		return 0
	}
	return d.X*d.Y + d.Y*d.Z + d.Z*d.X
}

// node is an inner node, whose two children stand at first and first + 1, or a leaf of count items
// from first on. 32 bytes: two to a cache line.
type node struct {
	bounds       [6]float32 // lowest x, y, z, highest x, y, z
	first, count uint32     // count is 0 for an inner node
}

func (n *node) box() box {
	b := &n.bounds
	return box{Vec{b[0], b[1], b[2]}, Vec{b[3], b[4], b[5]}}
}

const (
	bins     = 16
	leafSize = 4
	maxDepth = 60 // of the traversal stack; beyond it minus a reserve, splits are at the median
	parallel = 4096
)

// builder makes a tree by the surface area heuristic over binned centroids (Wald, "On fast
// Construction of SAH-based Bounding Volume Hierarchies", 2007). The result does not depend on the
// number of threads.
type builder struct {
	boxes   []box
	centres []Vec // twice the centre of each box
	order   []uint32
	nodes   []node
	mu      sync.Mutex
	used    int
	spare   chan struct{} // threads that may still be started
	wg      sync.WaitGroup
}

// build returns the nodes, the root first, and the order in which leaves take the items.
func build(boxes []box) ([]node, []uint32) {
	n := len(boxes)
	if n == 0 {
		return nil, nil
	}
	b := &builder{boxes: boxes, centres: make([]Vec, n), order: make([]uint32, n), nodes: make([]node, 2*n), used: 1, spare: make(chan struct{}, runtime.GOMAXPROCS(0)-1)}
	for i, x := range boxes {
		b.centres[i] = x.lo.Add(x.hi)
		b.order[i] = uint32(i)
	}
	b.split(0, 0, n, 0)
	b.wg.Wait()
	nodes := b.renumber()
	return nodes, b.order
}

// renumber lays the nodes out in the order of a walk, which does not depend on which thread made
// them, and drops the ones that were not needed.
func (b *builder) renumber() []node {
	out := make([]node, 1, b.used)
	var walk func(from, to uint32)
	walk = func(from, to uint32) {
		n := b.nodes[from]
		if n.count == 0 {
			at := uint32(len(out))
			out = append(out, node{}, node{})
			walk(n.first, at)
			walk(n.first+1, at+1)
			n.first = at
		}
		out[to] = n
	}
	walk(0, 0)
	return out
}

// split makes node at over the items order[first:last].
func (b *builder) split(at uint32, first, last, depth int) {
	items := b.order[first:last]
	bounds, centres := emptyBox(), emptyBox()
	for _, i := range items {
		bounds = bounds.union(b.boxes[i])
		c := b.centres[i]
		centres = box{centres.lo.min(c), centres.hi.max(c)}
	}
	n := &b.nodes[at]
	n.bounds = [6]float32{bounds.lo.X, bounds.lo.Y, bounds.lo.Z, bounds.hi.X, bounds.hi.Y, bounds.hi.Z}
	n.first, n.count = uint32(first), uint32(len(items))
	if len(items) <= 2 {
		return
	}
	middle := b.partition(items, bounds, centres, depth)
	if middle == 0 {
		return // a leaf is cheaper
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
				b.split(left, first, first+middle, depth+1)
				<-b.spare
			})
			b.split(left+1, first+middle, last, depth+1)
			return
		default:
		}
	}
	b.split(left, first, first+middle, depth+1)
	b.split(left+1, first+middle, last, depth+1)
}

type bin struct {
	box   box
	count int
}

// partition reorders the items into two sides and returns the size of the first, or 0 for a leaf.
func (b *builder) partition(items []uint32, bounds, centres box, depth int) int {
	extent := centres.hi.Sub(centres.lo)
	best, bestAxis, bestBin := float32(math.MaxFloat32), -1, 0
	for axis := range 3 {
		width := extent.axis(axis)
		if !(width > 0) || depth > maxDepth-24 {
			continue
		}
		var hist [bins]bin
		for k := range hist {
			hist[k].box = emptyBox()
		}
		lo, scale := centres.lo.axis(axis), bins*(1-1e-6)/width
		for _, i := range items {
			k := min(bins-1, int((b.centres[i].axis(axis)-lo)*scale))
			hist[k].box = hist[k].box.union(b.boxes[i])
			hist[k].count++
		}
		var right [bins]float32 // cost of everything from bin k on
		acc, count := emptyBox(), 0
		for k := bins - 1; k > 0; k-- {
			acc = acc.union(hist[k].box)
			count += hist[k].count
			right[k] = acc.area() * float32(count)
		}
		acc, count = emptyBox(), 0
		for k := 1; k < bins; k++ {
			acc = acc.union(hist[k-1].box)
			count += hist[k-1].count
			if cost := acc.area()*float32(count) + right[k]; cost < best && count > 0 && count < len(items) {
				best, bestAxis, bestBin = cost, axis, k
			}
		}
	}
	if bestAxis < 0 { // all centres in one place, or too deep: halves
		if len(items) <= leafSize {
			return 0
		}
		return len(items) / 2
	}
	// One more level costs about as much as a triangle.
	if area := bounds.area(); len(items) <= leafSize && best+area >= area*float32(len(items)) {
		return 0
	}
	lo, scale := centres.lo.axis(bestAxis), bins*(1-1e-6)/extent.axis(bestAxis)
	i, j := 0, len(items)-1
	for i <= j {
		if min(bins-1, int((b.centres[items[i]].axis(bestAxis)-lo)*scale)) < bestBin {
			i++
		} else {
			items[i], items[j] = items[j], items[i]
			j--
		}
	}
	return i
}
