package mesh

import (
	"math"
	"slices"
	"sync"

	"perigyre/core/geom"
)

// Placed is a mesh's support at a place.
type Placed struct {
	Of *Support
	At geom.Mat4
}

// Assembly is a support over many placed ones: a tree of boxes over them, so that a mesh that is shown a
// thousand times is searched once for each time that can win, and kept once. The answers are exact.
type Assembly struct {
	items []Placed
	boxes []geom.Box // of the items
	nodes []supportNode

	once     sync.Once
	extremes []geom.Vec3
}

// NewAssembly builds the tree. Items without points are left out.
func NewAssembly(items []Placed) *Assembly {
	a := &Assembly{}
	for _, it := range items {
		if len(it.Of.nodes) > 0 {
			a.items = append(a.items, it)
			a.boxes = append(a.boxes, it.Of.nodes[0].box.Transformed(it.At))
		}
	}
	if len(a.items) > 0 {
		order := make([]int, len(a.items))
		for i := range order {
			order[i] = i
		}
		a.build(order, 0)
		items, boxes := make([]Placed, len(order)), make([]geom.Box, len(order))
		for i, k := range order {
			items[i], boxes[i] = a.items[k], a.boxes[k]
		}
		a.items, a.boxes = items, boxes
	}
	return a
}

func (a *Assembly) build(order []int, first int) int {
	at := len(a.nodes)
	box := geom.EmptyBox()
	for _, k := range order {
		box = box.Union(a.boxes[k])
	}
	a.nodes = append(a.nodes, supportNode{box: box, first: first, last: first + len(order)})
	if len(order) <= 4 {
		return at
	}
	size, axis := box.Size(), 0
	for k := 1; k < 3; k++ {
		if size[k] > size[axis] {
			axis = k
		}
	}
	slices.SortFunc(order, func(x, y int) int {
		u, v := a.boxes[x].Centre()[axis], a.boxes[y].Centre()[axis]
		switch {
		case u < v:
			return -1
		case u > v:
			return 1
		}
		return x - y
	})
	half := len(order) / 2
	a.build(order[:half], first)
	a.nodes[at].right = a.build(order[half:], first+half)
	return at
}

// Empty reports whether there are no points.
func (a *Assembly) Empty() bool { return len(a.items) == 0 }

// Max returns the largest d.p over all points, and -Inf where there are none.
func (a *Assembly) Max(d geom.Vec3) float64 {
	v, _ := a.Furthest(d)
	return v
}

// Furthest returns the largest d.p over all points and the point that has it.
func (a *Assembly) Furthest(d geom.Vec3) (float64, geom.Vec3) {
	best, at := math.Inf(-1), geom.Vec3{}
	if len(a.nodes) > 0 {
		a.search(0, d, &best, &at)
	}
	return best, at
}

func (a *Assembly) search(i int, d geom.Vec3, best *float64, at *geom.Vec3) {
	n := &a.nodes[i]
	if reach(n.box, d) <= *best {
		return
	}
	if n.right == 0 {
		for k := n.first; k < n.last; k++ {
			if reach(a.boxes[k], d) <= *best {
				continue
			}
			it := a.items[k]
			offset := d.Dot(it.At.Column(3))
			local := *best - offset
			if p := it.Of.furthest(it.At.Transposed(d), &local); p >= 0 {
				*best, *at = local+offset, it.At.Point(it.Of.points[p])
			}
		}
		return
	}
	x, y := i+1, n.right
	if reach(a.nodes[x].box, d) < reach(a.nodes[y].box, d) {
		x, y = y, x
	}
	a.search(x, d, best, at)
	a.search(y, d, best, at)
}

// Bounds returns the exact box round all points.
func (a *Assembly) Bounds() geom.Box {
	box := geom.EmptyBox()
	if a.Empty() {
		return box
	}
	for k := range 3 {
		d := geom.Vec3{}
		d[k] = 1
		box.Max[k] = a.Max(d)
		box.Min[k] = -a.Max(d.Mul(-1))
	}
	return box
}

// Footprint returns the smallest circle round the projection of all points on the floor: that of a few of
// them, to which the point that lies furthest outside is added until none does.
func (a *Assembly) Footprint() geom.Circle {
	if a.Empty() {
		return geom.Circle{}
	}
	var few []geom.Vec2
	for i := range 8 {
		sin, cos := math.Sincos(float64(i) * math.Pi / 4)
		_, p := a.Furthest(geom.Vec3{cos, 0, sin})
		few = append(few, geom.Vec2{p[0], p[2]})
	}
	for range 1000 {
		c := geom.EnclosingCircle(few)
		best, at := c.Radius*c.Radius*(1+1e-12), geom.Vec2{}
		if !a.outside(0, c.Centre, &best, &at) {
			return c
		}
		few = append(few, at)
	}
	return geom.EnclosingCircle(few)
}

// farCorner returns the square of the largest distance on the floor from a centre to a box.
func farCorner(b geom.Box, c geom.Vec2) float64 {
	x := math.Max(math.Abs(b.Min[0]-c[0]), math.Abs(b.Max[0]-c[0]))
	z := math.Max(math.Abs(b.Min[2]-c[1]), math.Abs(b.Max[2]-c[1]))
	return x*x + z*z
}

// outside raises best, a squared distance, to that of the furthest point on the floor if that is more.
func (a *Assembly) outside(i int, c geom.Vec2, best *float64, at *geom.Vec2) bool {
	n := &a.nodes[i]
	if farCorner(n.box, c) <= *best {
		return false
	}
	found := false
	if n.right == 0 {
		for k := n.first; k < n.last; k++ {
			if farCorner(a.boxes[k], c) > *best {
				found = a.items[k].outside(0, c, best, at) || found
			}
		}
		return found
	}
	x, y := i+1, n.right
	if farCorner(a.nodes[x].box, c) < farCorner(a.nodes[y].box, c) {
		x, y = y, x
	}
	found = a.outside(x, c, best, at)
	return a.outside(y, c, best, at) || found
}

func (p Placed) outside(i int, c geom.Vec2, best *float64, at *geom.Vec2) bool {
	n := &p.Of.nodes[i]
	if farCorner(n.box.Transformed(p.At), c) <= *best {
		return false
	}
	if n.right != 0 {
		found := p.outside(i+1, c, best, at)
		return p.outside(n.right, c, best, at) || found
	}
	found := false
	for _, v := range p.Of.points[n.first:n.last] {
		q := p.At.Point(v)
		if d := (q[0]-c[0])*(q[0]-c[0]) + (q[2]-c[1])*(q[2]-c[1]); d > *best {
			*best, *at, found = d, geom.Vec2{q[0], q[2]}, true
		}
	}
	return found
}

// In returns the assembly with everything placed by a further matrix.
func (a *Assembly) In(m geom.Mat4) *Assembly {
	items := slices.Clone(a.items)
	for i := range items {
		items[i].At = m.Mul(items[i].At)
	}
	return NewAssembly(items)
}
