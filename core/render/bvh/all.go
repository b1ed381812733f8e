package bvh

import "math/bits"

// All calls for everything that the ray meets before its far end, in no order: two surfaces that lie in each other both, and along an edge
// each triangle that has it.
func (s *Scene) All(r *Ray, w *Walker, visit func(Hit)) {
	for i := range s.Instances {
		inst := &s.Instances[i]
		m := inst.mesh(r.Time)
		if inst.Visible&r.Mask == 0 || len(m.nodes) == 0 {
			continue
		}
		o, d := inst.toMesh(r)
		var p prepared
		p.prepare(o, d)
		m.all(&p, r.Far, w, func(h Hit) {
			h.Instance = int32(i)
			visit(h)
		})
	}
}

func (m *Mesh) all(p *prepared, far float32, w *Walker, visit func(Hit)) {
	var t [8]float32
	top, at := 0, uint32(0)
	for {
		if at&leaf == 0 {
			n := &m.nodes[at]
			for mask := p.enters(n, far, &t); mask != 0; mask &= mask - 1 {
				w.stack[top] = pending(n.child[bits.TrailingZeros8(mask)&7])
				top++
			}
		} else {
			k := &m.packets[at&^leaf]
			for i := range 8 {
				tri := k.triangle(i)
				if t, u, v, ok := p.meet(&tri, far); ok {
					visit(Hit{T: t, U: u, V: v, Triangle: k.id[i], place: at<<3 | uint32(i)})
				}
			}
		}
		if top == 0 {
			return
		}
		top--
		at = w.stack[top].node()
	}
}
