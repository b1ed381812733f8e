package render

import (
	"cmp"
	"math"
	"slices"

	"perigyre/core/geom"
	"perigyre/core/render/bvh"
	"perigyre/core/scene"
)

// cutter takes away what of some bodies lies in it. It is cut along the ray: a hit inside it does not count, and
// where the ray leaves it within a solid body the cut face is met. There is no mesh boolean that could fail.
type cutter struct {
	cut    *scene.Cutter
	toMesh bvh.Matrix
	cuts   []bool // by body
	all    bool   // it spares none
}

// body is a part as it is placed once: all its meshes together have an inside.
type body struct {
	instances []int
	closed    bool
	bounds    geom.Box // in the room
}

// span is a stretch of a ray inside a cutter, with the outward normal of the cutter where the ray leaves it.
type span struct {
	from, to float32
	normal   bvh.Vec
}

// spans appends the stretches of a ray inside the cutter, beginning at 0 where the ray begins in it.
func (c *cutter) spans(s *Scene, o, d bvh.Vec, w *bvh.Walker, out []span) []span {
	if c.cut.Shape == "part" {
		return append(out, s.spansOf(c, o, d, w)...)
	}
	p, q := c.toMesh.Point(o), c.toMesh.Vector(d)
	h := vec(c.cut.Size.Mul(0.5))
	r := float32(c.cut.Radius)
	from, to, found := c.stretch(p, q, h, r)
	if !found {
		return out
	}
	return append(out, span{max(0, from), to, c.toMesh.Normal(c.outward(p.Add(q.Mul(to)), h, r)).Unit()})
}

// stretch is where a ray is in a cutter that is convex, in the cutter's own frame.
func (c *cutter) stretch(p, q, h bvh.Vec, r float32) (from, to float32, found bool) {
	if c.cut.Shape == "box" { // most rays miss it, and of the others most go in and out where its sides are flat
		a, b := between(p, q, h)
		if a > b || b <= 0 {
			return 0, 0, false
		}
		if r == 0 || onSide(p.Add(q.Mul(a)), h, r) && onSide(p.Add(q.Mul(b)), h, r) {
			return a, b, true
		}
	}
	from, to = float32(math.Inf(-1)), float32(math.Inf(1))
	hull := func(a, b float32) { // of pieces that make up one convex shape
		if a > b || b <= 0 {
			return
		}
		if !found {
			from, to, found = a, b, true
			return
		}
		from, to = min(from, a), max(to, b)
	}
	switch c.cut.Shape {
	case "slab":
		hull(between(p, q, bvh.Vec{X: nowhere, Y: h.Y, Z: nowhere}))
	case "sphere":
		hull(inBall(p, q, r))
	case "cylinder":
		a, b := inTube(p, q, 1, r)
		e, f := between(p, q, bvh.Vec{X: nowhere, Y: h.Y, Z: nowhere})
		hull(max(a, e), min(b, f))
	case "box":
		hull(between(p, q, bvh.Vec{X: h.X, Y: h.Y - r, Z: h.Z - r}))
		if r > 0 { // two more boxes, twelve edges, eight corners
			hull(between(p, q, bvh.Vec{X: h.X - r, Y: h.Y, Z: h.Z - r}))
			hull(between(p, q, bvh.Vec{X: h.X - r, Y: h.Y - r, Z: h.Z}))
			in := [3]float32{h.X - r, h.Y - r, h.Z - r}
			for axis := range 3 {
				for k := range 4 {
					at := [3]float32{}
					u, v := (axis+1)%3, (axis+2)%3
					at[u], at[v] = in[u]*float32(k&1*2-1), in[v]*float32(k>>1*2-1)
					away := p.Sub(bvh.Vec{X: at[0], Y: at[1], Z: at[2]})
					a, b := inTube(away, q, axis, r)
					half := [3]float32{nowhere, nowhere, nowhere}
					half[axis] = in[axis]
					e, f := between(away, q, bvh.Vec{X: half[0], Y: half[1], Z: half[2]})
					hull(max(a, e), min(b, f))
				}
			}
			for k := range 8 {
				hull(inBall(p.Sub(bvh.Vec{X: in[0] * float32(k&1*2-1), Y: in[1] * float32(k>>1&1*2-1), Z: in[2] * float32(k>>2*2-1)}), q, r))
			}
		}
	}
	return from, to, found
}

// onSide reports whether a point of a box's side is away from its rounded edges.
func onSide(p, h bvh.Vec, r float32) bool {
	edges := 0
	for _, k := range [3]float32{h.X - r - abs(p.X), h.Y - r - abs(p.Y), h.Z - r - abs(p.Z)} {
		if k < 0 {
			edges++
		}
	}
	return edges <= 1
}

// cutNear reports whether a ray comes through a cutter before its end.
func (s *Scene) cutNear(r *bvh.Ray, w *bvh.Walker) bool {
	var room [4]span
	for i := range s.cutters {
		for _, x := range s.cutters[i].spans(s, r.Origin, r.Direction, w, room[:0]) {
			if x.from < r.Far {
				return true
			}
		}
	}
	return false
}

const nowhere = 1e30

// between returns where a ray is within half sizes of a box about the origin.
func between(p, d, h bvh.Vec) (from, to float32) {
	from, to = float32(math.Inf(-1)), float32(math.Inf(1))
	for _, k := range [3][3]float32{{p.X, d.X, h.X}, {p.Y, d.Y, h.Y}, {p.Z, d.Z, h.Z}} {
		if k[1] == 0 {
			if abs(k[0]) > k[2] {
				return 1, 0
			}
			continue
		}
		a, b := (-k[2]-k[0])/k[1], (k[2]-k[0])/k[1]
		from, to = max(from, min(a, b)), min(to, max(a, b))
	}
	return from, to
}

func inBall(p, d bvh.Vec, r float32) (from, to float32) {
	return roots(d.Dot(d), p.Dot(d), p.Dot(p)-r*r)
}

// inTube is inside an endless cylinder along an axis.
func inTube(p, d bvh.Vec, axis int, r float32) (from, to float32) {
	switch axis {
	case 0:
		p.X, d.X = 0, 0
	case 1:
		p.Y, d.Y = 0, 0
	default:
		p.Z, d.Z = 0, 0
	}
	return inBall(p, d, r)
}

// roots solves a t^2 + 2 b t + c < 0.
func roots(a, b, c float32) (from, to float32) {
	if a == 0 {
		if c < 0 {
			return float32(math.Inf(-1)), float32(math.Inf(1))
		}
		return 1, 0
	}
	disc := float64(b)*float64(b) - float64(a)*float64(c)
	if disc <= 0 {
		return 1, 0
	}
	root := float32(math.Sqrt(disc))
	return (-b - root) / a, (-b + root) / a
}

// outward returns the cutter's normal at a point of its surface, in its own frame.
func (c *cutter) outward(p, h bvh.Vec, r float32) bvh.Vec {
	switch c.cut.Shape {
	case "slab":
		return bvh.Vec{Y: sign(p.Y)}
	case "sphere":
		return p
	case "cylinder":
		if abs(p.Y) > h.Y*(1-1e-4) && sqrt(p.X*p.X+p.Z*p.Z) < float32(c.cut.Radius)*(1-1e-4) {
			return bvh.Vec{Y: sign(p.Y)}
		}
		return bvh.Vec{X: p.X, Z: p.Z}
	}
	q := bvh.Vec{X: abs(p.X) - h.X + r, Y: abs(p.Y) - h.Y + r, Z: abs(p.Z) - h.Z + r}
	if r > 0 {
		out := bvh.Vec{X: max(0, q.X) * sign(p.X), Y: max(0, q.Y) * sign(p.Y), Z: max(0, q.Z) * sign(p.Z)}
		if out.Dot(out) > 0 {
			return out
		}
	}
	switch {
	case q.X >= q.Y && q.X >= q.Z:
		return bvh.Vec{X: sign(p.X)}
	case q.Y >= q.Z:
		return bvh.Vec{Y: sign(p.Y)}
	}
	return bvh.Vec{Z: sign(p.Z)}
}

func sign(v float32) float32 {
	if v < 0 {
		return -1
	}
	return 1
}

// crossing is where a ray goes through the surface of a body.
type crossing struct {
	t       float32
	normal  bvh.Vec    // outwards
	in      bool       // it comes in there
	of      int32      // the instance
	corners [3]bvh.Vec // of the triangle, in the frame of its mesh
}

// crossings are all surfaces of some instances of a tree that a ray goes through, in order; of those in one place the ones by which it
// comes in are first. Surfaces that lie in each other count each; what meets at an edge or a corner that the ray hits is one.
func crossings(tree *bvh.Scene, pieces []piece, o, d bvh.Vec, time float32, w *bvh.Walker, out []crossing) []crossing {
	r := bvh.Ray{Origin: o, Direction: d, Far: math.MaxFloat32, Mask: 255, Time: time}
	reach := float32(0)
	tree.All(&r, w, func(h bvh.Hit) {
		inst := &tree.Instances[h.Instance]
		a, b, c := inst.Corners(&h, time)
		_, toMesh := inst.At(time)
		n := toMesh.Normal(b.Sub(a).Cross(c.Sub(a))).Unit() // outwards through a mirror too
		out = append(out, crossing{h.T, n, n.Dot(d) < 0, h.Instance, [3]bvh.Vec{a, b, c}})
		reach = max(reach, pieces[h.Instance].reach)
	})
	slices.SortFunc(out, func(a, b crossing) int { return cmp.Compare(a.t, b.t) })
	kept := out[:0]
	for _, x := range out {
		at := o.Add(d.Mul(x.t))
		fine := 4e-6 * (abs(at.X) + abs(at.Y) + abs(at.Z) + reach)
		same := false
		for k := len(kept) - 1; k >= 0 && x.t-kept[k].t <= fine && !same; k-- {
			same = kept[k].in == x.in && kept[k].touches(&x)
		}
		if same {
			continue
		}
		k := len(kept)
		for ; x.in && k > 0 && x.t-kept[k-1].t <= fine && !kept[k-1].in; k-- {
		}
		kept = slices.Insert(kept, k, x)
	}
	return kept
}

// touches reports whether two triangles share a corner.
func (x *crossing) touches(y *crossing) bool {
	if x.of != y.of {
		return false
	}
	for _, p := range x.corners {
		for _, q := range y.corners {
			if p == q {
				return true
			}
		}
	}
	return false
}

// spansOf returns the stretches inside the closed part that cuts.
func (s *Scene) spansOf(c *cutter, o, d bvh.Vec, w *bvh.Walker) []span {
	var out []span
	var room [16]crossing
	depth, from := 0, float32(0)
	for _, x := range crossings(s.cutTrees[c].tree, s.cutTrees[c].pieces, o, d, 0.5, w, room[:0]) {
		if x.in {
			if depth == 0 {
				from = x.t
			}
			depth++
			continue
		}
		if depth <= 1 { // it may have begun inside
			if depth == 0 {
				from, out = 0, out[:0]
			}
			out = append(out, span{from, x.t, x.normal})
			depth = 1
		}
		depth--
	}
	return out
}

// inside reports whether a point lies in a closed body: going out from it a ray leaves it once more than it
// comes in.
func (s *Scene) inside(b *body, at bvh.Vec, d bvh.Vec, time float32, w *bvh.Walker) bool {
	if !b.closed || !b.around(at) {
		return false
	}
	tree := s.bodyTrees[b]
	var room [16]crossing
	depth := 0
	for _, x := range crossings(tree.tree, tree.pieces, at, d, time, w, room[:0]) {
		if x.in {
			depth--
		} else {
			depth++
		}
	}
	return depth > 0
}

// around reports whether a point lies in the box round a body.
func (b *body) around(at bvh.Vec) bool {
	for k, v := range [3]float32{at.X, at.Y, at.Z} {
		if float64(v) < b.bounds.Min[k] || float64(v) > b.bounds.Max[k] {
			return false
		}
	}
	return true
}

// subtree is a tree over some instances.
type subtree struct {
	tree   *bvh.Scene
	pieces []piece
}

// stretch is a span of a ray in a cutter.
type stretch struct {
	span
	c *cutter
}

// findCut is find with cutters. The ray goes from one place where something may be seen to the next: to what it meets before it comes
// into a cutter that cuts everything, then on from where it leaves it. What lies in a cutter that spares some is met, and passed
// over if it is gone.
func (s *Scene) findCut(r *bvh.Ray, w *bvh.Walker, p *point) bool {
	var held [8]stretch
	var room [8]span
	away := held[:0]
	for i := range s.cutters {
		c := &s.cutters[i]
		for _, x := range c.spans(s, r.Origin, r.Direction, w, room[:0]) {
			if x.from < r.Far {
				away = append(away, stretch{x, c})
			}
		}
	}
	if len(away) == 0 {
		return s.findPlain(r, w, p)
	}
	if len(away) > 1 {
		slices.SortFunc(away, func(a, b stretch) int { return cmp.Compare(a.to, b.to) })
	}
	next := 0 // of those whose ends have not been passed
	start := float32(0)
	for range 4 * maxHoles {
		for moved := true; moved; { // nothing is left in what cuts everything
			moved = false
			for k := range away {
				if a := &away[k]; a.c.all && a.from <= start && a.to > start {
					if start = a.to; start >= r.Far {
						return false // it ends in there
					}
					moved = true
				}
			}
		}
		one := *r
		until := r.Far
		for k := range away {
			if a := &away[k]; a.c.all && a.from > start {
				until = min(until, a.from)
			}
		}
		one.Origin, one.Far = r.Origin.Add(r.Direction.Mul(start)), until-start
		var h bvh.Hit
		ok := s.tree.Intersect(&one, w, &h)
		t := until
		if ok {
			t = start + h.T
		}
		for ; next < len(away) && away[next].to < t && away[next].to < r.Far; next++ {
			if s.face(r, away, &away[next], &h, ok, w, p) {
				return true
			}
		}
		if !ok {
			if start = until; start >= r.Far {
				return false
			}
			continue
		}
		pc := &s.pieces[h.Instance]
		if !gone(away, int(pc.body), t, nil) {
			p.hit = h
			s.at(&one, p)
			return true
		}
		at := r.Origin.Add(r.Direction.Mul(t))
		start = t + 4e-6*(abs(at.X)+abs(at.Y)+abs(at.Z)+pc.reach)
	}
	return false
}

// gone reports whether what of a body lies at t along a ray is cut away by another cutter than one.
func gone(away []stretch, body int, t float32, but *cutter) bool {
	for k := range away {
		if a := &away[k]; a.c != but && a.c.cuts[body] && t > a.from && t < a.to {
			return true
		}
	}
	return false
}

// face sets p to the cut face where a ray leaves a cutter, if there is one. h is what it meets next, if ok: of what it goes out of there, the ray was
// inside.
func (s *Scene) face(r *bvh.Ray, away []stretch, a *stretch, h *bvh.Hit, ok bool, w *bvh.Walker, p *point) bool {
	if !(a.to < math.MaxFloat32) || !ok && r.Far == math.MaxFloat32 && !cutAhead(away, a) {
		return false // what meets nothing any more is in nothing
	}
	at := r.Origin.Add(r.Direction.Mul(a.to))
	for b := range s.bodies {
		one := &s.bodies[b]
		if !a.c.cuts[b] || !one.closed || !one.around(at) || gone(away, b, a.to, a.c) {
			continue
		}
		pc := &s.pieces[one.instances[0]]
		if s.tree.Instances[one.instances[0]].Visible&r.Mask == 0 {
			continue
		}
		if !(ok && int(s.pieces[h.Instance].body) == b && s.leaves(h, r)) && !s.inside(one, at, r.Direction, r.Time, w) {
			continue
		}
		p.spot = spot{at: at, piece: pc, normal: a.normal, cap: true, capColor: a.c.cut.Color}
		if p.normal.Dot(r.Direction) > 0 {
			p.normal = p.normal.Mul(-1)
		}
		p.error = 4e-6 * (abs(at.X) + abs(at.Y) + abs(at.Z) + pc.reach)
		return true
	}
	return false
}

// cutAhead reports whether a ray comes into another cutter after it has left one.
func cutAhead(away []stretch, a *stretch) bool {
	return slices.ContainsFunc(away, func(b stretch) bool { return b.from > a.to })
}

// leaves reports whether a ray goes out of a body where it meets it.
func (s *Scene) leaves(h *bvh.Hit, r *bvh.Ray) bool {
	a, b, c := s.tree.Instances[h.Instance].Corners(h, r.Time)
	_, toMesh := s.tree.Instances[h.Instance].At(r.Time)
	return toMesh.Normal(b.Sub(a).Cross(c.Sub(a))).Dot(r.Direction) > 0
}
