package gltf

import (
	"bytes"
	"encoding/base64"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"math"
	"reflect"
	"strings"
	"testing"

	"perigyre/core/geom"
	corematerial "perigyre/core/material"
	coremesh "perigyre/core/mesh"
	"perigyre/core/model"
)

func sample() *model.Model {
	box := coremesh.Box(geom.Vec3{1, 2, 3})
	for i := range box.Positions {
		box.Colors = append(box.Colors, [4]float32{float32(i) / 24, 0.5, 1, 1})
	}
	m := corematerial.Default()
	m.Name, m.Emissive, m.Alpha, m.AlphaCutoff = "Glow", [3]float64{4, 2, 0}, corematerial.Mask, 0.25
	m.BaseColorTexture = &corematerial.Texture{Image: 0, WrapS: corematerial.Clamp, WrapT: corematerial.Mirror}
	m.Normal, m.NormalScale, m.OcclusionStrength = &corematerial.Texture{Image: 0, WrapS: corematerial.Repeat, WrapT: corematerial.Repeat}, 0.5, 1
	return &model.Model{
		Unit: "m", Up: "y",
		Nodes: []model.Node{
			{Name: "Root", Parent: -1, Position: geom.Vec3{1, 2, 3}, Rotation: geom.AxisAngle(geom.Vec3{0, 1, 0}, 1), Size: geom.Vec3{1, 1, 1}, Mesh: -1},
			{Name: "A", Parent: 0, Rotation: geom.NoTurn, Size: geom.Vec3{2, 2, 2}, Mesh: 0},
			{Name: "B", Parent: 0, Position: geom.Vec3{5, 0, 0}, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}, Mesh: 0},
		},
		Meshes:    []model.Mesh{{Name: "Box", Primitives: []model.Primitive{{Mesh: box, Material: 0}}}},
		Materials: []corematerial.Material{m},
		Images:    []model.Image{{Name: "p.png", MIME: "image/png", Data: []byte("not looked at here")}},
	}
}

// reread writes a model and reads what was written.
func reread(t *testing.T, m *model.Model) *model.Model {
	t.Helper()
	data, err := Write(m)
	if err != nil {
		t.Fatal(err)
	}
	got, err := Read(data, nil, model.DefaultLimits)
	if err != nil {
		t.Fatal(err)
	}
	return got
}

func TestWhatIsWrittenIsReadBackTheSame(t *testing.T) {
	want := sample()
	got := reread(t, want)
	if !reflect.DeepEqual(got, want) {
		a, _ := json.Marshal(got)
		b, _ := json.Marshal(want)
		t.Errorf("got  %s\nwant %s", a, b)
	}
}

// triangle returns a .gltf of one triangle, its buffer embedded, changed by edit.
func triangle(edit func(doc map[string]any)) []byte {
	var b bytes.Buffer
	_ = binary.Write(&b, binary.LittleEndian, []float32{0, 0, 0, 1, 0, 0, 0, 1, 0})
	_ = binary.Write(&b, binary.LittleEndian, []uint16{0, 1, 2, 0})
	doc := map[string]any{
		"asset":  map[string]any{"version": "2.0"},
		"scenes": []any{map[string]any{"nodes": []int{0}}}, "scene": 0,
		"nodes":  []any{map[string]any{"mesh": 0, "name": "T"}},
		"meshes": []any{map[string]any{"primitives": []any{map[string]any{"attributes": map[string]int{"POSITION": 0}, "indices": 1}}}},
		"accessors": []any{
			map[string]any{"bufferView": 0, "componentType": 5126, "count": 3, "type": "VEC3"},
			map[string]any{"bufferView": 1, "componentType": 5123, "count": 3, "type": "SCALAR"},
		},
		"bufferViews": []any{map[string]any{"buffer": 0, "byteLength": 36}, map[string]any{"buffer": 0, "byteOffset": 36, "byteLength": 6}},
		"buffers":     []any{map[string]any{"byteLength": b.Len(), "uri": "data:application/octet-stream;base64," + base64.StdEncoding.EncodeToString(b.Bytes())}},
	}
	if edit != nil {
		edit(doc)
	}
	out, _ := json.Marshal(doc)
	return out
}

func at(doc map[string]any, path ...any) map[string]any {
	var v any = doc
	for _, p := range path {
		switch p := p.(type) {
		case string:
			v = v.(map[string]any)[p]
		case int:
			v = v.([]any)[p]
		}
	}
	return v.(map[string]any)
}

func TestBadInputIsSaidInASentence(t *testing.T) {
	glb, _ := Write(sample())
	for name, c := range map[string]struct {
		data []byte
		says string
	}{
		"not glTF":        {[]byte("hello"), "JSON"},
		"version 1":       {[]byte(`{"asset":{"version":"1.0"}}`), "version"},
		"truncated":       {glb[:len(glb)/2], "not copied whole"},
		"header alone":    {glb[:8], "header"},
		"index":           {triangle(func(d map[string]any) { at(d, "accessors", 0)["count"] = 2 }), "refers to vertex 2"},
		"accessor":        {triangle(func(d map[string]any) { at(d, "accessors", 0)["count"] = 100 }), "100 elements"},
		"absurd count":    {triangle(func(d map[string]any) { at(d, "accessors", 0)["count"] = 4_000_000_000 }), "--max-triangles"},
		"negative":        {triangle(func(d map[string]any) { at(d, "bufferViews", 0)["byteOffset"] = -4 }), "byte -4"},
		"buffer":          {triangle(func(d map[string]any) { at(d, "buffers", 0)["byteLength"] = 1 << 40 }), "promises"},
		"out of folder":   {triangle(func(d map[string]any) { at(d, "buffers", 0)["uri"] = "../../etc/passwd" }), "outside its own folder"},
		"escaped path":    {triangle(func(d map[string]any) { at(d, "buffers", 0)["uri"] = "..%2f..%2fsecret" }), "outside its own folder"},
		"absolute":        {triangle(func(d map[string]any) { at(d, "buffers", 0)["uri"] = "/etc/passwd" }), "outside its own folder"},
		"address":         {triangle(func(d map[string]any) { at(d, "buffers", 0)["uri"] = "http://example.com/a.bin" }), "outside its own folder"},
		"missing buffer":  {triangle(func(d map[string]any) { at(d, "buffers", 0)["uri"] = "a.bin" }), `"a.bin"`},
		"cycle":           {triangle(func(d map[string]any) { at(d, "nodes", 0)["children"] = []int{0} }), "twice"},
		"required":        {triangle(func(d map[string]any) { d["extensionsRequired"] = []string{"KHR_draco_mesh_compression"} }), "export it again"},
		"absent mesh":     {triangle(func(d map[string]any) { at(d, "nodes", 0)["mesh"] = 9 }), "mesh 9"},
		"absent material": {triangle(func(d map[string]any) { at(d, "meshes", 0, "primitives", 0)["material"] = 3 }), "material 3"},
		"component type":  {triangle(func(d map[string]any) { at(d, "accessors", 1)["componentType"] = 1 }), "component type"},
		"indices as floats": {triangle(func(d map[string]any) {
			at(d, "accessors", 1)["componentType"] = 5126
			at(d, "accessors", 1)["count"] = 1
		}), "cannot hold indices"},
	} {
		m, err := Read(c.data, nil, model.DefaultLimits)
		if err == nil || m != nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v, want something with %q", name, err, c.says)
		}
	}
}

func TestNotANumberIsRefused(t *testing.T) {
	m := sample()
	m.Meshes[0].Primitives[0].Positions[5][1] = float32(math.NaN())
	data, err := Write(m)
	if err == nil { // the bounds of the accessor cannot be written either
		_, err = Read(data, nil, model.DefaultLimits)
	}
	if err == nil {
		t.Error("a position that is not a number came through")
	}
}

// Strips and fans (3.7.2.1), sparse accessors (3.6.2.3), normalized integers (3.11) and a matrix in
// place of translation, rotation and scale, each against its value by hand.
func TestForms(t *testing.T) {
	for mode, want := range map[int][]uint32{
		modeTriangleStrip: {0, 1, 2, 1, 3, 2, 2, 3, 4}, modeTriangleFan: {1, 2, 0, 2, 3, 0, 3, 4, 0},
	} {
		if got := triangulate([]uint32{0, 1, 2, 3, 4}, mode); !reflect.DeepEqual(got, want) {
			t.Errorf("mode %d: %v, want %v", mode, got, want)
		}
	}
	sparse := triangle(func(d map[string]any) {
		var b bytes.Buffer
		_ = binary.Write(&b, binary.LittleEndian, []uint32{1})
		_ = binary.Write(&b, binary.LittleEndian, []float32{7, 8, 9})
		d["buffers"] = append(d["buffers"].([]any), map[string]any{"byteLength": b.Len(), "uri": "data:;base64," + base64.StdEncoding.EncodeToString(b.Bytes())})
		d["bufferViews"] = append(d["bufferViews"].([]any), map[string]any{"buffer": 1, "byteLength": 4}, map[string]any{"buffer": 1, "byteOffset": 4, "byteLength": 12})
		at(d, "accessors", 0)["sparse"] = map[string]any{
			"count": 1, "indices": map[string]any{"bufferView": 2, "componentType": 5125}, "values": map[string]any{"bufferView": 3},
		}
		at(d, "nodes", 0)["matrix"] = []float64{0, 0, -2, 0, 0, 2, 0, 0, 2, 0, 0, 0, 4, 5, 6, 1}
		d["animations"] = []any{map[string]any{"name": "Spin"}}
		d["cameras"] = []any{map[string]any{"type": "perspective"}}
	})
	m, err := Read(sparse, nil, model.DefaultLimits)
	if err != nil {
		t.Fatal(err)
	}
	if got := m.Meshes[0].Primitives[0].Positions[1]; got != [3]float32{7, 8, 9} {
		t.Errorf("the sparse value is %v", got)
	}
	// A quarter turn about +y and twice the size: x goes to -z.
	if p := m.Worlds()[0].Point(geom.Vec3{1, 0, 0}); p.Sub(geom.Vec3{4, 5, 4}).Len() > 1e-9 {
		t.Errorf("the matrix takes x to %v", p)
	}
	if got := fmt.Sprint(m.LeftOut); !strings.Contains(got, "animation Spin") || !strings.Contains(got, "camera 0") {
		t.Errorf("left out: %s", got)
	}
	a := &accessor{ComponentType: typeShort, Normalized: true}
	out := make([]float32, 2)
	decode(out, []byte{0x00, 0x80, 0xff, 0x7f}, a, 2)
	if out[0] != -1 || out[1] != 1 {
		t.Errorf("normalized shorts: %v, want -1 and 1", out)
	}
}

// Material extensions, texture transforms and instances, with their values by hand.
func TestExtensions(t *testing.T) {
	data := triangle(func(d map[string]any) {
		d["extensionsUsed"] = []string{"KHR_materials_unlit", "KHR_materials_ior", "EXT_odd"}
		d["images"] = []any{map[string]any{"uri": "a.png"}}
		d["textures"] = []any{map[string]any{"source": 0}}
		d["materials"] = []any{map[string]any{
			"pbrMetallicRoughness": map[string]any{"baseColorTexture": map[string]any{"index": 0, "extensions": map[string]any{
				"KHR_texture_transform": map[string]any{"offset": []float64{0.5, 0}, "rotation": math.Pi / 2, "scale": []float64{2, 1}}}}},
			"extensions": map[string]any{
				"KHR_materials_unlit": map[string]any{}, "KHR_materials_ior": map[string]any{"ior": 2.42},
				"KHR_materials_clearcoat":    map[string]any{"clearcoatFactor": 0.5, "clearcoatTexture": map[string]any{"index": 0}, "clearcoatNormalTexture": map[string]any{"index": 0, "scale": 0.5}},
				"KHR_materials_transmission": map[string]any{"transmissionFactor": 0.9}, "KHR_materials_sheen": map[string]any{"sheenColorFactor": []float64{1, 0, 0}},
				"KHR_materials_volume": map[string]any{"thicknessFactor": 0.01, "attenuationDistance": 0.1}, "KHR_materials_specular": map[string]any{"specularFactor": 0.25},
			}}}
		at(d, "meshes", 0, "primitives", 0)["material"] = 0
		at(d, "nodes", 0)["extensions"] = map[string]any{"EXT_mesh_gpu_instancing": map[string]any{"attributes": map[string]int{"TRANSLATION": 0}}}
	})
	m, err := Read(data, nil, model.DefaultLimits)
	if err != nil {
		t.Fatal(err)
	}
	g := m.Materials[0]
	if !g.Unlit || g.IOR != 2.42 || g.Clearcoat != 0.5 || g.Transmission != 0.9 || g.SheenColor[0] != 1 || g.Thickness != 0.01 || *g.Specular != 0.25 {
		t.Errorf("%+v", g)
	}
	// (1, 0) scaled to (2, 0), turned by a quarter: the picture's u takes v, and v takes -u; then moved.
	if u, v := g.BaseColorTexture.Transform.Apply(1, 0); math.Abs(float64(u)-0.5) > 1e-6 || math.Abs(float64(v)+2) > 1e-6 {
		t.Errorf("the texture is read at %g, %g", u, v)
	}
	if fmt.Sprint(m.LeftOut) != "[extension EXT_odd]" {
		t.Errorf("left out: %v", m.LeftOut)
	}
	if parts, _, _ := m.Count(); parts != 3 || m.Nodes[2].Position != (geom.Vec3{1, 0, 0}) || m.Nodes[2].Parent != 0 {
		t.Errorf("%d instances: %+v", parts, m.Nodes)
	}
}

// Variants of materials, and lights at their places (KHR_materials_variants, KHR_lights_punctual).
func TestVariantsAndLights(t *testing.T) {
	file := func(mapping []any, light any) []byte {
		return triangle(func(d map[string]any) {
			d["materials"] = []any{map[string]any{"name": "Oat"}, map[string]any{"name": "Rust"}}
			d["extensions"] = map[string]any{
				"KHR_materials_variants": map[string]any{"variants": []any{map[string]any{"name": "Pale"}, map[string]any{"name": "Dark"}}},
				"KHR_lights_punctual":    map[string]any{"lights": []any{map[string]any{"type": "spot", "intensity": 40, "spot": map[string]any{"outerConeAngle": 0.5}}}},
			}
			p := at(d, "meshes", 0, "primitives", 0)
			p["material"] = 0
			p["extensions"] = map[string]any{"KHR_materials_variants": map[string]any{"mappings": mapping}}
			at(d, "nodes", 0)["extensions"] = map[string]any{"KHR_lights_punctual": map[string]any{"light": light}}
		})
	}
	m, err := Read(file([]any{map[string]any{"material": 1, "variants": []int{1}}}, 0), nil, model.DefaultLimits)
	if err != nil {
		t.Fatal(err)
	}
	if p := m.Meshes[0].Primitives[0]; fmt.Sprint(m.Variants, p.Material, p.Dressed) != "[Pale Dark] 0 [-1 1]" {
		t.Error(m.Variants, p.Material, p.Dressed)
	}
	if l := m.Nodes[0].Light; l == nil || l.Kind != "spot" || l.Intensity != 40 || l.Outer != 0.5 || l.Color != [3]float64{1, 1, 1} {
		t.Errorf("%+v", l)
	}
	for want, data := range map[string][]byte{
		"material 7":     file([]any{map[string]any{"material": 7, "variants": []int{1}}}, 0),
		"variant 2":      file([]any{map[string]any{"material": 1, "variants": []int{2}}}, 0),
		"does not exist": file(nil, 3),
	} {
		if _, err := Read(data, nil, model.DefaultLimits); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v does not name %s", err, want)
		}
	}
}

// Documents refer to pictures by number: the numbers are the same after writing and reading, whatever
// order materials use them in, and a missing picture keeps its number and is a checker.
func TestPicturesKeepTheirNumbers(t *testing.T) {
	m := sample()
	m.Images = []model.Image{{Name: "gone.png"}, {Name: "glow.png", MIME: "image/png", Data: []byte("glow")}, {Name: "base.png", MIME: "image/png", Data: []byte("base")}}
	slot := func(i int) *corematerial.Texture {
		return &corematerial.Texture{Image: i, WrapS: corematerial.Repeat, WrapT: corematerial.Repeat}
	}
	m.Materials[0].EmissiveTexture, m.Materials[0].BaseColorTexture, m.Materials[0].Normal = slot(1), slot(2), slot(0)
	second := corematerial.Default()
	second.Name, second.BaseColorTexture = "Second", slot(0)
	m.Materials = append(m.Materials, second)
	got := reread(t, m)
	for i, want := range []string{"gone.png", "glow.png", "base.png"} {
		if got.Images[i].Name != want || i > 0 && string(got.Images[i].Data) != want[:4] {
			t.Errorf("picture %d is %q", i, got.Images[i].Name)
		}
	}
	if a, b := got.Materials[0], got.Materials[1]; a.BaseColorTexture.Image != 2 || a.EmissiveTexture.Image != 1 || a.Normal != nil || b.BaseColorTexture.Image != 0 {
		t.Errorf("%+v, %+v", a, b)
	}
	if len(got.Images[0].Data) < 50 {
		t.Error("nothing stands for the missing picture")
	}
}

// A material with a texture in every slot has them all again after writing and reading.
func TestEverySlotIsWrittenAndRead(t *testing.T) {
	m := sample()
	m.Images = []model.Image{{Name: "a.png", MIME: "image/png", Data: []byte("a")}}
	mat := &m.Materials[0]
	for _, name := range corematerial.Slots {
		mat.Fill(name, &corematerial.Texture{WrapS: corematerial.Clamp, WrapT: corematerial.Repeat})
	}
	mat.ClearcoatNormalScale = 0.25
	got := reread(t, m)
	for i, slot := range got.Materials[0].TextureSlots() {
		if *slot == nil || (*slot).WrapS != corematerial.Clamp {
			t.Errorf("the %s texture is %+v", corematerial.Slots[i], *slot)
		}
	}
	if s := got.Materials[0].ClearcoatNormalScale; s != 0.25 {
		t.Errorf("the scale of the clearcoat's normals is %g", s)
	}
}

func FuzzRead(f *testing.F) {
	glb, _ := Write(sample())
	f.Add(glb)
	f.Add(triangle(nil))
	f.Add(glb[:40])
	limits := model.Limits{Bytes: 1 << 20, Triangles: 10_000, TextureSide: 1024}
	f.Fuzz(func(t *testing.T, data []byte) {
		m, err := Read(data, nil, limits)
		if err != nil {
			return
		}
		for _, me := range m.Meshes {
			for _, p := range me.Primitives {
				if err := p.Check(); err != nil {
					t.Fatal(err)
				}
			}
		}
		if _, n, _ := m.Count(); n > 0 && m.Bounds().Empty() {
			t.Fatal("a model with triangles has no bounds")
		}
	})
}

// A material with everything that the renderer knows comes back from a file as it was.
func TestMaterialsComeBack(t *testing.T) {
	half, tint := 0.5, [3]float64{0.9, 0.8, 0.7}
	want := corematerial.Material{
		Name: "All", BaseColor: [4]float64{0.1, 0.2, 0.3, 1}, Metallic: 0.4, Roughness: 0.6, NormalScale: 1, OcclusionStrength: 1, Alpha: corematerial.Opaque, AlphaCutoff: 0.5, Emissive: [3]float64{4, 2, 1},
		IOR: 1.33, Specular: &half, SpecularColor: &tint, Transmission: 0.8, Thickness: 0.02, AttenuationDistance: 0.3, AttenuationColor: &tint,
		Clearcoat: 0.7, ClearcoatRoughness: 0.1, SheenColor: &tint, SheenRoughness: 0.4,
	}
	m, err := Read(triangle(func(map[string]any) {}), nil, model.DefaultLimits)
	if err != nil {
		t.Fatal(err)
	}
	m.Materials = []corematerial.Material{want, {Name: "Flat", BaseColor: [4]float64{1, 1, 1, 1}, Alpha: corematerial.Opaque, Unlit: true}}
	again := reread(t, m)
	if got := again.Materials[0]; !reflect.DeepEqual(got, want) || !again.Materials[1].Unlit {
		t.Errorf("%+v\nis not %+v", got, want)
	}
}
