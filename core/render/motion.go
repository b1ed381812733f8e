package render

import (
	"perigyre/core/mesh"
	"perigyre/core/render/bvh"
)

// motionField is where the camera is half a frame before and half a frame after, for the motion pass: what a point goes in the
// picture in a frame's time.
type motionField struct {
	cameras [2]camera
	frames  float32 // between the two, less at an end
}

// ends are the meshes of what bends or hangs on bones, as they lie before and after.
type ends [2]*mesh.Mesh

// of returns the place of a point of a triangle of the mesh, before or after.
func (e *ends) of(h *bvh.Hit, when int) bvh.Vec {
	return spotOn(e[when], h.Triangle, h.U, h.V)
}

// motionOf is where a point goes, if that is asked for.
func (s *Scene) motionOf(p *point, q *settings) (way [2]float32) {
	if q.motion {
		way = s.motion.of(p)
	}
	return way
}

// of returns the way of a point in the picture, to the right and up, as a share of half its size.
func (m *motionField) of(p *point) (way [2]float32) {
	if p.cap {
		return way // it stands where the cutter is, not where the body goes
	}
	own := p.toMesh().Point(p.at)
	before, after := own, own
	if b := p.piece.ends; b != nil {
		before, after = b.of(&p.hit, 0), b.of(&p.hit, 1)
	}
	x0, y0 := m.cameras[0].place(p.piece.ways[0].Point(before))
	x1, y1 := m.cameras[1].place(p.piece.ways[1].Point(after))
	return [2]float32{(x1 - x0) / m.frames, (y1 - y0) / m.frames}
}

// place returns where a point is in the picture, from -1 at the left and the bottom to 1.
func (c *camera) place(p bvh.Vec) (x, y float32) {
	to := p.Sub(c.position)
	x, y = to.Dot(c.right)/c.right.Dot(c.right), to.Dot(c.up)/c.up.Dot(c.up)
	if !c.flat {
		depth := to.Dot(c.ahead)
		x, y = x/depth-c.x, y/depth-c.y
	}
	return x, y
}
