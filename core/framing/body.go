package framing

import (
	"crypto/sha256"
	"encoding/binary"
	"fmt"
	"math"
	"sync"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// Geometry gives the points of a part's surface in the part's own frame, none for a part that has
// no surface.
type Geometry interface {
	Points(p *shot.Part) ([]geom.Vec3, error)
}

// Body is everything visible that moves rigidly together.
type Body struct {
	Carrier int           // the part whose world matrix carries it, -1 for the room
	Reach   *mesh.Support // its points in the carrier's frame
}

// Cache keeps the search trees of bodies between calls, by what they are made of, so that an edit
// that leaves the shapes alone costs nothing. The zero Cache is ready; it may be shared.
type Cache struct {
	mu    sync.Mutex
	trees map[[32]byte]*mesh.Support
}

const cacheSize = 64 // bodies; the cache starts afresh when it is full

// placed is a part with its matrix in its carrier's frame.
type placed struct {
	part   *shot.Part
	matrix geom.Mat4
}

// Bodies gathers the visible surfaces of a shot. The cache may be nil.
func Bodies(e *pose.Evaluator, g Geometry, cache *Cache) ([]Body, error) {
	carrier, world := e.Carrier(), e.At(0)
	members := map[int][]placed{}
	var order []int
	for i := range e.Shot.Parts {
		p := &e.Shot.Parts[i]
		if p.Kind != shot.Solid && p.Kind != shot.Plinth && p.Kind != shot.Made && p.Kind != shot.Group || hidden(e.Shot, i) {
			continue
		}
		c, m := carrier[i], world[i]
		if c >= 0 {
			inv, _ := world[c].Inverse()
			m = inv.Mul(m)
		}
		if members[c] == nil {
			order = append(order, c)
		}
		members[c] = append(members[c], placed{p, m})
	}
	for _, sp := range e.Spreads(world) {
		if hidden(e.Shot, sp.Spread) {
			continue
		}
		// Copies move with what they are in; what the copied parts do by themselves is looked at on
		// frame 0 alone.
		c, own := carrier[sp.Spread], world[sp.Spread]
		if c >= 0 {
			inv, _ := world[c].Inverse()
			own = inv.Mul(own)
		}
		if members[c] == nil {
			order = append(order, c)
		}
		for _, m := range sp.Places {
			members[c] = append(members[c], placed{&e.Shot.Parts[sp.Part], own.Mul(m)})
		}
	}
	var bodies []Body
	for _, c := range order {
		reach, err := cache.tree(members[c], g)
		if err != nil {
			return nil, err
		}
		if reach != nil {
			bodies = append(bodies, Body{c, reach})
		}
	}
	return bodies, nil
}

// tree returns the search tree over all points of the members, or nil where they have none.
func (c *Cache) tree(members []placed, g Geometry) (*mesh.Support, error) {
	var key [32]byte
	if c != nil {
		h := sha256.New()
		for _, m := range members {
			fmt.Fprint(h, m.part.Kind)
			if m.part.Mesh != nil {
				fmt.Fprintf(h, "%v", *m.part.Mesh)
			}
			if made := m.part.Shaped(); made != nil {
				fmt.Fprint(h, made.Key())
			}
			_ = binary.Write(h, binary.LittleEndian, m.matrix) // a hash does not fail
		}
		h.Sum(key[:0])
		c.mu.Lock()
		known, ok := c.trees[key]
		c.mu.Unlock()
		if ok {
			return known, nil
		}
	}
	points, err := gather(members, g)
	if err != nil {
		return nil, err
	}
	var tree *mesh.Support
	if len(points) > 0 {
		tree = mesh.NewSupport(points)
	}
	if c != nil {
		c.mu.Lock()
		if c.trees == nil || len(c.trees) >= cacheSize {
			c.trees = map[[32]byte]*mesh.Support{}
		}
		c.trees[key] = tree
		c.mu.Unlock()
	}
	return tree, nil
}

// mostPoints of copies are looked at one by one; of more, the copies' furthest points in 26 directions
// stand for them.
const mostPoints = 4_000_000

// gather returns the points of all members in their carrier's frame.
func gather(members []placed, g Geometry) ([]geom.Vec3, error) {
	own := map[*shot.Part][]geom.Vec3{}
	total := 0
	for _, m := range members {
		if _, ok := own[m.part]; !ok {
			points, err := g.Points(m.part)
			if err != nil {
				return nil, err
			}
			own[m.part] = points
		}
		total += len(own[m.part])
	}
	if total > mostPoints && len(members) > len(own) {
		for p, points := range own {
			if len(points) > 26 {
				own[p] = mesh.NewSupport(points).Extremes()
			}
		}
	}
	var points []geom.Vec3
	for _, m := range members {
		for _, v := range own[m.part] {
			points = append(points, m.matrix.Point(v))
		}
	}
	return points, nil
}

func hidden(s *shot.Shot, i int) bool {
	for ; i >= 0; i = s.Index(s.Parts[i].Parent) {
		if s.Parts[i].Hidden {
			return true
		}
	}
	return false
}

// sweep calls visit for moments that cover the whole shot: every frame, and enough moments between
// frames that a turn is looked at at least every degree, so that what lies between frames, where a
// shutter would be open, is inside too.
func sweep(e *pose.Evaluator, visit func(t float64, world []geom.Mat4)) {
	n := e.Shot.Frames
	last := n
	if e.Shot.Ending == shot.Once {
		last = n - 1
	}
	between := 1
	for _, m := range e.Carrier() {
		if m >= 0 {
			between = max(1, (360+n-1)/n)
		}
	}
	if last == 0 {
		visit(0, e.At(0))
	}
	for k := 0; k < last*between; k++ {
		t := float64(k) / float64(between)
		visit(t, e.At(t))
	}
	if e.Shot.Ending == shot.Once && last > 0 {
		visit(float64(last), e.At(float64(last)))
	}
}

// reach returns the most that d.p is for the points p of the body, seen through the matrix m that
// takes the room to the frame in which d is given.
func (b Body) reach(world []geom.Mat4, m geom.Mat4, d geom.Vec3) float64 {
	if b.Carrier >= 0 {
		m = m.Mul(world[b.Carrier])
	}
	r := b.Reach.Max(m.Transposed(d))
	if math.IsInf(r, -1) {
		return r
	}
	return r + d.Dot(m.Column(3))
}
