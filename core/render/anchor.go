package render

import (
	"context"
	"math"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/render/bvh"
	"perigyre/core/scene"
)

// anchor is where on a mesh a pixel is, of what bends or hangs on bones: so it is found again where the mesh lies otherwise.
type anchor struct {
	primitive int32 // of the body; -1 where none of it is met
	triangle  uint32
	u, v      float32 // weights of the triangle's second and third corner
}

// anchors holds what pixels of soft bodies are anchored to, and the meshes of those bodies as they lie. All is nil without such bodies.
type anchors struct {
	anchored []anchor             // by pixel
	soft     map[int][]*mesh.Mesh // by body
}

// newAnchors finds, by one ray through the middle of each pixel that is of a soft body, where on it that is.
func (s *Scene) newAnchors(ctx context.Context, f *Film, from *scene.Scene, threads int) (a anchors) {
	for b := range from.Bodies {
		if !from.Bodies[b].Soft() {
			continue
		}
		if a.soft == nil {
			a.soft = map[int][]*mesh.Mesh{}
		}
		for _, i := range s.bodies[b].instances {
			a.soft[b] = append(a.soft[b], s.pieces[i].mesh)
		}
	}
	if a.soft == nil {
		return a
	}
	a.anchored = make([]anchor, f.Width*f.Height)
	shareOut(ctx, threads, f.Height, func() func(int) {
		w := new(bvh.Walker)
		return func(y int) {
			for x := range f.Width {
				i := y*f.Width + x
				a.anchored[i].primitive = -1
				if thing := f.guides.thing[i]; thing >= 0 && thing&1 == 0 && a.soft[int(thing/2)] != nil {
					a.anchored[i] = s.anchor((float32(x)+0.5)/float32(f.Width), (float32(f.top+y)+0.5)/float32(f.of), thing/2, w)
				}
			}
		}
	})
	return a
}

// anchor is where on a body a place of the picture is, 0 to 1 from the left and from the top.
func (s *Scene) anchor(x, y float32, of int32, w *bvh.Walker) anchor {
	c := &s.camera
	var r bvh.Ray
	if r.Origin, r.Direction = c.position, c.point(x, y, 1).Sub(c.position).Unit(); c.flat {
		r.Origin, r.Direction = c.point(x, y, 0), c.ahead
	}
	r.Far, r.Mask, r.Time = math.MaxFloat32, solid|pierced|glassy, 0.5
	var p point
	for range maxHoles {
		if !s.find(&r, w, &p) {
			break
		}
		if p.piece.body == of && !p.cap {
			for k, i := range s.bodies[of].instances {
				if &s.pieces[i] == p.piece {
					return anchor{int32(k), p.hit.Triangle, p.hit.U, p.hit.V}
				}
			}
		}
		r.Origin = p.leave(r.Direction)
	}
	return anchor{primitive: -1}
}

// spotOn returns the point of a triangle of a mesh by the weights of its second and third corner.
func spotOn(m *mesh.Mesh, triangle uint32, u, v float32) bvh.Vec {
	a, b, c := corners(m, triangle)
	return a.Mul(1 - u - v).Add(b.Mul(u)).Add(c.Mul(v))
}

func corners(m *mesh.Mesh, triangle uint32) (a, b, c bvh.Vec) {
	i := m.Indices[3*triangle:]
	return position(m.Positions[i[0]]), position(m.Positions[i[1]]), position(m.Positions[i[2]])
}

// carried takes a pixel's place and normal in the room to where its surface is in a neighbour, by the body's placement there and by how
// its mesh lies there. It fails where the pixel has no anchor.
func (e *exposure) carried(n *exposure, body int, p *passage, i int, at bvh.Vec) (to, normal bvh.Vec, ok bool) {
	if e.anchored == nil {
		return to, normal, false
	}
	a, then := e.anchored[i], n.soft[p.body]
	if a.primitive < 0 || int(a.primitive) >= len(then) {
		return to, normal, false
	}
	m, o := e.soft[body][a.primitive], then[a.primitive]
	if len(m.Indices) != len(o.Indices) || len(m.Positions) != len(o.Positions) {
		return to, normal, false
	}
	here, there := matrix(e.from.Bodies[body].At), matrix(n.from.Bodies[p.body].At)
	off := at.Sub(here.Point(spotOn(m, a.triangle, a.u, a.v)))
	turn := geom.Between(wide(p.move.Vector(faceOf(&here, m, a.triangle))), wide(faceOf(&there, o, a.triangle)))
	turned := func(v bvh.Vec) bvh.Vec { return vec(turn.Rotate(wide(p.move.Vector(v)))) }
	return there.Point(spotOn(o, a.triangle, a.u, a.v)).Add(turned(off)), turned(e.film.guides.normal[i]).Unit(), true
}

// faceOf is across a triangle of a mesh that stands somewhere, as long as twice its area.
func faceOf(at *bvh.Matrix, m *mesh.Mesh, triangle uint32) bvh.Vec {
	a, b, c := corners(m, triangle)
	return at.Vector(b.Sub(a)).Cross(at.Vector(c.Sub(a)))
}

func wide(v bvh.Vec) geom.Vec3 { return geom.Vec3{float64(v.X), float64(v.Y), float64(v.Z)} }
