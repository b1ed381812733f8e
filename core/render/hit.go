package render

import (
	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/render/bvh"
)

// point is where a ray met a surface.
type point struct {
	spot
	moved [2]bvh.Matrix // of what moves: where it is at the ray's time, and back
}

// spot is a point without where its instance is, which most have from the instance.
type spot struct {
	at     bvh.Vec
	normal bvh.Vec // of the triangle, on the side the ray came from
	error  float32 // bound on the rounding error of at
	back   bool    // the ray came from the inner side
	piece  *piece
	mesh   *mesh.Mesh // the piece's at the ray's time
	hit    bvh.Hit
	uv     [2]float32
	dense  float32 // texture coordinates a metre
	wide   float32 // of the ray's footprint, in texture coordinates

	instance *bvh.Instance
	moves    bool // while the shutter is open

	walled bool // that light goes on straight through its glass was decided before it is shaded

	cap      bool        // it is a cut face, within the piece
	capColor *[3]float64 // that the cutter gives it, or nil
}

// toRoom returns where the instance is at the ray's time, and toMesh the way back; a cut face has neither.
func (p *point) toRoom() *bvh.Matrix {
	if p.moves {
		return &p.moved[0]
	}
	return &p.instance.ToRoom
}

func (p *point) toMesh() *bvh.Matrix {
	if p.moves {
		return &p.moved[1]
	}
	return &p.instance.ToMesh
}

// find sets p to the nearest surface along a ray, and reports whether there is one.
func (s *Scene) find(r *bvh.Ray, w *bvh.Walker, p *point) bool {
	if len(s.cutters) > 0 {
		return s.findCut(r, w, p)
	}
	return s.findPlain(r, w, p)
}

// findPlain is find with nothing cut.
func (s *Scene) findPlain(r *bvh.Ray, w *bvh.Walker, p *point) bool {
	ok := s.tree.Intersect(r, w, &p.hit)
	if ok {
		s.at(r, p)
	}
	return ok
}

// at works out the point where a ray meets a triangle, of the hit that it has.
func (s *Scene) at(r *bvh.Ray, p *point) {
	h := &p.hit
	pc := &s.pieces[h.Instance]
	m := pc.at(r.Time)
	i := m.Indices[3*h.Triangle : 3*h.Triangle+3]
	inst := &s.tree.Instances[h.Instance]
	a, b, c := inst.Corners(h, r.Time)
	// The place from the triangle itself, which is exact to rounding, not from the distance.
	local := a.Mul(1 - h.U - h.V).Add(b.Mul(h.U)).Add(c.Mul(h.V))
	p.piece, p.mesh, p.instance = pc, m, inst
	p.back, p.walled, p.cap, p.capColor = false, false, false, nil
	p.uv, p.dense, p.wide = [2]float32{}, 0, 0
	if p.moves = inst.Moves(); p.moves {
		p.moved[0], p.moved[1] = inst.At(r.Time)
	}
	p.at = p.toRoom().Point(local)
	p.normal = p.toMesh().Normal(b.Sub(a).Cross(c.Sub(a))).Unit()
	if p.normal.Dot(r.Direction) > 0 {
		p.normal, p.back = p.normal.Mul(-1), true
	}
	p.error = 2e-6 * (abs(p.at.X) + abs(p.at.Y) + abs(p.at.Z) + pc.reach)
	if m.UV != nil {
		s, t, u := m.UV[i[0]], m.UV[i[1]], m.UV[i[2]]
		for k := range p.uv {
			p.uv[k] = (1-h.U-h.V)*s[k] + h.U*t[k] + h.V*u[k]
		}
		if pc.material.pictured {
			turn := (t[0]-s[0])*(u[1]-s[1]) - (u[0]-s[0])*(t[1]-s[1])
			face := p.toRoom().Vector(b.Sub(a)).Cross(p.toRoom().Vector(c.Sub(a)))
			p.dense = sqrt(abs(turn) / max(1e-30, sqrt(face.Dot(face))))
		}
	}
}

func position(p [3]float32) bvh.Vec { return bvh.Vec{X: p[0], Y: p[1], Z: p[2]} }

// leave returns the origin of a ray that leaves the surface towards d without meeting it again.
func (p *point) leave(d bvh.Vec) bvh.Vec {
	off := p.normal.Mul(p.error)
	if d.Dot(p.normal) < 0 {
		off = off.Mul(-1)
	}
	return p.at.Add(off)
}

// coverage returns the base colour and the alpha at the point (glTF 2.0, 3.9.4).
func (p *point) coverage() (base bvh.Vec, alpha float32) {
	k := p.piece.material
	if p.cap {
		if p.capColor != nil {
			return rgb(*p.capColor), 1
		}
		return k.base, 1
	}
	if p.back && k.OneSided {
		return k.base, 0
	}
	base, alpha = k.base, float32(k.BaseColor[3])
	if k.baseColor != nil {
		t := k.baseColor.read(p.uv, p.wide, true)
		base, alpha = mul(base, bvh.Vec{X: t[0], Y: t[1], Z: t[2]}), alpha*t[3]
	}
	if m := p.mesh; m.Colors != nil {
		i := m.Indices[3*p.hit.Triangle:]
		w := [3]float32{1 - p.hit.U - p.hit.V, p.hit.U, p.hit.V}
		var c [4]float32
		for v := range w {
			for k := range c {
				c[k] += w[v] * m.Colors[i[v]][k]
			}
		}
		base, alpha = mul(base, bvh.Vec{X: c[0], Y: c[1], Z: c[2]}), alpha*c[3]
	}
	switch k.Alpha {
	case material.Opaque:
		alpha = 1
	case material.Mask:
		if alpha < float32(k.AlphaCutoff) {
			alpha = 0
		} else {
			alpha = 1
		}
	}
	return base, alpha * (1 - k.gone)
}

// roughMetal returns the roughness and how much of the surface is metal (glTF 2.0, 3.9.2).
func (p *point) roughMetal() (rough, metal float32) {
	k := p.piece.material
	rough, metal = k.rough, k.metal
	if k.metallicRoughness != nil {
		t := k.metallicRoughness.read(p.uv, p.wide, false)
		rough, metal = rough*t[1], metal*t[2]
	}
	return rough, metal
}

// glass returns what of the surface lets light through (KHR_materials_transmission): nothing of metal or a cut
// face. Where a wall is passed straight it is the same from both sides.
func (p *point) glass(metal float32) glass {
	k := p.piece.material
	if k.Transmission == 0 || p.cap {
		return glass{}
	}
	g := glass{share: float32(k.Transmission) * (1 - metal), ior: 1, walled: p.walled}
	if k.layers != nil {
		g.share = p.times(g.share, k.layers.transmission, 0)
	}
	if k.Thickness > 0 {
		if g.ior = k.index(); p.back && !p.walled {
			g.ior = 1 / g.ior
		}
	}
	return g
}

// straight returns how much of the light along d a wall lets through without turning it aside, before its base
// colour tints it: what is no glass, and what the surface reflects, stays.
func (p *point) straight(d bvh.Vec) float32 {
	if p.piece.material.Transmission == 0 || p.cap {
		return 0
	}
	rough, metal := p.roughMetal()
	aside := *p
	aside.walled = true
	g := aside.glass(metal)
	f0, f90 := p.dielectric()
	g.prepare(-d.Dot(p.normal), widthOf(rough), f0, f90)
	return g.share * (1 - g.reflected())
}

// absorbed returns what is left of light that came a way to the point: through the body that it leaves there.
func (p *point) absorbed(distance float32) bvh.Vec {
	if k := p.piece.material; p.back && k.Transmission > 0 && k.Thickness > 0 {
		return k.absorption(distance)
	}
	return bvh.Vec{X: 1, Y: 1, Z: 1}
}

// surface works out the material at the point for a ray that came along d.
func (p *point) surface(out *surface, base, d bvh.Vec) {
	k, m := p.piece.material, p.mesh
	*out = surface{}
	out.base, out.emission = base, k.emission
	out.dielectric, out.grazing = p.dielectric()
	rough, metal := k.rough, k.metal
	if !p.cap {
		rough, metal = p.roughMetal()
	}
	out.metallic = metal
	if p.cap { // flat, as sawn; a colour of its own is dull
		if out.emission = (bvh.Vec{}); p.capColor != nil {
			out.metallic, rough = 0, 0.8
		}
		out.alpha = widthOf(rough)
		out.frame.about(p.normal)
		return
	}
	out.alpha = widthOf(rough)
	p.layered(out)
	if k.emissive != nil {
		t := k.emissive.read(p.uv, p.wide, true)
		out.emission = mul(out.emission, bvh.Vec{X: t[0], Y: t[1], Z: t[2]})
	}
	normal := p.normal
	i := m.Indices[3*p.hit.Triangle:]
	w := [3]float32{1 - p.hit.U - p.hit.V, p.hit.U, p.hit.V}
	if m.Normals != nil {
		var n bvh.Vec
		for v := range w {
			n = n.Add(position(m.Normals[i[v]]).Mul(w[v]))
		}
		if n = p.toMesh().Normal(n).Unit(); n.Dot(n) > 0 {
			normal = n
			if normal.Dot(p.normal) < 0 {
				normal = normal.Mul(-1)
			}
		}
	}
	even := normal
	if k.normal != nil {
		normal = p.bump(k.normal, k.NormalScale, even, [3]uint32(i[:3]), w)
	}
	out.frame.about(inSight(normal, d))
	if l := k.layers; out.coat.strength > 0 && (k.normal != nil || l != nil && l.coatNormal != nil) {
		// The base's normal texture does not bend the coat (KHR_materials_clearcoat).
		if l != nil && l.coatNormal != nil {
			even = p.bump(l.coatNormal, k.ClearcoatNormalScale, even, [3]uint32(i[:3]), w)
		}
		out.coat.turn(&out.frame, inSight(even, d), d)
	}
}

// inSight returns a shading normal that, where it looks away from the viewer, is bent back to the edge of sight.
func inSight(normal, d bvh.Vec) bvh.Vec {
	if c := -normal.Dot(d); c < 0.01 {
		return normal.Sub(d.Mul(0.01 - c)).Unit()
	}
	return normal
}

// bump turns a normal by a normal texture (glTF 2.0, 3.9.3), in the frame of the tangents, or of the texture's own
// directions on the triangle where the mesh has none.
func (p *point) bump(by *texture, strength float64, normal bvh.Vec, i [3]uint32, w [3]float32) bvh.Vec {
	m := p.mesh
	var tangent bvh.Vec
	hand := float32(1)
	if m.Tangents != nil {
		for v := range w {
			t := m.Tangents[i[v]]
			tangent = tangent.Add(bvh.Vec{X: t[0], Y: t[1], Z: t[2]}.Mul(w[v]))
		}
		hand = m.Tangents[i[0]][3]
	} else if m.UV != nil {
		a, b, c := position(m.Positions[i[0]]), position(m.Positions[i[1]]), position(m.Positions[i[2]])
		u1, v1 := m.UV[i[1]][0]-m.UV[i[0]][0], m.UV[i[1]][1]-m.UV[i[0]][1]
		u2, v2 := m.UV[i[2]][0]-m.UV[i[0]][0], m.UV[i[2]][1]-m.UV[i[0]][1]
		det := u1*v2 - u2*v1
		if det == 0 {
			return normal
		}
		tangent = b.Sub(a).Mul(v2 / det).Sub(c.Sub(a).Mul(v1 / det))
		if det > 0 { // v runs downwards in glTF, so that a texture the right way round has det < 0
			hand = -1
		}
	}
	tangent = p.toRoom().Vector(tangent)
	tangent = tangent.Sub(normal.Mul(tangent.Dot(normal)))
	if tangent.Dot(tangent) == 0 {
		return normal
	}
	tangent = tangent.Unit()
	if p.piece.mirror {
		hand = -hand
	}
	side := normal.Cross(tangent).Mul(hand)
	t := by.read(p.uv, p.wide, false)
	scale := float32(strength)
	n := geom.Vec3{float64((2*t[0] - 1) * scale), float64((2*t[1] - 1) * scale), float64(2*t[2] - 1)}.Unit()
	return tangent.Mul(float32(n[0])).Add(side.Mul(float32(n[1]))).Add(normal.Mul(float32(n[2]))).Unit()
}
