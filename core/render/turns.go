package render

import (
	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/scene"
)

// turning is how a part looks the same turned.
type turning struct {
	turns, axis int
	through     geom.Vec3
	size        float64
}

// Turns tells scenes of meshes that look the same turned (scene.Symmetry): by their shape, where no colours lie on it.
func (p *Props) Turns(m scene.Mesh) (turns, axis int, through geom.Vec3, size float64) {
	shapes, err := p.shapes(m)
	if err != nil || len(shapes) == 0 {
		return 1, 0, geom.Vec3{}, 0
	}
	first := shapes[0].mesh
	p.mu.Lock()
	known, ok := p.turned[first]
	p.mu.Unlock()
	if ok {
		return known.turns, known.axis, known.through, known.size
	}
	out := turning{turns: 1}
	var list []*mesh.Mesh
	plain, box := true, geom.EmptyBox()
	for _, sh := range shapes {
		list = append(list, sh.mesh)
		plain, box = plain && sh.mesh.Colors == nil, box.Union(sh.bounds)
	}
	for a := range 3 {
		if !plain {
			break
		}
		if n, c := mesh.Turns(list, a); n > out.turns {
			out = turning{n, a, c, box.Size().Len()}
		}
	}
	p.mu.Lock()
	p.turned[first] = out
	p.mu.Unlock()
	return out.turns, out.axis, out.through, out.size
}
