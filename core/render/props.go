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
	"perigyre/core/scene"
)

// Assets gives the meshes and pictures that a shot refers to. Picture returns nil for one that was
// missing when the model came.
type Assets interface {
	Primitives(asset string, mesh int) ([]model.Primitive, error)
	Picture(asset string, index int) (image.Image, error)
}

// Props keeps what frames share: search trees of meshes and decoded pictures. It may be used by
// several frames at a time.
type Props struct {
	assets   Assets
	mu       sync.Mutex
	meshes   map[meshKey][]shape
	made     map[string][]shape
	pictures map[string]*picture
	from     map[string]bool // assets that they come from
	skies    map[string]*panorama
	turned   map[*mesh.Mesh]turning // how those that begin with a mesh look the same turned
	solid    map[*mesh.Mesh]bool    // whether those that begin with a mesh are closed together

	exposures exposures
}

// meshKey is a mesh of a stored model.
type meshKey struct {
	asset string
	index int
}

// maxAssets are kept before the store starts afresh.
const maxAssets = 8

// maxMade shapes are kept before they are made afresh.
const maxMade = 256

// note makes room before something of an asset is added. The caller holds the lock.
func (p *Props) note(asset string) {
	if !p.from[asset] && len(p.from) >= maxAssets {
		p.reset()
	}
	p.from[asset] = true
}

func (p *Props) reset() {
	p.meshes, p.made, p.pictures = map[meshKey][]shape{}, map[string][]shape{}, map[string]*picture{}
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

// shapes returns what a body is made of, one for each of its surfaces. Meshes are read and their trees built without
// holding up others: of two that ask for the same at once, the first to be done is kept.
func (p *Props) shapes(m scene.Mesh) ([]shape, error) {
	if m.Shape != nil {
		key := m.Shape.Key()
		if s, ok := known(p, p.madeOf, key); ok {
			return s, nil
		}
		out := []shape{newShape(m.Shape.Build())}
		p.mu.Lock()
		defer p.mu.Unlock()
		if s, ok := p.made[key]; ok {
			return s, nil
		}
		if len(p.made) >= maxMade {
			p.made = map[string][]shape{}
		}
		p.made[key] = out
		return out, nil
	}
	key := meshKey{m.Asset, m.Index}
	if s, ok := known(p, p.meshesOf, key); ok {
		return s, nil
	}
	prims, err := p.assets.Primitives(m.Asset, m.Index)
	if err != nil {
		return nil, err
	}
	out := make([]shape, 0, len(prims))
	for _, prim := range prims {
		out = append(out, newShape(prim.Mesh))
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	if s, ok := p.meshes[key]; ok {
		return s, nil
	}
	p.note(m.Asset)
	p.meshes[key] = out
	return out, nil
}

// known looks something up under the lock.
func known[K comparable](p *Props, in func() map[K][]shape, key K) ([]shape, bool) {
	p.mu.Lock()
	defer p.mu.Unlock()
	s, ok := in()[key]
	return s, ok
}

func (p *Props) madeOf() map[string][]shape    { return p.made }
func (p *Props) meshesOf() map[meshKey][]shape { return p.meshes }

func newShape(m *mesh.Mesh) shape { return shape{m, bvh.NewMesh(m.Positions, m.Indices), m.Bounds()} }

// texture returns a slot's picture, or nil for an empty slot or a missing picture.
func (p *Props) texture(t *material.Texture) (*texture, error) {
	if t == nil {
		return nil, nil
	}
	key := fmt.Sprint(t.Asset, "/", t.Image)
	p.mu.Lock()
	pic, ok := p.pictures[key]
	p.mu.Unlock()
	if !ok {
		img, err := p.assets.Picture(t.Asset, t.Image)
		if err != nil {
			return nil, err
		}
		if img != nil {
			pic = newPicture(img)
		}
		p.mu.Lock()
		p.note(t.Asset)
		p.pictures[key] = pic
		p.mu.Unlock()
	}
	if pic == nil {
		return nil, nil
	}
	return &texture{pic, t.WrapS, t.WrapT, t.Transform}, nil
}

// closed reports whether meshes, that have an inside together, are closed. It is remembered.
func (p *Props) closed(list []*mesh.Mesh) bool {
	if len(list) == 0 {
		return false
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	if known, ok := p.solid[list[0]]; ok {
		return known
	}
	out := mesh.Closed(list...)
	if len(p.solid) >= maxMade { // what flexes is another mesh each time
		p.solid = map[*mesh.Mesh]bool{}
	}
	p.solid[list[0]] = out
	return out
}

// Rest lets go of what is kept for pictures that follow: none does for now.
func (p *Props) Rest() { p.exposures.forget() }
