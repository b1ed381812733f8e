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
	nodes     []node // in the order of a walk: a node's first child follows it
}

type triangle [3]geom.Vec3

type node struct {
	box         geom.Box
	first, last int         // triangles
	right       int         // second child, 0 for a leaf
	corners     []geom.Vec3 // of a leaf, those that no leaf before it has
}

const leaf = 4

// NewSolid builds the tree over triangles, three indices each; size scales the points along the axes of their frame.
func NewSolid(points []geom.Vec3, triangles []uint32, size geom.Vec3) *Solid {
	s := &Solid{}
	for k := 0; k+2 < len(triangles); k += 3 {
		var t triangle
		for c := range t {
			p := points[triangles[k+c]]
			t[c] = geom.Vec3{p[0] * size[0], p[1] * size[1], p[2] * size[2]}
		}
		s.triangles = append(s.triangles, t)
	}
	s.finish()
	return s
}

// Scaled returns the surface with other sizes along the axes of its frame, each more than 0.
func (s *Solid) Scaled(size geom.Vec3) *Solid {
	by := func(p geom.Vec3) geom.Vec3 { return geom.Vec3{p[0] * size[0], p[1] * size[1], p[2] * size[2]} }
	out := &Solid{triangles: make([]triangle, len(s.triangles)), nodes: slices.Clone(s.nodes)}
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

// finish builds the tree over the triangles.
func (s *Solid) finish() {
	if len(s.triangles) == 0 {
		return
	}
	s.build(0, len(s.triangles))
	known := map[geom.Vec3]bool{}
	for i := range s.nodes {
		n := &s.nodes[i]
		if n.right != 0 {
			continue
		}
		for _, t := range s.triangles[n.first:n.last] {
			for _, p := range t {
				if !known[p] {
					known[p], n.corners = true, append(n.corners, p)
				}
			}
		}
	}
}

func (t *triangle) middle(axis int) float64 { return t[0][axis] + t[1][axis] + t[2][axis] }

func (s *Solid) build(first, last int) {
	at, box := len(s.nodes), s.triangles[first].box()
	for i := first + 1; i < last; i++ {
		b := s.triangles[i].box()
		for k := range 3 {
			box.Min[k], box.Max[k] = min(box.Min[k], b.Min[k]), max(box.Max[k], b.Max[k])
		}
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
	slices.SortFunc(s.triangles[first:last], func(a, b triangle) int {
		switch x, y := a.middle(axis), b.middle(axis); {
		case x < y:
			return -1
		case x > y:
			return 1
		}
		return 0
	})
	middle := (first + last) / 2
	s.build(first, middle)
	s.nodes[at].right = len(s.nodes)
	s.build(middle, last)
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
