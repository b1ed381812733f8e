package library

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"image"
	"math"
	"slices"
	"sync"

	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/core/shot"
	"perigyre/formats/gltf"
)

// Assets gives models by the content hash they are stored under. Those in use are kept in memory.
type Assets struct {
	// Open returns the stored file with this hash.
	Open func(hash string) ([]byte, error)
	// Keep stores a file and returns its content hash.
	Keep func(data []byte) (string, error)
	// Limits bound what may be brought in.
	Limits model.Limits

	mu       sync.Mutex
	models   map[string]*model.Model
	order    []string // least recently used first
	pictures map[string]image.Image
	seen     map[string]pixelStats // of pictures
	facts    map[shot.MeshRef]Facts
	flesh    map[shot.MeshRef]*mesh.Mesh // of several primitives
	supports map[any]*mesh.Support       // by mesh reference or by the key of a shape
}

const keptModels = 8

// Model returns an asset. The result is shared and must not be changed. It is read without holding up others: of two that
// ask for the same at once, the first to be done is kept.
func (a *Assets) Model(hash string) (*model.Model, error) {
	if m := a.held(hash); m != nil {
		return m, nil
	}
	data, err := a.Open(hash)
	if err != nil {
		return nil, fmt.Errorf("the stored model %.12s cannot be opened: %w", hash, err)
	}
	m, err := gltf.Read(data, nil, model.Limits{Bytes: math.MaxInt64, Triangles: math.MaxInt32 / 3, TextureSide: math.MaxInt32})
	if err != nil {
		return nil, fmt.Errorf("the stored model %.12s is damaged: %w", hash, err)
	}
	if had := a.held(hash); had != nil {
		return had, nil
	}
	a.mu.Lock()
	defer a.mu.Unlock()
	if a.models == nil {
		a.models, a.pictures = map[string]*model.Model{}, map[string]image.Image{}
	}
	if len(a.order) >= keptModels {
		delete(a.models, a.order[0])
		a.order = a.order[1:]
		a.pictures = map[string]image.Image{}
	}
	a.models[hash] = m
	a.order = append(a.order, hash)
	return m, nil
}

// held returns an asset that is in memory, or nil, and notes that it is in use.
func (a *Assets) held(hash string) *model.Model {
	a.mu.Lock()
	defer a.mu.Unlock()
	m, ok := a.models[hash]
	if !ok {
		return nil
	}
	if i := slices.Index(a.order, hash); i >= 0 {
		a.order = append(slices.Delete(a.order, i, i+1), hash)
	}
	return m
}

// KeepModel stores a model, without its animations and skins, which the document has, and returns its content hash.
func (a *Assets) KeepModel(m *model.Model) (string, error) {
	bare := *m
	bare.Animations, bare.Skins, bare.Nodes = nil, nil, slices.Clone(m.Nodes)
	for i := range bare.Nodes {
		bare.Nodes[i].Skin, bare.Nodes[i].Weights = 0, nil
		if k := bare.Nodes[i].Mesh; k >= 0 {
			bare.Nodes[i].Weights = bare.Meshes[k].Weights
		}
	}
	data, err := gltf.Write(&bare)
	if err != nil {
		return "", err
	}
	return a.Keep(data)
}

// Mesh returns the primitives of a mesh of an asset.
func (a *Assets) Mesh(ref shot.MeshRef) ([]model.Primitive, error) {
	return a.Primitives(ref.Asset, ref.Mesh)
}

// Primitives implements render.Assets.
func (a *Assets) Primitives(asset string, mesh int) ([]model.Primitive, error) {
	m, err := a.Model(asset)
	if err != nil {
		return nil, err
	}
	if mesh < 0 || mesh >= len(m.Meshes) {
		return nil, fmt.Errorf("the stored model %.12s has no mesh %d", asset, mesh)
	}
	return m.Meshes[mesh].Primitives, nil
}

// Picture returns a decoded picture of an asset, or nil where the file was missing when it came.
func (a *Assets) Picture(asset string, index int) (image.Image, error) {
	m, err := a.Model(asset)
	if err != nil {
		return nil, err
	}
	if index < 0 || index >= len(m.Images) {
		return nil, fmt.Errorf("the stored model %.12s has no picture %d", asset, index)
	}
	if len(m.Images[index].Data) == 0 {
		return nil, nil
	}
	key := fmt.Sprint(asset, index)
	a.mu.Lock()
	img, ok := a.pictures[key]
	a.mu.Unlock()
	if ok {
		return img, nil
	}
	limits := a.Limits
	limits.TextureSide = max(limits.TextureSide, model.DefaultLimits.TextureSide) // it came when they were others, perhaps
	if img, _, err = decode(m.Images[index].Name, m.Images[index].Data, limits); err != nil {
		return nil, fmt.Errorf("the picture %s cannot be used: %w", m.Images[index].Name, err)
	}
	a.mu.Lock()
	a.pictures[key] = img
	a.mu.Unlock()
	return img, nil
}

// Sides are how many pixels wide and high a texture is.
func (a *Assets) Sides(t *material.Texture) (width, height int, err error) {
	img, err := a.Picture(t.Asset, t.Image)
	if err != nil {
		return 0, 0, err
	}
	if img == nil {
		return 0, 0, fmt.Errorf("the file of the picture did not come along")
	}
	return img.Bounds().Dx(), img.Bounds().Dy(), nil
}

// stats returns what the pixels of a texture say. Pictures do not change, so that each is looked at once.
func (a *Assets) stats(t *material.Texture) (pixelStats, error) {
	key := fmt.Sprint(t.Asset, t.Image)
	a.mu.Lock()
	l, ok := a.seen[key]
	a.mu.Unlock()
	if ok {
		return l, nil
	}
	img, err := a.Picture(t.Asset, t.Image)
	if err != nil {
		return pixelStats{}, err
	}
	if img != nil {
		l = measurePixels(img)
	}
	a.mu.Lock()
	defer a.mu.Unlock()
	if a.seen == nil {
		a.seen = map[string]pixelStats{}
	}
	a.seen[key] = l
	return l, nil
}

const keptSupports = 100_000

// Support answers how far a part's surface reaches. Each mesh and shape is gone through once.
func (a *Assets) Support(p *shot.Part) (*mesh.Support, error) {
	var key any
	shape := p.Shaped()
	switch {
	case p.Mesh != nil:
		key = *p.Mesh
	case shape != nil:
		key = shape.Key()
	default:
		return nothing, nil
	}
	a.mu.Lock()
	s, ok := a.supports[key]
	a.mu.Unlock()
	if ok {
		return s, nil
	}
	points, _, err := a.Surface(p)
	if err != nil {
		return nil, err
	}
	s = mesh.NewSupport(points)
	a.mu.Lock()
	defer a.mu.Unlock()
	if a.supports == nil || len(a.supports) >= keptSupports {
		a.supports = map[any]*mesh.Support{}
	}
	a.supports[key] = s
	return s, nil
}

var nothing = mesh.NewSupport(nil)

// Surface returns the triangles of a part's surface in its own frame.
func (a *Assets) Surface(p *shot.Part) (points []geom.Vec3, indices []uint32, err error) {
	whole := &mesh.Mesh{}
	switch {
	case p.Mesh != nil:
		prims, err := a.Mesh(*p.Mesh)
		if err != nil {
			return nil, nil, err
		}
		for _, prim := range prims {
			whole.Append(&mesh.Mesh{Positions: prim.Positions, Indices: prim.Indices})
		}
	case p.Shaped() != nil:
		whole = p.Shaped().Build()
	}
	for _, v := range whole.Positions {
		points = append(points, geom.V3(v))
	}
	return points, whole.Indices, nil
}

// Flesh implements pose.Surfaces. What has no bones or targets of its own among what has stays as it is.
func (a *Assets) Flesh(p *shot.Part) (*mesh.Mesh, error) {
	if p.Mesh == nil {
		return p.Shaped().Build(), nil
	}
	prims, err := a.Mesh(*p.Mesh)
	if err != nil {
		return nil, err
	}
	if len(prims) == 1 {
		return prims[0].Mesh, nil
	}
	a.mu.Lock()
	whole := a.flesh[*p.Mesh]
	a.mu.Unlock()
	if whole != nil {
		return whole, nil
	}
	whole = &mesh.Mesh{}
	for _, prim := range prims {
		whole.AppendFlesh(prim.Mesh)
	}
	a.mu.Lock()
	defer a.mu.Unlock()
	if a.flesh == nil || len(a.flesh) > keptModels {
		a.flesh = map[shot.MeshRef]*mesh.Mesh{}
	}
	a.flesh[*p.Mesh] = whole
	return whole, nil
}

// InMemory returns assets without a store behind them.
func InMemory(limits model.Limits) *Assets {
	files := map[string][]byte{}
	var mu sync.Mutex
	return &Assets{
		Limits: limits,
		Open: func(hash string) ([]byte, error) {
			mu.Lock()
			defer mu.Unlock()
			if data, ok := files[hash]; ok {
				return data, nil
			}
			return nil, fmt.Errorf("there is no file %.12s", hash)
		},
		Keep: func(data []byte) (string, error) {
			sum := sha256.Sum256(data)
			hash := hex.EncodeToString(sum[:])
			mu.Lock()
			defer mu.Unlock()
			files[hash] = data
			return hash, nil
		},
	}
}
