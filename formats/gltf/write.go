package gltf

import (
	"bytes"
	"encoding/binary"
	"encoding/json"
	"fmt"
	stdimage "image"
	"image/color"
	"image/png"
	"math"
	"slices"

	"perigyre/core/geom"
	corematerial "perigyre/core/material"
	coremesh "perigyre/core/mesh"
	"perigyre/core/model"
)

type writer struct {
	doc document
	bin bytes.Buffer
}

// Write encodes a model as GLB: the same model always as the same bytes, its pictures in the model's
// order. A picture whose data are missing is written as a bold checker, which base colours show; other
// textures that would show it are left out.
func Write(m *model.Model) ([]byte, error) {
	w := &writer{doc: document{Asset: asset{Version: "2.0", Generator: "Perigyre"}}}
	for _, img := range m.Images {
		if img.Missing() {
			img.Data, img.MIME = checker(), "image/png"
		}
		view := w.view(img.Data, 0)
		w.doc.Images = append(w.doc.Images, image{Name: img.Name, MimeType: img.MIME, BufferView: &view})
	}
	for _, mat := range m.Materials {
		w.material(mat, m.Images)
	}
	for _, mesh := range m.Meshes {
		w.mesh(mesh)
	}
	var roots []int
	for i, n := range m.Nodes {
		g := node{Name: n.Name}
		if n.Mesh >= 0 {
			g.Mesh = &n.Mesh
		}
		if n.Position != (geom.Vec3{}) {
			g.Translation = (*[3]float64)(&n.Position)
		}
		if n.Rotation != geom.NoTurn {
			g.Rotation = (*[4]float64)(&n.Rotation)
		}
		if n.Size != (geom.Vec3{1, 1, 1}) {
			g.Scale = (*[3]float64)(&n.Size)
		}
		if n.Skin > 0 {
			skin := n.Skin - 1
			g.Skin = &skin
		}
		if n.Mesh >= 0 && !slices.Equal(n.Weights, m.Meshes[n.Mesh].Weights) {
			g.Weights = n.Weights
		}
		w.doc.Nodes = append(w.doc.Nodes, g)
		if n.Parent >= 0 {
			w.doc.Nodes[n.Parent].Children = append(w.doc.Nodes[n.Parent].Children, i)
		} else {
			roots = append(roots, i)
		}
	}
	w.skins(m)
	for i := range m.Animations {
		w.animation(&m.Animations[i])
	}
	first := 0
	w.doc.Scene, w.doc.Scenes = &first, []scene{{Nodes: roots}}
	return w.glb()
}

// animation writes the channels; those with the same times share their accessor.
func (w *writer) animation(a *model.Animation) {
	out := animation{Name: a.Name}
	inputs := map[*float32]int{}
	for _, c := range a.Channels {
		in, ok := inputs[&c.Times[0]]
		if !ok {
			in = w.accessor(c.Times, 0, typeFloat, len(c.Times), "SCALAR")
			w.doc.Accessors[in].Min, w.doc.Accessors[in].Max = []float64{float64(c.Times[0])}, []float64{float64(c.Times[len(c.Times)-1])}
			inputs[&c.Times[0]] = in
		}
		width, kind := 3, "VEC3"
		switch c.Path {
		case "rotation":
			width, kind = 4, "VEC4"
		case "weights":
			width, kind = 1, "SCALAR"
		}
		node := c.Node
		ch := animationChannel{Sampler: len(out.Samplers)}
		ch.Target.Node, ch.Target.Path = &node, c.Path
		out.Samplers = append(out.Samplers, animationSampler{Input: in, Output: w.accessor(c.Values, 0, typeFloat, len(c.Values)/width, kind), Interpolation: c.Interpolation})
		out.Channels = append(out.Channels, ch)
	}
	w.doc.Animations = append(w.doc.Animations, out)
}

func (w *writer) glb() ([]byte, error) {
	pad(&w.bin, 0)
	if w.bin.Len() > 0 {
		w.doc.Buffers = []buffer{{ByteLength: w.bin.Len()}}
	}
	var text bytes.Buffer
	enc := json.NewEncoder(&text)
	enc.SetEscapeHTML(false)
	if err := enc.Encode(w.doc); err != nil {
		return nil, err
	}
	text.Truncate(text.Len() - 1) // the encoder's newline
	pad(&text, ' ')
	total := 12 + 8 + text.Len()
	if w.bin.Len() > 0 {
		total += 8 + w.bin.Len()
	}
	if total > math.MaxUint32 {
		return nil, fmt.Errorf("a model of %d bytes is too large for a GLB", total)
	}
	var out bytes.Buffer
	put := func(v ...uint32) {
		for _, x := range v {
			_ = binary.Write(&out, binary.LittleEndian, x) // a bytes.Buffer does not fail
		}
	}
	put(glbMagic, 2, uint32(total), uint32(text.Len()), chunkJSON)
	out.Write(text.Bytes())
	if w.bin.Len() > 0 {
		put(uint32(w.bin.Len()), chunkBIN)
		out.Write(w.bin.Bytes())
	}
	return out.Bytes(), nil
}

func pad(b *bytes.Buffer, with byte) {
	for b.Len()%4 != 0 {
		b.WriteByte(with)
	}
}

func (w *writer) view(data []byte, target int) int {
	pad(&w.bin, 0)
	w.doc.BufferViews = append(w.doc.BufferViews, bufferView{ByteOffset: w.bin.Len(), ByteLength: len(data), Target: target})
	w.bin.Write(data)
	return len(w.doc.BufferViews) - 1
}

func (w *writer) accessor(data any, target, component, count int, kind string) int {
	var b bytes.Buffer
	_ = binary.Write(&b, binary.LittleEndian, data)
	view := w.view(b.Bytes(), target)
	w.doc.Accessors = append(w.doc.Accessors, accessor{BufferView: &view, ComponentType: component, Count: count, Type: kind})
	return len(w.doc.Accessors) - 1
}

func (w *writer) mesh(m model.Mesh) {
	g := mesh{Name: m.Name}
	for _, p := range m.Primitives {
		n := len(p.Positions)
		at := w.accessor(p.Positions, targetArrayBuffer, typeFloat, n, "VEC3")
		box := p.Bounds()
		w.doc.Accessors[at].Min, w.doc.Accessors[at].Max = box.Min[:], box.Max[:]
		out := primitive{Attributes: map[string]int{"POSITION": at}}
		if p.Normals != nil {
			out.Attributes["NORMAL"] = w.accessor(p.Normals, targetArrayBuffer, typeFloat, n, "VEC3")
		}
		if p.Tangents != nil {
			out.Attributes["TANGENT"] = w.accessor(p.Tangents, targetArrayBuffer, typeFloat, n, "VEC4")
		}
		uv := p.UV
		if uv == nil && w.textured(p.Material) { // a texture needs coordinates (3.9.2), if all at one place
			uv = make([][2]float32, n)
		}
		if uv != nil {
			out.Attributes["TEXCOORD_0"] = w.accessor(uv, targetArrayBuffer, typeFloat, n, "VEC2")
		}
		if p.Colors != nil {
			out.Attributes["COLOR_0"] = w.accessor(p.Colors, targetArrayBuffer, typeFloat, n, "VEC4")
		}
		w.flesh(p.Mesh, &out)
		indices := w.accessor(p.Indices, targetElementArrayBuffer, typeUnsignedInt, len(p.Indices), "SCALAR")
		out.Indices = &indices
		if p.Material >= 0 {
			out.Material = &p.Material
		}
		g.Primitives = append(g.Primitives, out)
	}
	if len(m.Targets) > 0 {
		g.Weights = m.Weights
		g.Extras, _ = json.Marshal(map[string][]string{"targetNames": m.Targets}) // texts always encode
	}
	w.doc.Meshes = append(w.doc.Meshes, g)
}

// flesh writes how a primitive hangs on bones, and its targets.
func (w *writer) flesh(p *coremesh.Mesh, out *primitive) {
	n := len(p.Positions)
	if len(p.Bones) > 0 {
		for set := range coremesh.MaxBones / 4 {
			joints, shares, used := make([][4]uint16, n), make([][4]float32, n), false
			for i, b := range p.Bones {
				for k := range 4 {
					if s := b.Share[4*set+k]; s != 0 {
						joints[i][k], shares[i][k], used = b.Joint[4*set+k], s, true
					}
				}
			}
			if set == 0 || used {
				out.Attributes[fmt.Sprintf("JOINTS_%d", set)] = w.accessor(joints, targetArrayBuffer, typeUnsignedShort, n, "VEC4")
				out.Attributes[fmt.Sprintf("WEIGHTS_%d", set)] = w.accessor(shares, targetArrayBuffer, typeFloat, n, "VEC4")
			}
		}
	}
	for _, t := range p.Targets {
		one := map[string]int{}
		for _, d := range []struct {
			name string
			list [][3]float32
		}{{"POSITION", t.Positions}, {"NORMAL", t.Normals}, {"TANGENT", t.Tangents}} {
			if d.list == nil {
				continue
			}
			one[d.name] = w.accessor(d.list, targetArrayBuffer, typeFloat, n, "VEC3")
			if d.name == "POSITION" { // whose bounds are asked for (3.7.2.2)
				box := (&coremesh.Mesh{Positions: d.list}).Bounds()
				w.doc.Accessors[one[d.name]].Min, w.doc.Accessors[one[d.name]].Max = box.Min[:], box.Max[:]
			}
		}
		out.Targets = append(out.Targets, one)
	}
}

// skins writes what meshes are bound to.
func (w *writer) skins(m *model.Model) {
	for _, s := range m.Skins {
		flat := make([]float32, 0, 16*len(s.Inverse))
		for _, at := range s.Inverse {
			for _, v := range at {
				flat = append(flat, float32(v))
			}
		}
		inverse := w.accessor(flat, 0, typeFloat, len(s.Inverse), "MAT4")
		w.doc.Skins = append(w.doc.Skins, skin{Name: s.Name, InverseBindMatrices: &inverse, Joints: s.Joints})
	}
}

// textured reports whether a material refers to a texture.
func (w *writer) textured(k int) bool {
	if k < 0 || k >= len(w.doc.Materials) {
		return false
	}
	m := &w.doc.Materials[k]
	if m.NormalTexture != nil || m.OcclusionTexture != nil || m.EmissiveTexture != nil || m.PBRMetallicRoughness.BaseColorTexture != nil || m.PBRMetallicRoughness.MetallicRoughnessTexture != nil {
		return true
	}
	for _, x := range m.Extensions {
		if bytes.Contains(x, []byte(`Texture":{`)) {
			return true
		}
	}
	return false
}

// checker returns the picture that stands for a missing one: eight by eight squares of coral and cream.
func checker() []byte {
	const side, square = 64, 8
	img := stdimage.NewPaletted(stdimage.Rect(0, 0, side, side), color.Palette{color.NRGBA{240, 112, 90, 255}, color.NRGBA{236, 235, 230, 255}})
	for i := range img.Pix {
		img.Pix[i] = uint8(i%side/square+i/side/square) & 1
	}
	var b bytes.Buffer
	_ = png.Encode(&b, img) // a bytes.Buffer does not fail
	return b.Bytes()
}

func (w *writer) material(m corematerial.Material, images []model.Image) {
	info := func(t *corematerial.Texture) *textureInfo {
		if t == nil || images[t.Image].Missing() && t != m.BaseColorTexture {
			return nil
		}
		source, smp := t.Image, sampler{WrapS: wrapCode(t.WrapS), WrapT: wrapCode(t.WrapT)}
		at := len(w.doc.Samplers)
		for i, o := range w.doc.Samplers {
			if o == smp {
				at = i
			}
		}
		if at == len(w.doc.Samplers) {
			w.doc.Samplers = append(w.doc.Samplers, smp)
		}
		w.doc.Textures = append(w.doc.Textures, texture{Sampler: &at, Source: &source})
		out := &textureInfo{Index: len(w.doc.Textures) - 1}
		if p := t.Transform; p != nil {
			w.extend(&out.Extensions, "KHR_texture_transform", p)
		}
		return out
	}
	g := material{
		Name: m.Name, DoubleSided: m.DoubleSided,
		PBRMetallicRoughness: &pbrMetallicRoughness{
			BaseColorFactor: &m.BaseColor, MetallicFactor: &m.Metallic, RoughnessFactor: &m.Roughness,
			BaseColorTexture: info(m.BaseColorTexture), MetallicRoughnessTexture: info(m.MetallicRoughness),
		},
		NormalTexture: info(m.Normal), OcclusionTexture: info(m.Occlusion), EmissiveTexture: info(m.EmissiveTexture),
	}
	if g.NormalTexture != nil && m.NormalScale != 1 {
		g.NormalTexture.Scale = &m.NormalScale
	}
	if g.OcclusionTexture != nil && m.OcclusionStrength != 1 {
		g.OcclusionTexture.Strength = &m.OcclusionStrength
	}
	if strongest := max(m.Emissive[0], m.Emissive[1], m.Emissive[2]); strongest > 0 {
		e := m.Emissive
		if strongest > 1 { // factors go up to 1; the rest is an extension's (KHR_materials_emissive_strength)
			for k := range e {
				e[k] /= strongest
			}
			w.extend(&g.Extensions, "KHR_materials_emissive_strength", map[string]float64{"emissiveStrength": strongest})
		}
		g.EmissiveFactor = &e
	}
	if m.Alpha == corematerial.Mask {
		g.AlphaMode, g.AlphaCutoff = "MASK", &m.AlphaCutoff
	} else if m.Alpha == corematerial.Blend {
		g.AlphaMode = "BLEND"
	}
	w.layers(&m, &g, info)
	w.doc.Materials = append(w.doc.Materials, g)
}

// layers writes what a material has beyond the core of glTF, as the ratified extensions of Khronos have it.
func (w *writer) layers(m *corematerial.Material, g *material, info func(*corematerial.Texture) *textureInfo) {
	put := func(name string, values map[string]any) { w.extend(&g.Extensions, name, values) }
	textured := func(values map[string]any, name string, t *corematerial.Texture) *textureInfo {
		i := info(t)
		if i != nil {
			values[name] = i
		}
		return i
	}
	if m.Unlit {
		put("KHR_materials_unlit", map[string]any{})
	}
	if m.IOR > 0 {
		put("KHR_materials_ior", map[string]any{"ior": m.IOR})
	}
	if m.Specular != nil || m.SpecularColor != nil || m.SpecularTexture != nil || m.SpecularColorTexture != nil {
		values := map[string]any{}
		if m.Specular != nil {
			values["specularFactor"] = *m.Specular
		}
		if m.SpecularColor != nil {
			values["specularColorFactor"] = *m.SpecularColor
		}
		textured(values, "specularTexture", m.SpecularTexture)
		textured(values, "specularColorTexture", m.SpecularColorTexture)
		put("KHR_materials_specular", values)
	}
	if m.Transmission > 0 {
		values := map[string]any{"transmissionFactor": m.Transmission}
		textured(values, "transmissionTexture", m.TransmissionTexture)
		put("KHR_materials_transmission", values)
	}
	if m.Thickness > 0 {
		values := map[string]any{"thicknessFactor": m.Thickness}
		if m.AttenuationDistance > 0 && m.AttenuationColor != nil {
			values["attenuationDistance"], values["attenuationColor"] = m.AttenuationDistance, *m.AttenuationColor
		}
		put("KHR_materials_volume", values)
	}
	if m.Clearcoat > 0 {
		values := map[string]any{"clearcoatFactor": m.Clearcoat, "clearcoatRoughnessFactor": m.ClearcoatRoughness}
		textured(values, "clearcoatTexture", m.ClearcoatTexture)
		textured(values, "clearcoatRoughnessTexture", m.ClearcoatRoughnessTexture)
		if n := textured(values, "clearcoatNormalTexture", m.ClearcoatNormal); n != nil && m.ClearcoatNormalScale != 1 {
			n.Scale = &m.ClearcoatNormalScale
		}
		put("KHR_materials_clearcoat", values)
	}
	if m.SheenColor != nil {
		values := map[string]any{"sheenColorFactor": *m.SheenColor, "sheenRoughnessFactor": m.SheenRoughness}
		textured(values, "sheenColorTexture", m.SheenColorTexture)
		textured(values, "sheenRoughnessTexture", m.SheenRoughnessTexture)
		put("KHR_materials_sheen", values)
	}
}

// extend adds an extension's object, and names it among those that the file uses.
func (w *writer) extend(to *map[string]json.RawMessage, name string, values any) {
	raw, _ := json.Marshal(values) // numbers and arrays of them always encode
	if *to == nil {
		*to = map[string]json.RawMessage{}
	}
	(*to)[name] = raw
	if !slices.Contains(w.doc.ExtensionsUsed, name) {
		w.doc.ExtensionsUsed = append(w.doc.ExtensionsUsed, name)
	}
}

func wrapCode(w corematerial.Wrap) int {
	switch w {
	case corematerial.Clamp:
		return wrapClamp
	case corematerial.Mirror:
		return wrapMirror
	}
	return 10497
}
