package bvh

import "math/bits"

// Instance is a mesh placed in the room.
type Instance struct {
	Mesh    *Mesh
	ToRoom  Matrix
	ToMesh  Matrix // the inverse
	Visible uint8  // seen by rays whose mask shares a bit

	Meshes []*Mesh  // what it is in equal parts of the shutter's time, of what bends meanwhile; none for what does not
	Keys   []Matrix // to the room at times even over the shutter's, the first and the last too; none for what stands still
}

// Scene is a searchable set of instances.
type Scene struct {
	Instances []Instance
	nodes     []wide // whose leaves are instances
}

// NewScene builds the tree over the instances.
func NewScene(instances []Instance) *Scene {
	s := &Scene{Instances: instances}
	items := make([]item, 0, len(instances))
	for i := range instances {
		if len(instances[i].Mesh.nodes) > 0 {
			items = append(items, newItem(instances[i].bounds(), uint32(i)))
		}
	}
	if len(items) > 0 {
		s.nodes = widen(build(items, 1), func(n *node) uint32 { return leaf | items[n.first].id })
	}
	return s
}

func (i *Instance) bounds() box {
	b := emptyBox()
	whole := i.Mesh.whole
	for _, m := range i.Meshes {
		whole.hold(m.whole.lo)
		whole.hold(m.whole.hi)
	}
	lo, hi := whole.lo, whole.hi
	size := hi.Sub(lo)
	keys := i.Keys
	if len(keys) == 0 {
		keys = []Matrix{i.ToRoom}
	}
	for m := range keys { // between two of them every point goes straight, and so stays within
		for k := range 8 {
			p := lo
			if k&1 != 0 {
				p.X = hi.X
			}
			if k&2 != 0 {
				p.Y = hi.Y
			}
			if k&4 != 0 {
				p.Z = hi.Z
			}
			b.hold(keys[m].Point(p))
		}
	}
	// A rotated box is rounded; the mesh in it must not stick out.
	pad := (abs(size.X) + abs(size.Y) + abs(size.Z) + abs(b.hi.X) + abs(b.hi.Y) + abs(b.hi.Z)) * 1e-6
	d := Vec{pad, pad, pad}
	return box{b.lo.Sub(d), b.hi.Add(d)}
}

// mesh returns what the instance is at a time of the shutter.
func (i *Instance) mesh(time float32) *Mesh {
	if len(i.Meshes) == 0 {
		return i.Mesh
	}
	return i.Meshes[min(len(i.Meshes)-1, int(time*float32(len(i.Meshes))))]
}

// toMesh returns where a ray begins and where it goes in the instance's frame. Distances along it stay the same.
func (i *Instance) toMesh(r *Ray) (origin, direction Vec) {
	m := &i.ToMesh
	if i.Moves() {
		_, back := i.At(r.Time)
		m = &back
	}
	return m.Point(r.Origin), m.Vector(r.Direction)
}

// Corners returns those of the triangle of a hit, in the mesh's frame: from where the walk has just been.
func (i *Instance) Corners(h *Hit, time float32) (a, b, c Vec) {
	return i.mesh(time).packets[h.place>>3].corners(h.place)
}

// Intersect sets hit to the nearest of the ray before its far end, and reports whether there is one.
func (s *Scene) Intersect(r *Ray, w *Walker, hit *Hit) bool {
	hit.T, hit.U, hit.V, hit.Triangle, hit.Instance, hit.place = r.Far, 0, 0, 0, -1, 0
	if len(s.Instances) == 1 { // there is nothing to choose from
		inst := &s.Instances[0]
		if inst.Visible&r.Mask != 0 {
			o, d := inst.toMesh(r)
			if inst.mesh(r.Time).intersect(o, d, hit, w) {
				hit.Instance = 0
			}
		}
		return hit.Instance >= 0
	}
	if len(s.nodes) == 0 {
		return false
	}
	var p prepared
	p.prepare(r.Origin, r.Direction)
	var t [8]float32
	top, at := 0, uint32(0)
	for {
		if at&leaf == 0 {
			n := &s.nodes[at]
			top = push(w.upper[:], top, p.enters(n, hit.T, &t), &t, &n.child)
		} else if inst := &s.Instances[at&^leaf]; inst.Visible&r.Mask != 0 {
			o, d := inst.toMesh(r)
			if inst.mesh(r.Time).intersect(o, d, hit, w) {
				hit.Instance = int32(at &^ leaf)
			}
		}
		for {
			if top == 0 {
				return hit.Instance >= 0
			}
			if top--; w.upper[top].within(hit.T) {
				break
			}
		}
		at = w.upper[top].node()
	}
}

// Occluded reports whether anything that the ray's mask sees lies before its far end.
func (s *Scene) Occluded(r *Ray, w *Walker) bool {
	if len(s.Instances) == 1 {
		inst := &s.Instances[0]
		if inst.Visible&r.Mask == 0 {
			return false
		}
		o, d := inst.toMesh(r)
		return inst.mesh(r.Time).occluded(o, d, r.Far, w)
	}
	if len(s.nodes) == 0 {
		return false
	}
	var p prepared
	p.prepare(r.Origin, r.Direction)
	var t [8]float32
	top, at := 0, uint32(0)
	for {
		if at&leaf == 0 {
			n := &s.nodes[at]
			for mask := p.enters(n, r.Far, &t); mask != 0; mask &= mask - 1 {
				w.upper[top] = pending(n.child[bits.TrailingZeros8(mask)&7])
				top++
			}
		} else if inst := &s.Instances[at&^leaf]; inst.Visible&r.Mask != 0 {
			o, d := inst.toMesh(r)
			if inst.mesh(r.Time).occluded(o, d, r.Far, w) {
				return true
			}
		}
		if top == 0 {
			return false
		}
		top--
		at = w.upper[top].node()
	}
}

// enters is enter8 by the kernel of this machine.
func (p *prepared) enters(n *wide, far float32, t *[8]float32) uint8 {
	if Vector() {
		return p.enterVector(n, far, t)
	}
	return p.enter8(n, far, t)
}
