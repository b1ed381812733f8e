package render

import (
	"fmt"
	"image"
	"sync"

	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/core/render/bvh"
	"perigyre/core/shot"
)

// Assets gives the meshes and pictures that a shot refers to. Picture returns nil for one that was
// missing when the model came.
type Assets interface {
	Mesh(ref shot.MeshRef) ([]model.Primitive, error)
	Picture(asset string, index int) (image.Image, error)
}

// Props keeps what frames share: search trees of meshes and decoded pictures. It may be used by
// several frames at a time.
type Props struct {
	assets   Assets
	mu       sync.Mutex
	meshes   map[shot.MeshRef][]shape
	made     map[string][]shape
	pictures map[string]*picture
	from     map[string]bool // assets that they come from
	skies    map[string]*panorama
	turned   map[*mesh.Mesh]turning // how those that begin with a mesh look the same turned
	solid    map[*mesh.Mesh]bool    // whether those that begin with a mesh are closed together
}

// mostAssets are kept before the store starts afresh.
const mostAssets = 8

// mostMade shapes are kept before they are made afresh.
const mostMade = 256

// note makes room before something of an asset is added. The caller holds the lock.
func (p *Props) note(asset string) {
	if !p.from[asset] && len(p.from) >= mostAssets {
		p.reset()
	}
	p.from[asset] = true
}

func (p *Props) reset() {
	p.meshes, p.made, p.pictures = map[shot.MeshRef][]shape{}, map[string][]shape{}, map[string]*picture{}
	p.from = map[string]bool{}
	p.solid, p.turned = map[*mesh.Mesh]bool{}, map[*mesh.Mesh]turning{}
}

// shape is one mesh with its search tree and the material it names in its model.
type shape struct {
	mesh   *mesh.Mesh
	tree   *bvh.Mesh
	bounds geom.Box
}

// NewProps returns an empty store over the assets.
func NewProps(a Assets) *Props {
	p := &Props{assets: a}
	p.reset()
	return p
}

// shapes returns the meshes of a part, one for each of its materials.
func (p *Props) shapes(part *shot.Part) ([]shape, error) {
	p.mu.Lock()
	defer p.mu.Unlock()
	switch {
	case part.Mesh != nil:
		if s, ok := p.meshes[*part.Mesh]; ok {
			return s, nil
		}
		prims, err := p.assets.Mesh(*part.Mesh)
		if err != nil {
			return nil, err
		}
		var out []shape
		for _, prim := range prims {
			out = append(out, newShape(prim.Mesh))
		}
		p.note(part.Mesh.Asset)
		p.meshes[*part.Mesh] = out
		return out, nil
	case part.Shaped() != nil:
		made := part.Shaped()
		key := made.Key()
		if s, ok := p.made[key]; ok {
			return s, nil
		}
		out := []shape{newShape(made.Build())}
		if len(p.made) >= mostMade {
			p.made = map[string][]shape{}
		}
		p.made[key] = out
		return out, nil
	}
	return nil, nil
}

// Surface returns the triangles of a part.
func (p *Props) Surface(part *shot.Part) (points []geom.Vec3, indices []uint32, err error) {
	shapes, err := p.shapes(part)
	for _, s := range shapes {
		first := uint32(len(points))
		for _, v := range s.mesh.Positions {
			points = append(points, geom.V3(v))
		}
		for _, k := range s.mesh.Indices {
			indices = append(indices, first+k)
		}
	}
	return points, indices, err
}

func newShape(m *mesh.Mesh) shape { return shape{m, bvh.NewMesh(m.Positions, m.Indices), m.Bounds()} }

// texture returns a slot's picture, or nil for an empty slot or a missing picture.
func (p *Props) texture(t *material.Texture) (*texture, error) {
	if t == nil {
		return nil, nil
	}
	key := fmt.Sprint(t.Asset, "/", t.Image)
	p.mu.Lock()
	defer p.mu.Unlock()
	pic, ok := p.pictures[key]
	if !ok {
		img, err := p.assets.Picture(t.Asset, t.Image)
		if err != nil {
			return nil, err
		}
		if img != nil {
			pic = newPicture(img)
		}
		p.note(t.Asset)
		p.pictures[key] = pic
	}
	if pic == nil {
		return nil, nil
	}
	return &texture{pic, t.WrapS, t.WrapT, t.Transform}, nil
}

// closed reports whether meshes, that have an inside together, are closed: every edge is gone along once each
// way. Corners in the same place are one.
func (p *Props) closed(list []*mesh.Mesh) bool {
	if len(list) == 0 {
		return false
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	if known, ok := p.solid[list[0]]; ok {
		return known
	}
	edges := map[[2][3]float32]int{}
	for _, m := range list {
		for t := 0; t < len(m.Indices); t += 3 {
			for k := range 3 {
				a, b := m.Positions[m.Indices[t+k]], m.Positions[m.Indices[t+(k+1)%3]]
				if a == b {
					continue
				}
				edges[[2][3]float32{a, b}]++
				edges[[2][3]float32{b, a}]--
			}
		}
	}
	out := true
	for _, n := range edges {
		if n != 0 {
			out = false
			break
		}
	}
	if len(p.solid) >= mostMade { // what flexes is another mesh each time
		p.solid = map[*mesh.Mesh]bool{}
	}
	p.solid[list[0]] = out
	return out
}
