package mesh

import (
	"math"
	"sort"

	"perigyre/core/geom"
)

// Support answers "how far does this mesh reach in that direction?" without looking at every
// point: a tree of boxes over the points, searched with the boxes that cannot win left out. The
// answers are exact.
type Support struct {
	points []geom.Vec3
	nodes  []supportNode
}

type supportNode struct {
	box         geom.Box
	first, last int // points, for a leaf
	right       int // second child, 0 for a leaf; the first child follows the node
}

const supportLeaf = 16

// NewSupport builds the tree over the positions of the meshes, each placed by its matrix.
func NewSupport(points []geom.Vec3) *Support {
	s := &Support{points: append([]geom.Vec3(nil), points...)}
	if len(points) > 0 {
		s.build(0, len(points))
	}
	return s
}

func (s *Support) build(first, last int) int {
	at := len(s.nodes)
	box := geom.EmptyBox()
	for _, p := range s.points[first:last] {
		box = box.With(p)
	}
	s.nodes = append(s.nodes, supportNode{box: box, first: first, last: last})
	if last-first <= supportLeaf {
		return at
	}
	size, axis := box.Size(), 0
	for a := 1; a < 3; a++ {
		if size[a] > size[axis] {
			axis = a
		}
	}
	part := s.points[first:last]
	sort.Slice(part, func(i, j int) bool { return part[i][axis] < part[j][axis] })
	middle := (first + last) / 2
	s.build(first, middle)
	s.nodes[at].right = s.build(middle, last)
	return at
}

// reach returns the most that d.p can be in the box.
func reach(b geom.Box, d geom.Vec3) float64 {
	sum := 0.0
	for a := range d {
		sum += math.Max(d[a]*b.Min[a], d[a]*b.Max[a])
	}
	return sum
}

// Max returns the largest d.p over all points, and -Inf where there are none.
func (s *Support) Max(d geom.Vec3) float64 {
	best := math.Inf(-1)
	if len(s.nodes) > 0 {
		s.search(0, d, &best)
	}
	return best
}

func (s *Support) search(i int, d geom.Vec3, best *float64) {
	n := &s.nodes[i]
	if reach(n.box, d) <= *best {
		return
	}
	if n.right == 0 {
		for _, p := range s.points[n.first:n.last] {
			*best = math.Max(*best, d.Dot(p))
		}
		return
	}
	a, b := i+1, n.right
	if reach(s.nodes[a].box, d) < reach(s.nodes[b].box, d) {
		a, b = b, a
	}
	s.search(a, d, best)
	s.search(b, d, best)
}

// Extremes returns points that reach furthest in 26 directions: those to the faces, edges and
// corners of a cube. They stand for the whole where every point would be too many.
func (s *Support) Extremes() []geom.Vec3 {
	var out []geom.Vec3
	for i := range 27 {
		d := geom.Vec3{float64(i%3 - 1), float64(i/3%3 - 1), float64(i/9 - 1)}
		if d == (geom.Vec3{}) || len(s.points) == 0 {
			continue
		}
		best := s.points[0]
		for _, p := range s.points {
			if d.Dot(p) > d.Dot(best) {
				best = p
			}
		}
		out = append(out, best)
	}
	return out
}
