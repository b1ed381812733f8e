// Package render is the path tracer: a shot at a time becomes a picture of scene-linear light with
// coverage as alpha. The same shot, frame, size and quality give the same pixels on any number of
// threads.
package render

import (
	"math"

	"perigyre/core/framing"
	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/pose"
	"perigyre/core/render/bvh"
	"perigyre/core/shot"
)

// Rays see instances by what can be seen through.
const (
	solid   = 1 // every ray that meets it stops
	pierced = 2 // its alpha decides
	glassy  = 4 // light goes through
)

// Scene is a shot at one time, ready to be rendered.
type Scene struct {
	tree   *bvh.Scene
	pieces []piece // one for each instance
	lights lights
	lit    []lights // where they move while the shutter is open, even over its time
	seen   bool     // the sky is, behind everything
	camera camera
	floor  *float32 // height of the floor that receives shadow, if there is one
	holes  bool     // something has alpha
	size   float32  // of all that is seen, metres
	moving bool     // something moves while the shutter is open
	drift  drift
	shot   *shot.Shot

	cutters   []cutter
	bodies    []body
	bodyTrees map[*body]grove
	cutTrees  map[*cutter]grove
}

// piece is one placed mesh with its material.
type piece struct {
	shape
	material *skin
	mirror   bool
	part     int32 // its index in the shot
	body     int32
	glows    bool          // its light is sampled
	reach    float32       // size of the numbers its place is computed with, for rounding errors
	bent     []*mesh.Mesh  // what it is in equal parts of the shutter's time
	ways     [2]bvh.Matrix // where it is half a frame before and after
	bends    *bends        // and how what bends lies then
}

// at returns the piece's mesh at a time of the shutter.
func (p *piece) at(time float32) *mesh.Mesh {
	if len(p.bent) == 0 {
		return p.mesh
	}
	return p.bent[min(len(p.bent)-1, int(time*float32(len(p.bent))))]
}

// skin is a material with its pictures.
type skin struct {
	*material.Material
	baseColor, metallicRoughness, normal, emissive *texture
	layers                                         *layerTextures // nil for none
	pictured                                       bool           // it has a texture

	base, dielectric, emission bvh.Vec // its numbers in single precision
	grazing                    float32 // reflectance of what is not metal at a grazing angle
	rough, metal               float32
	gone                       float32 // share of it that is faded away
}

// NewScene places the shot at time t, in frames.
func NewScene(e *pose.Evaluator, t float64, props *Props) (*Scene, error) {
	s, world := e.Shot.Dressed(), e.At(t)
	sc := &Scene{shot: s}
	hidden := make([]bool, len(s.Parts))
	for i := range s.Parts {
		up := s.Index(s.Parts[i].Parent)
		hidden[i] = s.Parts[i].Hidden || up >= 0 && hidden[up]
	}
	skins := map[string]*skin{}
	box := geom.EmptyBox()
	var instances []bvh.Instance
	looks := e.Looks(t)
	flexed := map[int][]shape{}    // made for this moment
	bending := map[int][][]shape{} // and for the times of the shutter
	shutter := exposure(e, t)
	sc.drift = newDrift(e, t)
	// place puts a part where m says, at the times of the shutter where keys say, carried by another part or itself.
	place := func(i, carrier int, m, in geom.Mat4, keys []geom.Mat4) error {
		p := &s.Parts[i]
		shapes, err := props.shapes(p)
		if err != nil {
			return err
		}
		var resting []shape // of what bends
		var then [2]func(geom.Vec3) geom.Vec3
		if len(e.Flexes(i)) > 0 {
			resting = shapes
			for k, at := range sc.drift.times {
				then[k] = e.Flexed(i, at)
			}
			if flexed[i] == nil {
				flexed[i] = flex(shapes, e.Flexed(i, t))
				for _, at := range shutter.bends(e, i) {
					bending[i] = append(bending[i], flex(shapes, e.Flexed(i, at)))
				}
			}
			shapes = flexed[i]
		}
		inverse, ok := m.Inverse()
		if !ok {
			return nil // flattened to nothing
		}
		whole := body{part: i, bounds: geom.EmptyBox()}
		for k, sh := range shapes {
			id := ""
			if k < len(p.Materials) {
				id = p.Materials[k]
			}
			sk, err := props.skin(s, id, skins)
			if err != nil {
				return err
			}
			if looks != nil {
				sk = sk.looking(looks[i])
			}
			visible := uint8(solid)
			switch {
			case sk.Alpha != material.Opaque || sk.gone > 0:
				visible, sc.holes = pierced, true
			case sk.Transmission > 0:
				visible, sc.holes = glassy, true
			}
			one := bvh.Instance{Mesh: sh.tree, ToRoom: matrix(m), ToMesh: matrix(inverse), Visible: visible}
			var bent []*mesh.Mesh
			for _, now := range bending[i] {
				one.Meshes, bent = append(one.Meshes, now[k].tree), append(bent, now[k].mesh)
				sh.bounds = sh.bounds.Union(now[k].bounds)
				sc.moving = true
			}
			for _, k := range keys {
				one.Keys = append(one.Keys, matrix(k))
				whole.bounds = whole.bounds.Union(sh.bounds.Transformed(k))
				box = box.Union(sh.bounds.Transformed(k))
			}
			sc.moving = sc.moving || len(keys) > 0
			whole.instances = append(whole.instances, len(instances))
			whole.bounds = whole.bounds.Union(sh.bounds.Transformed(m))
			instances = append(instances, one)
			at := m.Column(3)
			sc.pieces = append(sc.pieces, piece{
				shape: sh, material: sk, mirror: m.Det() < 0, part: int32(i), body: int32(len(sc.bodies)), bent: bent,
				reach: float32(math.Abs(at[0]) + math.Abs(at[1]) + math.Abs(at[2])), ways: sc.drift.carried(carrier, in),
			})
			if resting != nil {
				sc.pieces[len(sc.pieces)-1].bends = &bends{resting[k].mesh, then}
			}
			box = box.Union(sh.bounds.Transformed(m))
		}
		sc.bodies = append(sc.bodies, whole)
		return nil
	}
	for i := range s.Parts {
		p := &s.Parts[i]
		if hidden[i] {
			continue
		}
		if p.Kind == shot.Floor && p.Shaped() == nil {
			y := float32(world[i][13])
			sc.floor = &y
			continue
		}
		if err := place(i, i, world[i], identity, shutter.keys(i)); err != nil {
			return nil, err
		}
	}
	spreads, err := e.Spreads(t, world, props)
	if err != nil {
		return nil, err
	}
	for _, c := range spreads {
		if hidden[c.Spread] {
			continue
		}
		carried := shutter.keys(c.Spread)
		for _, m := range c.Places {
			var keys []geom.Mat4
			for _, k := range carried { // copies move with what they are in
				keys = append(keys, k.Mul(m))
			}
			if err := place(c.Part, c.Spread, world[c.Spread].Mul(m), m, keys); err != nil {
				return nil, err
			}
		}
	}
	sc.tree = bvh.NewScene(instances)
	if err := sc.cut(s, world, hidden, props); err != nil {
		return nil, err
	}
	centre, radius := geom.Vec3{}, 1.0
	if !box.Empty() {
		centre, radius = box.Centre(), box.Size().Len()/2
	}
	sc.size = float32(2 * radius)
	var picture *panorama
	if s.Environment.Picture != "" {
		if picture, err = props.sky(s.Environment.Picture); err != nil {
			return nil, err
		}
	}
	shining := newGlow(instances, sc.pieces)
	visible := func(i int) bool { return !hidden[i] }
	sc.lights = newLights(s, world, looks, picture, shining, visible, centre, radius)
	if shutter.moves(func(i int) bool { return s.Parts[i].Kind == shot.Light && !hidden[i] }) {
		for _, w := range shutter.worlds {
			sc.lit = append(sc.lit, newLights(s, w, looks, picture, shining, visible, centre, radius))
		}
		sc.moving = true
	}
	sc.seen = s.Environment.Seen
	if i := s.Index(s.Camera); i >= 0 {
		lens := s.Parts[i].Camera
		view := framing.Optics(lens, s.Format)
		sc.camera = newCamera(world[i], view)
		sc.camera.open(lens, s, world)
		for _, k := range shutter.keys(i) {
			sc.camera.keys = append(sc.camera.keys, newCamera(k, view))
			sc.moving = true
		}
	}
	return sc, nil
}

// cut gathers the cutters of a shot, and what they need to know about the bodies they cut.
func (sc *Scene) cut(s *shot.Shot, world []geom.Mat4, hidden []bool, props *Props) error {
	sc.bodyTrees, sc.cutTrees = map[*body]grove{}, map[*cutter]grove{}
	for i := range s.Parts {
		c := s.Parts[i].Cut
		inverse, ok := world[i].Inverse()
		if c == nil || hidden[i] || !ok {
			continue
		}
		out := cutter{cut: c, toMesh: matrix(inverse), cuts: make([]bool, len(sc.bodies))}
		for b := range sc.bodies {
			out.cuts[b] = len(c.Parts) == 0
			for _, id := range c.Parts {
				if root := s.Index(id); root >= 0 && s.Within(sc.bodies[b].part, root) {
					out.cuts[b] = true
				}
			}
		}
		sc.cutters = append(sc.cutters, out)
	}
	for k := range sc.cutters {
		c := &sc.cutters[k]
		for b := range sc.bodies {
			one := &sc.bodies[b]
			if _, done := sc.bodyTrees[one]; !c.cuts[b] || done {
				continue
			}
			var g grove
			var list []bvh.Instance
			var meshes []*mesh.Mesh
			for _, i := range one.instances {
				list, g.pieces = append(list, sc.tree.Instances[i]), append(g.pieces, sc.pieces[i])
				meshes = append(meshes, sc.pieces[i].mesh)
			}
			g.tree = bvh.NewScene(list)
			one.closed = props.closed(meshes)
			sc.bodyTrees[one] = g
		}
		if c.cut.Shape != "part" {
			continue
		}
		of := s.Index(c.cut.Of)
		if of < 0 {
			sc.cutTrees[c] = grove{tree: bvh.NewScene(nil)}
			continue
		}
		shapes, err := props.shapes(&s.Parts[of])
		if err != nil {
			return err
		}
		var g grove
		var list []bvh.Instance
		inverse, ok := world[of].Inverse()
		for _, sh := range shapes {
			if ok {
				list = append(list, bvh.Instance{Mesh: sh.tree, ToRoom: matrix(world[of]), ToMesh: matrix(inverse), Visible: 255})
				at := world[of].Column(3)
				g.pieces = append(g.pieces, piece{shape: sh, mirror: world[of].Det() < 0, reach: float32(at.Len())})
			}
		}
		g.tree = bvh.NewScene(list)
		sc.cutTrees[c] = g
	}
	return nil
}

func (p *Props) skin(s *shot.Shot, id string, known map[string]*skin) (*skin, error) {
	if k, ok := known[id]; ok {
		return k, nil
	}
	m := material.Default()
	for i := range s.Materials {
		if s.Materials[i].ID == id {
			m = s.Materials[i]
		}
	}
	k, l := &skin{Material: &m}, new(layerTextures)
	for _, slot := range []struct {
		to   **texture
		from *material.Texture
	}{
		{&k.baseColor, m.BaseColorTexture}, {&k.metallicRoughness, m.MetallicRoughness}, {&k.normal, m.Normal}, {&k.emissive, m.EmissiveTexture},
		{&l.specular, m.SpecularTexture}, {&l.specularColor, m.SpecularColorTexture}, {&l.transmission, m.TransmissionTexture},
		{&l.coat, m.ClearcoatTexture}, {&l.coatRough, m.ClearcoatRoughnessTexture}, {&l.coatNormal, m.ClearcoatNormal},
		{&l.sheenColor, m.SheenColorTexture}, {&l.sheenRough, m.SheenRoughnessTexture},
	} {
		if slot.from != nil && slot.from.Missing != "" && slot.from != m.BaseColorTexture {
			continue // the checker that stands for a missing picture is for base colours alone
		}
		var err error
		if *slot.to, err = p.texture(slot.from); err != nil {
			return nil, err
		}
		k.pictured = k.pictured || *slot.to != nil
	}
	if *l != (layerTextures{}) {
		k.layers = l
	}
	k.settle()
	known[id] = k
	return k, nil
}

// settle works out the numbers that shading takes.
func (k *skin) settle() {
	k.base, k.emission = rgb([3]float64(k.BaseColor[:3])), rgb(k.Emissive)
	k.dielectric, k.grazing = k.reflects(material.Untextured, 1)
	k.rough, k.metal = float32(k.Roughness), float32(k.Metallic)
}

// camera is a pinhole, or a thin lens with an opening.
type camera struct {
	position         bvh.Vec
	right, up, ahead bvh.Vec // right and up reach to the picture's edges at distance 1
	x, y             float32 // of the picture's middle, as shares of right and up
	flat             bool    // orthographic: right and up reach to the edges at any distance

	keys   []camera // of one that moves, even over the shutter's time
	radius float32  // of the opening, metres; 0 for a pinhole
	focus  float32  // distance along the view axis that is sharp
	blades int      // of the opening; round below 3
	gain   float32  // exposure
}

func newCamera(world geom.Mat4, view framing.View) camera {
	unit := func(c int, length float64) bvh.Vec { return vec(world.Column(c).Unit().Mul(length)) }
	return camera{
		position: vec(world.Column(3)), right: unit(0, view.Width), up: unit(1, view.Height), ahead: unit(2, -1), gain: 1,
		x: float32(view.X / view.Width), y: float32(view.Y / view.Height), flat: view.Flat,
	}
}

// open gives the camera its opening: a thin lens of radius f / 2N, with what is at the focus distance sharp.
func (c *camera) open(l *shot.Lens, s *shot.Shot, world []geom.Mat4) {
	c.gain = float32(math.Exp2(l.Exposure))
	c.blades = l.Blades
	c.focus = float32(l.Focus)
	if i := s.Index(l.FocusOn); l.FocusOn != "" && i >= 0 {
		c.focus = c.depth(vec(world[i].Point(s.Parts[i].Pivot))) + float32(l.Focus)
	}
	if l.FNumber > 0 && c.focus > 0 && !c.flat {
		c.radius = float32(l.Focal / 1000 / l.FNumber / 2)
	}
}

// depth returns the distance of a point along the view axis.
func (c *camera) depth(p bvh.Vec) float32 { return p.Sub(c.position).Dot(c.ahead) }

// at returns the camera at a time of the shutter.
func (c *camera) at(time float32) camera {
	if len(c.keys) < 2 {
		return *c
	}
	n := float32(len(c.keys) - 1)
	k := min(int(time*n), len(c.keys)-2)
	f := time*n - float32(k)
	a, b := &c.keys[k], &c.keys[k+1]
	mix := func(v, w bvh.Vec) bvh.Vec { return v.Add(w.Sub(v).Mul(f)) }
	now := *c
	now.position, now.right, now.up, now.ahead = mix(a.position, b.position), mix(a.right, b.right), mix(a.up, b.up), mix(a.ahead, b.ahead)
	return now
}

// ray returns the ray through a point of the picture, 0 to 1 from the left and from the top.
func (c *camera) ray(x, y float32, g *sampler) (o, d bvh.Vec) {
	now := c
	if len(c.keys) > 1 {
		moved := c.at(g.time)
		now = &moved
	}
	aside := now.right.Mul(2*x - 1 + now.x).Add(now.up.Mul(1 - 2*y + now.y))
	if now.flat {
		return now.position.Add(aside), now.ahead
	}
	d = now.ahead.Add(aside) // as long as it must be to get 1 ahead
	if now.radius == 0 {
		return now.position, d.Unit()
	}
	u, v := opening(now.blades, g)
	o = now.position.Add(now.right.Unit().Mul(u * now.radius)).Add(now.up.Unit().Mul(v * now.radius))
	return o, now.position.Add(d.Mul(now.focus)).Sub(o).Unit()
}

// opening draws a point of the unit disc, or of the regular polygon in it.
func opening(blades int, g *sampler) (x, y float32) {
	u, v := g.next2()
	if blades < 3 {
		r := sqrt(u)
		cos, sin := circle(v)
		return r * cos, r * sin
	}
	// One of the triangles between the middle and two corners, and a point of it.
	n := float32(blades)
	k := float32(int(v * n))
	a, b := 2*pi*k/n, 2*pi*(k+1)/n
	t, r := v*n-k, sqrt(u)
	sa, ca := sincos(a)
	sb, cb := sincos(b)
	return r * (ca + (cb-ca)*t), r * (sa + (sb-sa)*t)
}
