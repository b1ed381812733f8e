package gltf

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"math"
	"slices"

	"perigyre/core/fault"
	"perigyre/core/geom"
	corematerial "perigyre/core/material"
	coremesh "perigyre/core/mesh"
	"perigyre/core/model"
)

// understood lists the extensions that are read; a file that requires another is refused.
var understood = []string{
	"KHR_mesh_quantization", "KHR_texture_transform", "EXT_mesh_gpu_instancing",
	"KHR_materials_emissive_strength", "KHR_materials_unlit", "KHR_materials_clearcoat", "KHR_materials_transmission",
	"KHR_materials_volume", "KHR_materials_ior", "KHR_materials_sheen", "KHR_materials_specular",
	"KHR_materials_variants", "KHR_lights_punctual",
}

const maxObjects, maxValues = 4_000_000, 40_000_000

type reader struct {
	doc     document
	buffers [][]byte
	files   model.Files
	limits  model.Limits
	out     *model.Model
	images  map[int]int // image of the document to image of the model
	nodes   map[int]int // node of the document to node of the model
	lamps   []model.Light
	left    model.LeftOut
	targets int // values of morph targets so far
}

// Read decodes a .glb or .gltf. Files gives the buffers and pictures beside a .gltf and may be nil.
// Cameras, and what animations move beyond nodes and weights, are left out and named in the result.
func Read(data []byte, files model.Files, limits model.Limits) (*model.Model, error) {
	jsonPart, bin, err := split(data)
	if err != nil {
		return nil, err
	}
	r := &reader{files: files, limits: limits, out: &model.Model{Unit: "m", Up: "y"}, images: map[int]int{}, nodes: map[int]int{}}
	// Small text can stand for large structures; embedded buffers hold neither of these signs.
	if bytes.Count(jsonPart, []byte("{")) > maxObjects || bytes.Count(jsonPart, []byte(",")) > maxValues {
		return nil, fmt.Errorf("its JSON holds more than %d objects or %d values", maxObjects, maxValues)
	}
	if err := json.Unmarshal(jsonPart, &r.doc); err != nil {
		return nil, fmt.Errorf("its JSON cannot be read: %w", fault.JSON(err))
	}
	if r.doc.Asset.Version == "" || r.doc.Asset.Version[0] != '2' {
		return nil, fmt.Errorf("it says it is glTF version %q; only version 2 is read", r.doc.Asset.Version)
	}
	for _, e := range r.doc.ExtensionsRequired {
		if why, ok := compressed[e]; ok {
			return nil, errors.New(why)
		}
		if !slices.Contains(understood, e) {
			return nil, fmt.Errorf("it cannot be read without the extension %s; export it again with that option turned off", e)
		}
	}
	r.strangers()
	if err := r.loadBuffers(bin); err != nil {
		return nil, err
	}
	for i := range r.doc.Images { // in the file's order, which documents refer to
		if _, err := r.image(i); err != nil {
			return nil, fmt.Errorf("image %d: %w", i, err)
		}
	}
	for i := range r.doc.Materials {
		if err := r.material(i); err != nil {
			return nil, fmt.Errorf("material %d %q: %w", i, r.doc.Materials[i].Name, err)
		}
	}
	if err := limits.CheckParts(len(r.doc.Nodes), len(r.doc.Materials)); err != nil {
		return nil, err
	}
	if err := r.readExtensions(); err != nil {
		return nil, err
	}
	triangles := 0
	for i := range r.doc.Meshes {
		if err := r.mesh(i, &triangles); err != nil {
			return nil, fmt.Errorf("mesh %d %q: %w", i, r.doc.Meshes[i].Name, err)
		}
	}
	if err := r.tree(); err != nil {
		return nil, err
	}
	if err := r.bind(); err != nil {
		return nil, err
	}
	if err := r.animate(); err != nil {
		return nil, err
	}
	for i, a := range r.doc.Cameras {
		r.leaveOut("camera", a.Name, i)
	}
	r.out.LeftOut = r.left.Names()
	return r.out, nil
}

// strangers names the extensions that are not read, with how often each is used.
func (r *reader) strangers() {
	found := map[string]bool{}
	count := func(x map[string]json.RawMessage) {
		names := slices.Sorted(maps.Keys(x))
		for _, e := range names {
			if !slices.Contains(understood, e) {
				found[e] = true
				r.left.Add("extension " + e)
			}
		}
	}
	info := func(t *textureInfo) {
		if t != nil {
			count(t.Extensions)
		}
	}
	for _, n := range r.doc.Nodes {
		count(n.Extensions)
	}
	for _, m := range r.doc.Meshes {
		for _, p := range m.Primitives {
			count(p.Extensions)
		}
	}
	for _, m := range r.doc.Materials {
		count(m.Extensions)
		info(m.NormalTexture)
		info(m.OcclusionTexture)
		info(m.EmissiveTexture)
		if p := m.PBRMetallicRoughness; p != nil {
			info(p.BaseColorTexture)
			info(p.MetallicRoughnessTexture)
		}
	}
	for _, t := range r.doc.Textures {
		count(t.Extensions)
	}
	for _, a := range r.doc.Animations {
		for _, c := range a.Channels {
			count(c.Target.Extensions)
		}
	}
	var root map[string]json.RawMessage
	if json.Unmarshal(r.doc.Extensions, &root) == nil {
		count(root)
	}
	for _, e := range r.doc.ExtensionsUsed { // wherever else it is
		if !slices.Contains(understood, e) && !found[e] {
			r.left.Add("extension " + e)
		}
	}
}

func (r *reader) leaveOut(kind, name string, index int) {
	if name == "" {
		name = fmt.Sprint(index)
	}
	r.left.Add(kind + " " + name)
}

func (r *reader) loadBuffers(bin []byte) error {
	for i, b := range r.doc.Buffers {
		data, name := bin, "the binary chunk"
		if b.URI != "" || i > 0 {
			var found bool
			var err error
			data, name, found, err = resource(b.URI, r.files)
			if err != nil {
				return fmt.Errorf("buffer %d: %w", i, err)
			}
			if !found {
				return fmt.Errorf("it needs the file %q, which did not come with it; bring both in together, or in one zip", name)
			}
		}
		if b.ByteLength < 0 || len(data) < b.ByteLength {
			return fmt.Errorf("buffer %d promises %d bytes, but %s has %d", i, b.ByteLength, name, len(data))
		}
		r.buffers = append(r.buffers, data[:b.ByteLength])
	}
	return nil
}

func (r *reader) material(i int) error {
	g := &r.doc.Materials[i]
	m := corematerial.Material{
		Name: g.Name, BaseColor: [4]float64{1, 1, 1, 1}, Metallic: 1, Roughness: 1,
		NormalScale: 1, OcclusionStrength: 1, Alpha: corematerial.Opaque, AlphaCutoff: 0.5, DoubleSided: g.DoubleSided,
	}
	if m.Name == "" {
		m.Name = fmt.Sprintf("Material %d", i+1)
	}
	slot := func(info *textureInfo) (*corematerial.Texture, error) {
		if info == nil {
			return nil, nil
		}
		if info.TexCoord != 0 {
			r.left.Add(fmt.Sprintf("a texture of %s on its second set of coordinates", m.Name))
			return nil, nil
		}
		t, err := r.texture(info.Index)
		if err == nil {
			err = info.place(t)
		}
		return t, err
	}
	var err error
	if p := g.PBRMetallicRoughness; p != nil {
		if p.BaseColorFactor != nil {
			m.BaseColor = *p.BaseColorFactor
		}
		if p.MetallicFactor != nil {
			m.Metallic = *p.MetallicFactor
		}
		if p.RoughnessFactor != nil {
			m.Roughness = *p.RoughnessFactor
		}
		if m.BaseColorTexture, err = slot(p.BaseColorTexture); err != nil {
			return err
		}
		if m.MetallicRoughness, err = slot(p.MetallicRoughnessTexture); err != nil {
			return err
		}
	}
	if m.Normal, err = slot(g.NormalTexture); err != nil {
		return err
	}
	if g.NormalTexture != nil && g.NormalTexture.Scale != nil {
		m.NormalScale = *g.NormalTexture.Scale
	}
	if m.Occlusion, err = slot(g.OcclusionTexture); err != nil {
		return err
	}
	if g.OcclusionTexture != nil && g.OcclusionTexture.Strength != nil {
		m.OcclusionStrength = *g.OcclusionTexture.Strength
	}
	if m.EmissiveTexture, err = slot(g.EmissiveTexture); err != nil {
		return err
	}
	if g.EmissiveFactor != nil {
		m.Emissive = *g.EmissiveFactor
	}
	if raw, ok := g.Extensions["KHR_materials_emissive_strength"]; ok {
		e := struct {
			EmissiveStrength float64 `json:"emissiveStrength"`
		}{1}
		if json.Unmarshal(raw, &e) == nil {
			for k := range m.Emissive {
				m.Emissive[k] *= e.EmissiveStrength
			}
		}
	}
	if err := r.extend(g, &m, slot); err != nil {
		return err
	}
	switch g.AlphaMode {
	case "MASK":
		m.Alpha = corematerial.Mask
	case "BLEND":
		m.Alpha = corematerial.Blend
	}
	if g.AlphaCutoff != nil {
		m.AlphaCutoff = *g.AlphaCutoff
	}
	r.out.Materials = append(r.out.Materials, m)
	return nil
}

func (r *reader) texture(index int) (*corematerial.Texture, error) {
	if index < 0 || index >= len(r.doc.Textures) {
		return nil, fmt.Errorf("texture %d does not exist", index)
	}
	t := r.doc.Textures[index]
	if t.Source == nil {
		r.leaveOut("texture", "in a format of an extension", index)
		return nil, nil
	}
	img, err := r.image(*t.Source)
	if err != nil {
		return nil, err
	}
	out := &corematerial.Texture{Image: img, WrapS: corematerial.Repeat, WrapT: corematerial.Repeat}
	if t.Sampler != nil {
		if *t.Sampler < 0 || *t.Sampler >= len(r.doc.Samplers) {
			return nil, fmt.Errorf("sampler %d does not exist", *t.Sampler)
		}
		s := r.doc.Samplers[*t.Sampler]
		out.WrapS, out.WrapT = wrap(s.WrapS), wrap(s.WrapT)
	}
	return out, nil
}

func wrap(mode int) corematerial.Wrap {
	switch mode {
	case wrapClamp:
		return corematerial.Clamp
	case wrapMirror:
		return corematerial.Mirror
	}
	return corematerial.Repeat
}

func (r *reader) image(index int) (int, error) {
	if at, ok := r.images[index]; ok {
		return at, nil
	}
	if index < 0 || index >= len(r.doc.Images) {
		return 0, fmt.Errorf("image %d does not exist", index)
	}
	g := r.doc.Images[index]
	img := model.Image{Name: g.Name, MIME: g.MimeType}
	if g.BufferView != nil {
		data, _, err := r.view(*g.BufferView, 0)
		if err != nil {
			return 0, err
		}
		img.Data = data
	} else {
		data, name, found, err := resource(g.URI, r.files)
		if err != nil {
			return 0, err
		}
		if img.Name == "" {
			img.Name = name
		}
		if found {
			img.Data = data
		} else {
			r.out.Missing = append(r.out.Missing, name)
		}
	}
	if img.Name == "" {
		img.Name = fmt.Sprintf("image %d", index)
	}
	r.images[index] = len(r.out.Images)
	r.out.Images = append(r.out.Images, img)
	return r.images[index], nil
}

func (r *reader) mesh(i int, triangles *int) error {
	g := r.doc.Meshes[i]
	m := model.Mesh{Name: g.Name}
	if err := r.targetsOf(&m, &g); err != nil {
		return err
	}
	for k, p := range g.Primitives {
		if p.Mode != nil && (*p.Mode < modeTriangles || *p.Mode > modeTriangleFan) {
			r.left.Add(fmt.Sprintf("points or lines of mesh %s", g.Name))
			continue
		}
		out, err := r.primitive(p)
		if err == nil {
			err = r.morphs(out, p, len(m.Targets))
		}
		if err != nil {
			return fmt.Errorf("primitive %d: %w", k, err)
		}
		*triangles += out.Triangles()
		if err := r.limits.CheckTriangles(*triangles); err != nil {
			return err
		}
		material := -1
		if p.Material != nil {
			material = *p.Material
			if material < 0 || material >= len(r.doc.Materials) {
				return fmt.Errorf("primitive %d: material %d does not exist", k, material)
			}
		}
		dressed, err := r.dressed(p)
		if err != nil {
			return fmt.Errorf("primitive %d: %w", k, err)
		}
		m.Primitives = append(m.Primitives, model.Primitive{Mesh: out, Material: material, Dressed: dressed})
	}
	r.out.Meshes = append(r.out.Meshes, m)
	return nil
}

func (r *reader) primitive(p primitive) (*coremesh.Mesh, error) {
	at, ok := p.Attributes["POSITION"]
	if !ok {
		return nil, fmt.Errorf("it has no positions")
	}
	flat, err := r.floats(at, 3, 0, "VEC3")
	if err != nil {
		return nil, err
	}
	m := &coremesh.Mesh{Positions: group3(flat)}
	if p.Indices != nil {
		if m.Indices, err = r.indices(*p.Indices); err != nil {
			return nil, err
		}
	} else {
		m.Indices = make([]uint32, len(m.Positions))
		for i := range m.Indices {
			m.Indices[i] = uint32(i)
		}
	}
	if p.Mode != nil && *p.Mode != modeTriangles {
		m.Indices = triangulate(m.Indices, *p.Mode)
	}
	m.Indices = m.Indices[:len(m.Indices)/3*3]
	attributes := map[string]func(int) error{
		"NORMAL":     func(a int) error { f, err := r.floats(a, 3, 0, "VEC3"); m.Normals = group3(f); return err },
		"TANGENT":    func(a int) error { f, err := r.floats(a, 4, 1, "VEC4"); m.Tangents = group4(f); return err },
		"TEXCOORD_0": func(a int) error { f, err := r.floats(a, 2, 0, "VEC2"); m.UV = group2(f); return err },
		"COLOR_0":    func(a int) error { f, err := r.floats(a, 4, 1, "VEC3", "VEC4"); m.Colors = group4(f); return err },
	}
	if m.Bones, err = r.bones(p, len(m.Positions)); err != nil {
		return nil, err
	}
	for _, name := range slices.Sorted(maps.Keys(p.Attributes)) {
		if attributes[name] == nil && name != "POSITION" && !bound(name) {
			r.left.Add("vertex data " + name)
		}
	}
	for name, read := range attributes {
		if a, ok := p.Attributes[name]; ok {
			if err := read(a); err != nil {
				return nil, fmt.Errorf("%s: %w", name, err)
			}
		}
	}
	return m, m.Check()
}

func group2(f []float32) (out [][2]float32) {
	for i := 0; i+1 < len(f); i += 2 {
		out = append(out, [2]float32(f[i:]))
	}
	return out
}

func group3(f []float32) [][3]float32 {
	if len(f) == 0 {
		return nil // as if it were not there
	}
	out := make([][3]float32, len(f)/3)
	for i := range out {
		out[i] = [3]float32(f[3*i:])
	}
	return out
}

func group4(f []float32) [][4]float32 {
	if len(f) == 0 {
		return nil
	}
	out := make([][4]float32, len(f)/4)
	for i := range out {
		out[i] = [4]float32(f[4*i:])
	}
	return out
}

// triangulate turns strips and fans into triangles (3.7.2.1).
func triangulate(in []uint32, mode int) []uint32 {
	var out []uint32
	for i := 0; i+2 < len(in); i++ {
		switch {
		case mode == modeTriangleFan:
			out = append(out, in[i+1], in[i+2], in[0])
		case i%2 == 0:
			out = append(out, in[i], in[i+1], in[i+2])
		default:
			out = append(out, in[i], in[i+2], in[i+1])
		}
	}
	return out
}

// tree walks the scene from its roots. A node that is reached twice, directly or round a cycle, is
// an error (3.5.2: the hierarchy is a set of disjoint strict trees).
func (r *reader) tree() error {
	var roots []int
	switch {
	case r.doc.Scene != nil && *r.doc.Scene >= 0 && *r.doc.Scene < len(r.doc.Scenes):
		roots = r.doc.Scenes[*r.doc.Scene].Nodes
	case len(r.doc.Scenes) > 0:
		roots = r.doc.Scenes[0].Nodes
	default:
		child := make([]bool, len(r.doc.Nodes))
		for _, n := range r.doc.Nodes {
			for _, c := range n.Children {
				if c >= 0 && c < len(child) {
					child[c] = true
				}
			}
		}
		for i, c := range child {
			if !c {
				roots = append(roots, i)
			}
		}
	}
	type visit struct{ node, parent int }
	var stack []visit
	for _, root := range slices.Backward(roots) {
		stack = append(stack, visit{root, -1})
	}
	seen := make([]bool, len(r.doc.Nodes))
	for len(stack) > 0 {
		v := stack[len(stack)-1]
		stack = stack[:len(stack)-1]
		if v.node < 0 || v.node >= len(r.doc.Nodes) {
			return fmt.Errorf("node %d does not exist", v.node)
		}
		if seen[v.node] {
			return fmt.Errorf("node %d %q stands in the tree twice", v.node, r.doc.Nodes[v.node].Name)
		}
		seen[v.node] = true
		n, err := r.node(v.node)
		if err != nil {
			return fmt.Errorf("node %d %q: %w", v.node, r.doc.Nodes[v.node].Name, err)
		}
		n.Parent = v.parent
		at := len(r.out.Nodes)
		r.out.Nodes = append(r.out.Nodes, n)
		r.nodes[v.node] = at
		if raw, ok := r.doc.Nodes[v.node].Extensions["EXT_mesh_gpu_instancing"]; ok {
			if err := r.instances(raw, at); err != nil {
				return fmt.Errorf("node %d %q: %w", v.node, n.Name, err)
			}
		}
		for _, c := range slices.Backward(r.doc.Nodes[v.node].Children) {
			stack = append(stack, visit{c, at})
		}
	}
	return nil
}

func (r *reader) node(i int) (model.Node, error) {
	g := r.doc.Nodes[i]
	n := model.Node{Name: g.Name, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}, Mesh: -1}
	if g.Mesh != nil {
		if *g.Mesh < 0 || *g.Mesh >= len(r.out.Meshes) {
			return n, fmt.Errorf("mesh %d does not exist", *g.Mesh)
		}
		if len(r.out.Meshes[*g.Mesh].Primitives) > 0 {
			n.Mesh = *g.Mesh
		}
		if n.Name == "" {
			n.Name = r.out.Meshes[*g.Mesh].Name
		}
	}
	if raw, ok := g.Extensions["KHR_lights_punctual"]; ok {
		var x struct{ Light int }
		if err := json.Unmarshal(raw, &x); err != nil || x.Light < 0 || x.Light >= len(r.lamps) {
			return n, fmt.Errorf("its light does not exist")
		}
		n.Light = &r.lamps[x.Light]
	}
	if n.Name == "" {
		n.Name = fmt.Sprintf("Part %d", i+1)
	}
	if n.Mesh >= 0 {
		n.Weights = weights(g.Weights, r.out.Meshes[n.Mesh].Weights)
	}
	if g.Matrix != nil {
		var exact bool
		n.Position, n.Rotation, n.Size, exact = geom.Mat4(*g.Matrix).Decompose()
		if !exact {
			r.out.Warnings = append(r.out.Warnings, fmt.Sprintf("%s is sheared or flattened by its matrix; it is taken without the shear", n.Name))
		}
	}
	if g.Translation != nil {
		n.Position = *g.Translation
	}
	if g.Rotation != nil {
		n.Rotation = geom.Quat(*g.Rotation).Unit()
	}
	if g.Scale != nil {
		n.Size = *g.Scale
	}
	for k, s := range n.Size {
		if s == 0 || math.IsNaN(s) { // used to hide things; it cannot be inverted
			n.Size[k] = 1e-6
		}
	}
	if !n.Position.Finite() || !n.Size.Finite() {
		return n, fmt.Errorf("its place is not a number")
	}
	return n, nil
}
