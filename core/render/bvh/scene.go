package bvh

// Instance is a mesh placed in the room.
type Instance struct {
	Mesh    *Mesh
	ToRoom  Matrix
	ToMesh  Matrix // the inverse
	Visible uint8  // seen by rays whose mask shares a bit
}

// Scene is a searchable set of instances.
type Scene struct {
	Instances []Instance
	nodes     []node
	order     []uint32
}

// NewScene builds the tree over the instances; the meshes' trees are shared.
func NewScene(instances []Instance) *Scene {
	s := &Scene{Instances: instances}
	boxes := make([]box, len(instances))
	for i := range instances {
		boxes[i] = instances[i].bounds()
	}
	s.nodes, s.order = build(boxes)
	return s
}

func (i *Instance) bounds() box {
	b := emptyBox()
	if len(i.Mesh.nodes) == 0 {
		return b
	}
	whole := i.Mesh.nodes[0].box()
	lo, hi := whole.lo, whole.hi
	size := hi.Sub(lo)
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
		q := i.ToRoom.Point(p)
		b = box{b.lo.min(q), b.hi.max(q)}
	}
	// A rotated box is rounded; the mesh in it must not stick out.
	pad := (abs(size.X) + abs(size.Y) + abs(size.Z) + abs(b.hi.X) + abs(b.hi.Y) + abs(b.hi.Z)) * 1e-6
	d := Vec{pad, pad, pad}
	return box{b.lo.Sub(d), b.hi.Add(d)}
}

// toMesh returns the ray in the instance's frame. Distances along it stay the same.
func (i *Instance) toMesh(r *Ray, far float32) Ray {
	return Ray{Origin: i.ToMesh.Point(r.Origin), Direction: i.ToMesh.Vector(r.Direction), Far: far}
}

// Intersect returns the nearest hit of the ray before its far end.
func (s *Scene) Intersect(r *Ray) (Hit, bool) {
	hit := Hit{T: r.Far, Instance: -1}
	if len(s.nodes) == 0 {
		return hit, false
	}
	p := prepare(r)
	var stack [maxDepth + 4]pending
	top := 0
	if t, in := p.enter(&s.nodes[0], hit.T); in {
		stack[0], top = pending{0, t}, 1
	}
	for top > 0 {
		top--
		if stack[top].t >= hit.T {
			continue
		}
		n := &s.nodes[stack[top].node]
		if n.count == 0 {
			t0, in0 := p.enter(&s.nodes[n.first], hit.T)
			t1, in1 := p.enter(&s.nodes[n.first+1], hit.T)
			first, second := pending{n.first, t0}, pending{n.first + 1, t1}
			if in0 && in1 && t1 < t0 {
				first, second = second, first
			} else if !in0 {
				first, in0, second, in1 = second, in1, first, in0
			}
			if in1 {
				stack[top] = second
				top++
			}
			if in0 {
				stack[top] = first
				top++
			}
			continue
		}
		for _, i := range s.order[n.first : n.first+n.count] {
			inst := &s.Instances[i]
			if inst.Visible&r.Mask == 0 {
				continue
			}
			local := inst.toMesh(r, hit.T)
			if inst.Mesh.intersect(&local, &hit) {
				hit.Instance = int32(i)
			}
		}
	}
	return hit, hit.Instance >= 0
}

// Occluded reports whether anything that the ray's mask sees lies before its far end.
func (s *Scene) Occluded(r *Ray) bool {
	if len(s.nodes) == 0 {
		return false
	}
	p := prepare(r)
	var stack [maxDepth + 4]uint32
	top := 1
	for top > 0 {
		top--
		n := &s.nodes[stack[top]]
		if _, in := p.enter(n, r.Far); !in {
			continue
		}
		if n.count == 0 {
			stack[top], stack[top+1] = n.first+1, n.first
			top += 2
			continue
		}
		for _, i := range s.order[n.first : n.first+n.count] {
			inst := &s.Instances[i]
			if inst.Visible&r.Mask == 0 {
				continue
			}
			local := inst.toMesh(r, r.Far)
			if inst.Mesh.occluded(&local) {
				return true
			}
		}
	}
	return false
}
