package bvh

import "math/bits"

// wide is a node with up to eight children: their boxes row by row, so that one instruction looks at all of
// them, and where they lie. A box far away stands for a child that is not there.
type wide struct {
	bounds [6][8]float32 // lowest x, y, z, highest x, y, z
	child  [8]uint32     // a node, or with leaf a packet
}

// packet is up to eight triangles, corner by corner and row by row. The last one is repeated to fill it.
type packet struct {
	corner [9][8]float32 // ax, ay, az, bx, ... cz
	id     [8]uint32     // the triangle's number in the mesh
}

const (
	wideBytes   = 224
	packetBytes = 320
	leaf        = 1 << 31
	nowhere     = 1e37
)

// pack gathers the triangles of a leaf.
func (p *packet) pack(n *node, items []item, corners func(t uint32) [3]Vec) {
	for k := range 8 {
		t := items[n.first+min(uint32(k), n.count-1)].id
		p.id[k] = t
		for c, v := range corners(t) {
			p.corner[3*c][k], p.corner[3*c+1][k], p.corner[3*c+2][k] = v.X, v.Y, v.Z
		}
	}
}

// costs are the least areas of wide nodes that everything below a node of a binary tree can do with, where at most one, two and so on
// of what stands there may be children of a wide node above: 0 of a leaf.
type costs [7]float32

// collapse works them out for all nodes: of the ways to take a binary tree's nodes together the cheapest, by the chance that a ray
// enters each (Ylitie, Karras and Laine, "Efficient Incoherent Ray Traversal on GPUs Through Compressed Wide BVHs", 2017, 3.2). Only how
// many nodes are entered depends on it, since leaves stay as they are. Children stand behind their parents.
func collapse(nodes []node) []costs {
	out := huge(make([]costs, len(nodes)))
	for at := len(nodes) - 1; at >= 0; at-- {
		n := &nodes[at]
		if n.count > 0 {
			continue
		}
		c, left, right := &out[at], &out[n.first], &out[n.first+1]
		_, all := share(left, right, 8)
		c[0] = n.bounds.area() + all
		for i := 2; i < 8; i++ {
			_, apart := share(left, right, i)
			c[i-1] = min(c[i-2], apart)
		}
	}
	return out
}

// share returns how many of so many children the left of two nodes gets, and what both cost then.
func share(left, right *costs, among int) (best int, least float32) {
	best, least = 1, left[0]+right[among-2]
	for k := 2; k < among; k++ {
		if c := left[k-1] + right[among-k-1]; c < least {
			best, least = k, c
		}
	}
	return best, least
}

// widen makes a binary tree one with eight children. Fill says what stands for a leaf.
func widen(nodes []node, fill func(n *node) uint32) []wide {
	costs := collapse(nodes)
	// gather appends what stands below a node as at most so many children.
	var gather func(list []uint32, at uint32, most int) []uint32
	both := func(list []uint32, at uint32, most int) []uint32 {
		first := nodes[at].first
		k, _ := share(&costs[first], &costs[first+1], most)
		return gather(gather(list, first, k), first+1, most-k)
	}
	gather = func(list []uint32, at uint32, most int) []uint32 {
		c := &costs[at]
		for most > 1 && c[most-2] == c[most-1] {
			most--
		}
		if nodes[at].count > 0 || most == 1 {
			return append(list, at)
		}
		return both(list, at, most)
	}
	out := huge(make([]wide, len(nodes)/6+1))[:0]
	var make8 func(at uint32) uint32
	make8 = func(at uint32) uint32 {
		list := make([]uint32, 0, 8)
		if nodes[at].count > 0 {
			list = append(list, at)
		} else {
			list = both(list, at, 8)
		}
		here := uint32(len(out))
		out = append(out, wide{})
		var w wide
		for k := range 8 {
			if k >= len(list) {
				for row := range w.bounds {
					w.bounds[row][k] = nowhere
				}
				w.child[k] = leaf
				continue
			}
			n := &nodes[list[k]]
			for row, v := range [6]float32{n.bounds.lo.X, n.bounds.lo.Y, n.bounds.lo.Z, n.bounds.hi.X, n.bounds.hi.Y, n.bounds.hi.Z} {
				w.bounds[row][k] = v
			}
			if n.count > 0 {
				w.child[k] = fill(n)
			} else {
				w.child[k] = make8(list[k])
			}
		}
		out[here] = w
		return here
	}
	make8(0)
	return out
}

// Walker is the memory of one thread's walks through trees.
type Walker struct {
	stack [7*maxDepth + 8]pending
	upper [7*maxDepth + 8]pending // of the tree over instances
}

// enter8 is the box test of all children, one by one: their distances of entry, and a bit for each that the ray
// enters before far.
func (p *prepared) enter8(n *wide, far float32, t *[8]float32) (mask uint8) {
	b := &n.bounds
	for k := range 8 {
		t0 := max(b[p.near[0]][k]*p.inv.X+p.in.X, b[p.near[1]][k]*p.inv.Y+p.in.Y, b[p.near[2]][k]*p.inv.Z+p.in.Z, 0) * nearer
		t1 := min(b[p.away[0]][k]*p.inv.X+p.out.X, b[p.away[1]][k]*p.inv.Y+p.out.Y, b[p.away[2]][k]*p.inv.Z+p.out.Z, far)
		if t[k] = t0; t0 <= t1 {
			mask |= 1 << k
		}
	}
	return mask
}

// triangle returns one of the packet's.
func (k *packet) corners(i uint32) (a, b, c Vec) {
	x := &k.corner
	i &= 7
	return Vec{x[0][i], x[1][i], x[2][i]}, Vec{x[3][i], x[4][i], x[5][i]}, Vec{x[6][i], x[7][i], x[8][i]}
}

func (k *packet) triangle(i int) triangle {
	a, b, c := k.corners(uint32(i))
	return triangle{a, b, c}
}

// nearest tests the packet's triangles one by one.
func (p *prepared) nearest(k *packet, hit *Hit) (found bool) {
	for i := range 8 {
		tri := k.triangle(i)
		if t, u, v, ok := p.meet(&tri, hit.T); ok {
			hit.T, hit.U, hit.V, hit.Triangle, hit.place, found = t, u, v, k.id[i], uint32(i), true
		}
	}
	return found
}

func (p *prepared) any(k *packet, far float32) bool {
	for i := range 8 {
		tri := k.triangle(i)
		if _, _, _, ok := p.meet(&tri, far); ok {
			return true
		}
	}
	return false
}

// push puts the children of a mask on the stack, the nearest on top, and returns the new height.
func push(stack []pending, top int, mask uint8, t *[8]float32, child *[8]uint32) int {
	base := top
	for ; mask != 0; mask &= mask - 1 {
		k := bits.TrailingZeros8(mask) & 7
		j := top
		one := waiting(child[k], t[k])
		for ; j > base && stack[j-1] < one; j-- {
			stack[j] = stack[j-1]
		}
		stack[j] = one
		top++
	}
	return top
}

// intersectPlain finds the nearest hit before hit.T and reports whether there is one.
func (m *Mesh) intersectPlain(p *prepared, hit *Hit, w *Walker) bool {
	var t [8]float32
	top, at, found := 0, uint32(0), false
	for {
		if at&leaf == 0 {
			n := &m.nodes[at]
			top = push(w.stack[:], top, p.enter8(n, hit.T, &t), &t, &n.child)
		} else if p.nearest(&m.packets[at&^leaf], hit) {
			found, hit.place = true, at<<3|hit.place
		}
		for {
			if top == 0 {
				return found
			}
			if top--; w.stack[top].within(hit.T) {
				break
			}
		}
		at = w.stack[top].node()
	}
}

// occludedPlain reports whether anything lies before far.
func (m *Mesh) occludedPlain(p *prepared, far float32, w *Walker) bool {
	var t [8]float32
	top, at := 0, uint32(0)
	for {
		if at&leaf == 0 {
			n := &m.nodes[at]
			for mask := p.enter8(n, far, &t); mask != 0; mask &= mask - 1 {
				w.stack[top] = pending(n.child[bits.TrailingZeros8(mask)&7])
				top++
			}
		} else if p.any(&m.packets[at&^leaf], far) {
			return true
		}
		if top == 0 {
			return false
		}
		top--
		at = w.stack[top].node()
	}
}
