// Package render is the path tracer: a shot at a time becomes a picture of scene-linear light with
// coverage as alpha. The same shot, frame, size and quality give the same pixels on any number of
// threads.
package render

import (
	"math"

	"perigyre/core/framing"
	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/pose"
	"perigyre/core/render/bvh"
	"perigyre/core/shot"
)

// Rays see instances by what can be seen through.
const (
	solid   = 1 // every ray that meets it stops
	pierced = 2 // its alpha decides
)

// Scene is a shot at one time, ready to be rendered.
type Scene struct {
	tree   *bvh.Scene
	pieces []piece // one for each instance
	lights lights
	camera camera
	floor  *float32 // height of the floor that receives shadow, if there is one
	holes  bool     // something has alpha
}

// piece is one placed mesh with its material.
type piece struct {
	shape
	material *skin
	mirror   bool
	reach    float32 // size of the numbers its place is computed with, for rounding errors
}

// skin is a material with its pictures.
type skin struct {
	*material.Material
	baseColor, metallicRoughness, normal, emissive *texture
}

// NewScene places the shot at time t, in frames.
func NewScene(e *pose.Evaluator, t float64, props *Props) (*Scene, error) {
	s, world := e.Shot, e.At(t)
	sc := &Scene{}
	hidden := make([]bool, len(s.Parts))
	for i := range s.Parts {
		up := s.Index(s.Parts[i].Parent)
		hidden[i] = s.Parts[i].Hidden || up >= 0 && hidden[up]
	}
	skins := map[string]*skin{}
	box := geom.EmptyBox()
	var instances []bvh.Instance
	place := func(p *shot.Part, m geom.Mat4) error {
		shapes, err := props.shapes(p)
		if err != nil {
			return err
		}
		inverse, ok := m.Inverse()
		if !ok {
			return nil // flattened to nothing
		}
		for k, sh := range shapes {
			id := ""
			if k < len(p.Materials) {
				id = p.Materials[k]
			}
			sk, err := props.skin(s, id, skins)
			if err != nil {
				return err
			}
			visible := uint8(solid)
			if sk.Alpha != material.Opaque || sk.Transmission > 0 {
				visible, sc.holes = pierced, true
			}
			instances = append(instances, bvh.Instance{Mesh: sh.tree, ToRoom: matrix(m), ToMesh: matrix(inverse), Visible: visible})
			at := m.Column(3)
			sc.pieces = append(sc.pieces, piece{sh, sk, m.Det() < 0, float32(math.Abs(at[0]) + math.Abs(at[1]) + math.Abs(at[2]))})
			box = box.Union(sh.bounds.Transformed(m))
		}
		return nil
	}
	for i := range s.Parts {
		p := &s.Parts[i]
		if hidden[i] {
			continue
		}
		if p.Kind == shot.Floor {
			y := float32(world[i][13])
			sc.floor = &y
			continue
		}
		if err := place(p, world[i]); err != nil {
			return nil, err
		}
	}
	for _, c := range e.Spreads(world) {
		if hidden[c.Spread] {
			continue
		}
		for _, m := range c.Places {
			if err := place(&s.Parts[c.Part], world[c.Spread].Mul(m)); err != nil {
				return nil, err
			}
		}
	}
	sc.tree = bvh.NewScene(instances)
	centre, radius := geom.Vec3{}, 1.0
	if !box.Empty() {
		centre, radius = box.Centre(), box.Size().Len()/2
	}
	sc.lights = newLights(s, world, func(i int) bool { return !hidden[i] }, centre, radius)
	if i := s.Index(s.Camera); i >= 0 {
		sc.camera = newCamera(world[i], framing.Optics(s.Parts[i].Camera, s.Format))
	}
	return sc, nil
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
	k := &skin{Material: &m}
	for _, slot := range []struct {
		to   **texture
		from *material.Texture
	}{{&k.baseColor, m.BaseColorTexture}, {&k.metallicRoughness, m.MetallicRoughness}, {&k.normal, m.Normal}, {&k.emissive, m.EmissiveTexture}} {
		var err error
		if *slot.to, err = p.texture(slot.from); err != nil {
			return nil, err
		}
	}
	known[id] = k
	return k, nil
}

// camera is a pinhole.
type camera struct {
	position         bvh.Vec
	right, up, ahead bvh.Vec // right and up reach to the picture's edges at distance 1
}

func newCamera(world geom.Mat4, view framing.View) camera {
	unit := func(c int, length float64) bvh.Vec { return vec(world.Column(c).Unit().Mul(length)) }
	return camera{vec(world.Column(3)), unit(0, view.Width), unit(1, view.Height), unit(2, -1)}
}

// ray returns the ray through a point of the picture, 0 to 1 from the left and from the top.
func (c *camera) ray(x, y float32) (o, d bvh.Vec) {
	return c.position, c.ahead.Add(c.right.Mul(2*x - 1)).Add(c.up.Mul(1 - 2*y)).Unit()
}
