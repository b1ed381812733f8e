// Package assembly is the geometry of parts beside, against and within each other: how near they are, how deep one lies in
// another, and what they do on their way.
package assembly

import (
	"math"
	"slices"

	"perigyre/core/geom"
)

// Solid is the surface of a part in a rigid frame of its own, in metres, under a tree of boxes. It does not change, and may be
// used from several goroutines.
type Solid struct {
	triangles []triangle
	given     []uint32 // which of those that were given each is
	nodes     []node   // in the order of a walk: a node's first child follows it
}

type triangle [3]geom.Vec3

type node struct {
	box         geom.Box
	first, last int         // triangles
	right       int         // second child, 0 for a leaf
	corners     []geom.Vec3 // of a leaf, those that no leaf before it has
	points      []uint32    // and which of the points that were given they are
}

const leaf = 4

// NewSolid builds the tree over triangles, three indices each; size scales the points along the axes of their frame.
func NewSolid(points []geom.Vec3, triangles []uint32, size geom.Vec3) *Solid {
	all := make([]geom.Vec3, len(points))
	for k, p := range points {
		all[k] = geom.Vec3{p[0] * size[0], p[1] * size[1], p[2] * size[2]}
	}
	known := make(map[geom.Vec3]bool, len(all))
	return build(all, triangles, func(i uint32) bool {
		was := known[all[i]]
		known[all[i]] = true
		return !was
	})
}

// NewPosable is NewSolid for what is posed in ways that take points apart which lie in one place here.
func NewPosable(points []geom.Vec3, triangles []uint32) *Solid {
	known := make([]bool, len(points))
	return build(points, triangles, func(i uint32) bool {
		was := known[i]
		known[i] = true
		return !was
	})
}

// Posed returns the surface with its points elsewhere, of the same triangles: under the same tree, whose boxes are fitted anew, in a small
// part of the time of building one. Points that lay in one place when it was built by NewSolid have to do so still.
func (s *Solid) Posed(points []geom.Vec3, triangles []uint32) *Solid {
	out := &Solid{triangles: make([]triangle, len(s.triangles)), given: s.given, nodes: slices.Clone(s.nodes)}
	for k, id := range s.given {
		for c := range 3 {
			out.triangles[k][c] = points[triangles[3*int(id)+c]]
		}
	}
	out.fit()
	for at := range out.nodes {
		n := &out.nodes[at]
		n.corners = make([]geom.Vec3, len(n.points))
		for k, i := range n.points {
			n.corners[k] = points[i]
		}
	}
	return out
}

// fit fits the tree's boxes to its triangles.
func (s *Solid) fit() {
	for at := len(s.nodes) - 1; at >= 0; at-- { // children stand behind their parents
		if n := &s.nodes[at]; n.right != 0 {
			n.box = s.nodes[at+1].box.Union(s.nodes[n.right].box)
		} else {
			n.box = boxOf(s.triangles[n.first:n.last])
		}
	}
}

// Scaled returns the surface with other sizes along the axes of its frame, each more than 0.
func (s *Solid) Scaled(size geom.Vec3) *Solid {
	by := func(p geom.Vec3) geom.Vec3 { return geom.Vec3{p[0] * size[0], p[1] * size[1], p[2] * size[2]} }
	out := &Solid{triangles: make([]triangle, len(s.triangles)), given: s.given, nodes: slices.Clone(s.nodes)}
	for k, t := range s.triangles {
		out.triangles[k] = triangle{by(t[0]), by(t[1]), by(t[2])}
	}
	for k := range out.nodes {
		n := &out.nodes[k]
		n.box = geom.Box{Min: by(n.box.Min), Max: by(n.box.Max)}
		corners := make([]geom.Vec3, len(n.corners))
		for i, p := range n.corners {
			corners[i] = by(p)
		}
		n.corners = corners
	}
	return out
}

// build builds the tree over triangles. Fresh is asked once for each of their corners, in the order of the leaves, whether it is one that no
// leaf before it has.
func build(points []geom.Vec3, triangles []uint32, fresh func(i uint32) bool) *Solid {
	n := len(triangles) / 3
	s := &Solid{triangles: make([]triangle, n), given: make([]uint32, n)}
	if n == 0 {
		return s
	}
	all, middles := make([]triangle, n), make([]geom.Vec3, n) // three times the middle of each
	for k := range all {
		t := &all[k]
		for c := range t {
			t[c] = points[triangles[3*k+c]]
		}
		middles[k] = geom.Vec3{t.middle(0), t.middle(1), t.middle(2)}
		s.given[k] = uint32(k)
	}
	s.split(all, middles, 0, n)
	for k, id := range s.given {
		s.triangles[k] = all[id]
	}
	for i := range s.nodes {
		n := &s.nodes[i]
		if n.right != 0 {
			continue
		}
		for _, id := range s.given[n.first:n.last] {
			for _, p := range triangles[3*id : 3*id+3] {
				if fresh(p) {
					n.corners, n.points = append(n.corners, points[p]), append(n.points, p)
				}
			}
		}
	}
	return s
}

func (t *triangle) middle(axis int) float64 { return t[0][axis] + t[1][axis] + t[2][axis] }

// split makes the node over some of the triangles, and those below it.
func (s *Solid) split(all []triangle, middles []geom.Vec3, first, last int) {
	at, box := len(s.nodes), geom.EmptyBox()
	for _, id := range s.given[first:last] {
		box = box.Union(all[id].box())
	}
	s.nodes = append(s.nodes, node{box: box, first: first, last: last})
	if last-first <= leaf {
		return
	}
	axis, size := 0, box.Size()
	for k := range size {
		if size[k] > size[axis] {
			axis = k
		}
	}
	slices.SortFunc(s.given[first:last], func(a, b uint32) int {
		switch x, y := middles[a][axis], middles[b][axis]; {
		case x < y:
			return -1
		case x > y:
			return 1
		}
		return 0
	})
	middle := (first + last) / 2
	s.split(all, middles, first, middle)
	s.nodes[at].right = len(s.nodes)
	s.split(all, middles, middle, last)
}

// boxOf is the box round some triangles.
func boxOf(list []triangle) geom.Box {
	box := geom.EmptyBox()
	for k := range list {
		for _, p := range list[k] {
			box.Hold(p)
		}
	}
	return box
}

// Empty reports whether there is no surface.
func (s *Solid) Empty() bool { return len(s.nodes) == 0 }

// Bounds returns the box round the surface.
func (s *Solid) Bounds() geom.Box {
	if s.Empty() {
		return geom.EmptyBox()
	}
	return s.nodes[0].box
}

// Size is the length of the diagonal of the box round the surface.
func (s *Solid) Size() float64 { return s.Bounds().Size().Len() }

// around returns the box round a box that a rigid motion carries.
func around(b geom.Box, m geom.Mat4) geom.Box {
	middle, h := m.Point(b.Centre()), b.Size().Mul(0.5)
	var half geom.Vec3
	for k := range half {
		half[k] = math.Abs(m[k])*h[0] + math.Abs(m[4+k])*h[1] + math.Abs(m[8+k])*h[2]
	}
	return geom.Box{Min: middle.Sub(half), Max: middle.Add(half)}
}

// Apart is how far apart two boxes are.
func Apart(a, b geom.Box) float64 {
	sum := 0.0
	for k := range a.Min {
		if d := max(a.Min[k]-b.Max[k], b.Min[k]-a.Max[k]); d > 0 {
			sum += d * d
		}
	}
	if sum == 0 {
		return 0
	}
	return math.Sqrt(sum)
}

// gapTo is how far a point is from a box.
func gapTo(b geom.Box, p geom.Vec3) float64 {
	sum := 0.0
	for k := range p {
		if d := max(b.Min[k]-p[k], p[k]-b.Max[k]); d > 0 {
			sum += d * d
		}
	}
	return math.Sqrt(sum)
}

func (t *triangle) box() (b geom.Box) {
	for k := range b.Min {
		b.Min[k], b.Max[k] = min(t[0][k], t[1][k], t[2][k]), max(t[0][k], t[1][k], t[2][k])
	}
	return b
}

func (t triangle) moved(m geom.Mat4) triangle {
	return triangle{m.Point(t[0]), m.Point(t[1]), m.Point(t[2])}
}
