package mesh

import (
	"math"
	"runtime"

	"github.com/sourcegraph/conc"

	"perigyre/core/geom"
)

// Support answers "how far does this mesh reach in that direction?" without looking at every
// point: a tree of boxes over the points, searched with the boxes that cannot win left out. The
// answers are exact.
type Support struct {
	points []geom.Vec3
	nodes  []supportNode // in the order of a walk: a node's first child follows it
}

type supportNode struct {
	box         geom.Box
	first, last int // points
	right       int // second child, 0 for a leaf
}

const supportLeaf = 16

// NewSupport builds the tree over points.
func NewSupport(points []geom.Vec3) *Support {
	s := &Support{points: append([]geom.Vec3(nil), points...)}
	if n := len(points); n > 0 {
		s.nodes = make([]supportNode, nodesOver(n))
		s.build(0, 0, n, runtime.GOMAXPROCS(0))
	}
	return s
}

// nodesOver returns how many nodes a tree over n points has.
func nodesOver(n int) int {
	if n <= supportLeaf {
		return 1
	}
	return 1 + nodesOver(n/2) + nodesOver(n-n/2)
}

// build fills in the node and those below it, on several threads where there is much to do.
func (s *Support) build(at, first, last, threads int) {
	box := geom.EmptyBox()
	for _, p := range s.points[first:last] {
		for a, x := range p { // as With, which this loop is too often for
			if x < box.Min[a] {
				box.Min[a] = x
			}
			if x > box.Max[a] {
				box.Max[a] = x
			}
		}
	}
	n := &s.nodes[at]
	*n = supportNode{box: box, first: first, last: last}
	if last-first <= supportLeaf {
		return
	}
	size, axis := box.Size(), 0
	for a := 1; a < 3; a++ {
		if size[a] > size[axis] {
			axis = a
		}
	}
	half := (last - first) / 2
	part(s.points[first:last], half, axis)
	n.right = at + 1 + nodesOver(half)
	if threads > 1 && last-first > 1<<14 {
		var left conc.WaitGroup
		left.Go(func() { s.build(at+1, first, first+half, threads/2) })
		s.build(n.right, first+half, last, threads/2)
		left.Wait()
		return
	}
	s.build(at+1, first, first+half, 1)
	s.build(n.right, first+half, last, 1)
}

// part orders points so that the first k are not above the others along an axis (Hoare's selection).
func part(p []geom.Vec3, k, axis int) {
	lo, hi := 0, len(p)-1
	for lo < hi {
		a, b, c := p[lo][axis], p[(lo+hi)/2][axis], p[hi][axis]
		pivot := math.Max(math.Min(a, b), math.Min(math.Max(a, b), c)) // the middle one
		i, j := lo, hi
		for i <= j {
			for p[i][axis] < pivot {
				i++
			}
			for p[j][axis] > pivot {
				j--
			}
			if i <= j {
				p[i], p[j] = p[j], p[i]
				i++
				j--
			}
		}
		switch {
		case k <= j:
			hi = j
		case k >= i:
			lo = i
		default:
			return
		}
	}
}

// reach returns the most that d.p can be in the box.
func reach(b geom.Box, d geom.Vec3) float64 {
	sum := 0.0
	for a := range d {
		sum += math.Max(d[a]*b.Min[a], d[a]*b.Max[a])
	}
	return sum
}

// Bounds returns the box round the points.
func (s *Support) Bounds() geom.Box {
	if len(s.nodes) == 0 {
		return geom.EmptyBox()
	}
	return s.nodes[0].box
}

// Max returns the largest d.p over all points, and -Inf where there are none.
func (s *Support) Max(d geom.Vec3) float64 {
	best := math.Inf(-1)
	s.furthest(d, &best)
	return best
}

// furthest raises best to the largest d.p if that is more, and returns the index of that point or -1.
func (s *Support) furthest(d geom.Vec3, best *float64) int {
	at := -1
	if len(s.nodes) > 0 {
		s.search(0, d, best, &at)
	}
	return at
}

func (s *Support) search(i int, d geom.Vec3, best *float64, at *int) {
	n := &s.nodes[i]
	if reach(n.box, d) <= *best {
		return
	}
	if n.right == 0 {
		for k, p := range s.points[n.first:n.last] {
			if v := d.Dot(p); v > *best {
				*best, *at = v, n.first+k
			}
		}
		return
	}
	a, b := i+1, n.right
	if reach(s.nodes[a].box, d) < reach(s.nodes[b].box, d) {
		a, b = b, a
	}
	s.search(a, d, best, at)
	s.search(b, d, best, at)
}
