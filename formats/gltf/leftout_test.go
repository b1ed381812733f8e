package gltf

import (
	"encoding/binary"
	"strings"
	"testing"

	corematerial "perigyre/core/material"
	"perigyre/core/model"
)

// All that a file has and that is not taken is named, with how often; and what stands where it cannot is said in words of
// the file.
func TestWhatIsLeftOutIsNamed(t *testing.T) {
	data, err := Write(sample())
	if err != nil {
		t.Fatal(err)
	}
	json, bin, err := split(data)
	if err != nil {
		t.Fatal(err)
	}
	text := string(json)
	for _, r := range [][2]string{
		{`"materials":[{`, `"materials":[{"extensions":{"KHR_materials_iridescence":{},"KHR_materials_volume":{"thicknessFactor":1,"thicknessTexture":{"index":0}}},`},
		{`"nodes":[{`, `"nodes":[{"extensions":{"VENDOR_tag":{}},`},
		{`"attributes":{`, `"attributes":{"TEXCOORD_1":0,"_WEAR":0,`},
		{`"scene":0`, `"extensionsUsed":["KHR_materials_iridescence","VENDOR_tag","VENDOR_else"],"cameras":[{"name":"Eye"}],"animations":[{"name":"Sway","channels":[{"sampler":0,"target":{"node":0,"path":"weights"}},{"sampler":0,"target":{"path":"pointer","extensions":{"KHR_animation_pointer":{}}}}],"samplers":[]}],"scene":0`},
	} {
		if !strings.Contains(text, r[0]) {
			t.Fatalf("there is no %s in %s", r[0], text)
		}
		text = strings.Replace(text, r[0], r[1], 1)
	}
	text = strings.Replace(text, `"extensions":{"KHR_materials_emissive_strength":{"emissiveStrength":4}},`, "", 1) // given twice now
	text = strings.Replace(text, `"bufferViews"`, `"buffersWere":0,"bufferViews"`, 1)
	m, err := Read(glbWith(text, bin), nil, model.DefaultLimits)
	if err != nil {
		t.Fatal(err)
	}
	all := strings.Join(m.LeftOut, "\n")
	for _, want := range []string{"extension VENDOR_tag", "extension VENDOR_else", "extension KHR_animation_pointer", "vertex data TEXCOORD_1", "vertex data _WEAR", "camera Eye",
		"channel of the animation Sway that moves weights", "channel of the animation Sway that moves pointer", "animation Sway"} {
		if !strings.Contains(all, want) {
			t.Errorf("%q is not named in\n%s", want, all)
		}
	}
	for bad, says := range map[string]string{`"name":"Root"`: "at nodes.name it has the number where a text belongs", `"nodes":[`: "byte"} {
		with := strings.Replace(text, bad, map[string]string{`"name":"Root"`: `"name":7`, `"nodes":[`: `"nodes":[}`}[bad], 1)
		if _, err := Read([]byte(with), nil, model.DefaultLimits); err == nil || !strings.Contains(err.Error(), says) || strings.Contains(err.Error(), "Go ") {
			t.Errorf("%v, want something with %q", err, says)
		}
	}
}

// A part whose material has a texture has coordinates in the file, as the standard asks, where the mesh has none.
func TestTexturedPartsHaveCoordinates(t *testing.T) {
	m := sample()
	m.Meshes[0].Primitives[0].UV = nil
	if got := reread(t, m).Meshes[0].Primitives[0]; len(got.UV) != len(got.Positions) {
		t.Errorf("%d coordinates of %d corners", len(got.UV), len(got.Positions))
	}
	m.Materials = []corematerial.Material{corematerial.Default()}
	if got := reread(t, m).Meshes[0].Primitives[0]; got.UV != nil {
		t.Errorf("a plain part has %d coordinates", len(got.UV))
	}
}

// glbWith returns a binary file of a JSON text and a chunk.
func glbWith(text string, bin []byte) []byte {
	for len(text)%4 != 0 {
		text += " "
	}
	out := binary.LittleEndian.AppendUint32(nil, glbMagic)
	out = binary.LittleEndian.AppendUint32(out, 2)
	out = binary.LittleEndian.AppendUint32(out, uint32(12+8+len(text)+8+len(bin)))
	out = binary.LittleEndian.AppendUint32(out, uint32(len(text)))
	out = append(binary.LittleEndian.AppendUint32(out, chunkJSON), text...)
	out = binary.LittleEndian.AppendUint32(out, uint32(len(bin)))
	return append(binary.LittleEndian.AppendUint32(out, chunkBIN), bin...)
}
