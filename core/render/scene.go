// Package render is the path tracer: a scene becomes a picture of scene-linear light with coverage as alpha. The same
// scene, size and quality give the same pixels on any number of threads. It knows nothing but scenes.
package render

import (
	"fmt"
	"math"
	"slices"

	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/render/bvh"
	"perigyre/core/scene"
)

// Rays see instances by what can be seen through.
const (
	solid   = 1 // every ray that meets it stops
	pierced = 2 // its alpha decides
	glassy  = 4 // light goes through
)

// Scene is a scene ready to be drawn: its meshes found, trees built over them, lights given their chances.
type Scene struct {
	tree   *bvh.Scene
	pieces []piece // one for each instance
	lights lights
	lit    []lights // where they move while the shutter is open, even over its time
	seen   bool     // the sky is, behind everything
	camera camera
	floor  *float32 // height of the floor that receives shadow, if there is one
	fade   float32  // see Film
	holes  bool     // something has alpha
	size   float32  // of all that is seen, metres
	moving bool     // something moves while the shutter is open
	motion motionField
	mattes []scene.Matte
	guides []scene.Guide
	labels []scene.Label

	cutters   []cutter
	bodies    []body
	bodyTrees map[*body]subtree
	cutTrees  map[*cutter]subtree
}

// piece is one placed mesh with its material.
type piece struct {
	shape
	material *skin
	mirror   bool
	part     int32 // its matte, -1 for none
	body     int32
	glows    bool          // its light is sampled
	reach    float32       // size of the numbers its place is computed with, for rounding errors
	bent     []*mesh.Mesh  // what it is in equal parts of the shutter's time
	ways     [2]bvh.Matrix // where it is half a frame before and after
	ends     *ends         // and how what bends or hangs on bones lies then
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

// NewScene makes a scene ready to be drawn.
func NewScene(from *scene.Scene, props *Props) (*Scene, error) {
	sc := &Scene{seen: from.Sky.Seen, moving: from.Moving(), mattes: from.Mattes, guides: from.Guides, labels: from.Labels}
	if from.Floor != nil {
		y := float32(*from.Floor)
		sc.fade = float32(from.Fade)
		sc.floor = &y
	}
	p := placing{sc: sc, props: props, box: geom.EmptyBox(), skins: map[scene.Surface]*skin{}, bent: map[string][]shape{}, motion: from.Interval > 0}
	for i := range from.Bodies {
		if err := p.place(&from.Bodies[i]); err != nil {
			return nil, err
		}
	}
	sc.tree = bvh.NewScene(p.instances)
	if err := sc.cut(from, props); err != nil {
		return nil, err
	}
	centre, radius := geom.Vec3{}, 1.0
	if !p.box.Empty() {
		centre, radius = p.box.Centre(), p.box.Size().Len()/2
	}
	sc.size = float32(2 * radius)
	var picture *panorama
	if from.Sky.Picture != "" {
		var err error
		if picture, err = props.sky(from.Sky.Picture); err != nil {
			return nil, err
		}
	}
	shining := newGlow(p.instances, sc.pieces)
	sc.lights = newLights(from, func(l *scene.Light) geom.Mat4 { return l.At }, picture, shining, centre, radius)
	if len(from.Lights) > 0 {
		for k := range from.Lights[0].Keys {
			sc.lit = append(sc.lit, newLights(from, func(l *scene.Light) geom.Mat4 { return l.Keys[k] }, picture, shining, centre, radius))
		}
	}
	if c := from.Camera; c != nil {
		sc.camera = newCamera(c.At, c)
		sc.camera.open(c)
		for _, k := range c.Keys {
			sc.camera.keys = append(sc.camera.keys, newCamera(k, c))
		}
		sc.motion = motionField{cameras: [2]camera{newCamera(c.Before, c), newCamera(c.After, c)}, frames: float32(from.Interval)}
	}
	return sc, nil
}

// placing puts bodies into a scene.
type placing struct {
	sc        *Scene
	props     *Props
	box       geom.Box
	instances []bvh.Instance
	skins     map[scene.Surface]*skin
	bent      map[string][]shape // by mesh, pose and angles: copies are alike
	motion    bool               // where things go is asked for
}

func (p *placing) place(b *scene.Body) error {
	sc := p.sc
	shapes, err := p.props.shapes(b.Mesh)
	if err != nil {
		return err
	}
	inverse, ok := b.At.Inverse()
	if !ok {
		sc.bodies = append(sc.bodies, body{bounds: geom.EmptyBox()}) // flattened to nothing
		return nil
	}
	var near [2][]shape   // of what bends or hangs on bones, before and after
	var bending [][]shape // for the times of the shutter
	if b.Soft() {
		resting := shapes
		pose := func(of func(f *scene.Flesh) *mesh.Flesh, when func(d *scene.Bend) *scene.Bent) []shape {
			if b.Flesh == nil {
				return p.bend(b, resting, nil, when)
			}
			return p.bend(b, resting, of(b.Flesh), when)
		}
		shapes = pose(func(f *scene.Flesh) *mesh.Flesh { return &f.Now }, func(d *scene.Bend) *scene.Bent { return &d.Now })
		for k := range b.SoftKeys() {
			bending = append(bending, pose(func(f *scene.Flesh) *mesh.Flesh { return f.Key(k) }, func(d *scene.Bend) *scene.Bent { return d.Key(k) }))
		}
		if p.motion {
			near[0] = pose(func(f *scene.Flesh) *mesh.Flesh { return f.Before }, func(d *scene.Bend) *scene.Bent { return &d.Before })
			near[1] = pose(func(f *scene.Flesh) *mesh.Flesh { return f.After }, func(d *scene.Bend) *scene.Bent { return &d.After })
		}
	}
	whole := body{bounds: geom.EmptyBox()}
	for k, sh := range shapes {
		sk, err := p.skin(b, k)
		if err != nil {
			return err
		}
		visible := uint8(solid)
		switch {
		case sk.Alpha != material.Opaque || sk.gone > 0 || sk.OneSided:
			visible, sc.holes = pierced, true
		case sk.Transmission > 0:
			visible, sc.holes = glassy, true
		}
		one := bvh.Instance{Mesh: sh.tree, ToRoom: matrix(b.At), ToMesh: matrix(inverse), Visible: visible}
		var bent []*mesh.Mesh
		for _, now := range bending {
			one.Meshes, bent = append(one.Meshes, now[k].tree), append(bent, now[k].mesh)
			sh.bounds = sh.bounds.Union(now[k].bounds)
		}
		for _, m := range b.Keys {
			one.Keys = append(one.Keys, matrix(m))
			whole.bounds = whole.bounds.Union(sh.bounds.Transformed(m))
			p.box = p.box.Union(sh.bounds.Transformed(m))
		}
		whole.instances = append(whole.instances, len(p.instances))
		whole.bounds = whole.bounds.Union(sh.bounds.Transformed(b.At))
		p.instances = append(p.instances, one)
		at := b.At.Column(3)
		sc.pieces = append(sc.pieces, piece{
			shape: sh, material: sk, mirror: b.At.Det() < 0, part: int32(b.Matte), body: int32(len(sc.bodies)), bent: bent,
			reach: float32(math.Abs(at[0]) + math.Abs(at[1]) + math.Abs(at[2])), ways: [2]bvh.Matrix{matrix(b.Before), matrix(b.After)},
		})
		if near[0] != nil {
			sc.pieces[len(sc.pieces)-1].ends = &ends{near[0][k].mesh, near[1][k].mesh}
		}
		p.box = p.box.Union(sh.bounds.Transformed(b.At))
	}
	sc.bodies = append(sc.bodies, whole)
	return nil
}

// bend returns a body's meshes as they are posed, and bent as far as they are when it is asked for.
func (p *placing) bend(b *scene.Body, resting []shape, f *mesh.Flesh, when func(d *scene.Bend) *scene.Bent) []shape {
	key := fmt.Sprint(b.Mesh.Asset, b.Mesh.Index)
	if b.Mesh.Shape != nil {
		key = b.Mesh.Shape.Key()
	}
	for i := range b.Bends {
		d := &b.Bends[i]
		now := when(d)
		key += fmt.Sprint(d.Bend, d.In, now.Angle)
		if now.Cage != nil {
			key += fmt.Sprint(*now.Cage)
		}
	}
	if f != nil {
		key += fmt.Sprint(*f)
	}
	if s, ok := p.bent[key]; ok {
		return s
	}
	var to func(geom.Vec3) geom.Vec3
	if len(b.Bends) > 0 {
		to = func(q geom.Vec3) geom.Vec3 { return b.Point(q, when) }
	}
	s := soften(resting, f, to)
	p.bent[key] = s
	return s
}

// skin returns the material of one of a body's primitives; those without one of their own are plain.
func (p *placing) skin(b *scene.Body, k int) (*skin, error) {
	s := scene.Surface{Material: material.Default(), Opacity: 1}
	if s.Name = ""; k < len(b.Surfaces) {
		s = b.Surfaces[k]
	}
	if sk, ok := p.skins[s]; ok {
		return sk, nil
	}
	sk, err := p.props.skin(&s)
	p.skins[s] = sk
	return sk, err
}

// cut gathers the cutters of a scene, and what they need to know about the bodies they cut.
func (sc *Scene) cut(from *scene.Scene, props *Props) error {
	sc.bodyTrees, sc.cutTrees = map[*body]subtree{}, map[*cutter]subtree{}
	for i := range from.Cutters {
		c := &from.Cutters[i]
		if inverse, ok := c.At.Inverse(); ok {
			sc.cutters = append(sc.cutters, cutter{cut: c, toMesh: matrix(inverse), cuts: c.Bodies, all: !slices.Contains(c.Bodies, false)})
		}
	}
	for k := range sc.cutters {
		c := &sc.cutters[k]
		for b := range sc.bodies {
			one := &sc.bodies[b]
			if _, done := sc.bodyTrees[one]; !c.cuts[b] || done {
				continue
			}
			var g subtree
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
		var g subtree
		var list []bvh.Instance
		for _, of := range c.cut.Of {
			shapes, err := props.shapes(of.Mesh)
			if err != nil {
				return err
			}
			inverse, ok := of.At.Inverse()
			for _, sh := range shapes {
				if ok {
					list = append(list, bvh.Instance{Mesh: sh.tree, ToRoom: matrix(of.At), ToMesh: matrix(inverse), Visible: 255})
					at := of.At.Column(3)
					g.pieces = append(g.pieces, piece{shape: sh, mirror: of.At.Det() < 0, reach: float32(at.Len())})
				}
			}
		}
		g.tree = bvh.NewScene(list)
		sc.cutTrees[c] = g
	}
	return nil
}

// skin finds the pictures of a surface.
func (p *Props) skin(from *scene.Surface) (*skin, error) {
	m := from.Material
	k, l := &skin{Material: &m, gone: float32(1 - from.Opacity)}, new(layerTextures)
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

func newCamera(world geom.Mat4, c *scene.Camera) camera {
	unit := func(k int, length float64) bvh.Vec { return vec(world.Column(k).Unit().Mul(length)) }
	return camera{
		position: vec(world.Column(3)), right: unit(0, c.Width), up: unit(1, c.Height), ahead: unit(2, -1), gain: 1,
		x: float32(c.X / c.Width), y: float32(c.Y / c.Height), flat: c.Flat,
	}
}

// open gives the camera its exposure and its opening, with what is at the focus distance sharp.
func (c *camera) open(from *scene.Camera) {
	c.gain = float32(from.Gain)
	c.blades = from.Blades
	c.focus = float32(from.Focus)
	if from.FocusOn != nil {
		c.focus = c.depth(vec(*from.FocusOn)) + float32(from.Focus)
	}
	if c.focus > 0 {
		c.radius = float32(from.Aperture)
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
