package gltf

import (
	"encoding/json"
	"fmt"
	"math"

	"perigyre/core/fault"
	"perigyre/core/geom"
	corematerial "perigyre/core/material"
	"perigyre/core/model"
)

// compressed are extensions that pack meshes, with what to do about them.
var compressed = map[string]string{
	"KHR_draco_mesh_compression": "its meshes are packed with Draco, which is not read; export it again with mesh compression turned off",
	"EXT_meshopt_compression":    "its meshes are packed with meshopt, which is not read; export it again with mesh compression turned off",
	"KHR_meshopt_compression":    "its meshes are packed with meshopt, which is not read; export it again with mesh compression turned off",
	"KHR_texture_basisu":         "its textures are packed as Basis Universal, which is not read; export it again with PNG or JPEG textures",
}

// extend reads the ratified material extensions of Khronos that a material carries, with slot for their textures.
func (r *reader) extend(g *material, m *corematerial.Material, slot func(*textureInfo) (*corematerial.Texture, error)) error {
	get := func(name string, into any) bool {
		raw, ok := g.Extensions[name]
		return ok && json.Unmarshal(raw, into) == nil
	}
	var failed error
	read := func(info *textureInfo) *corematerial.Texture {
		t, err := slot(info)
		if err != nil && failed == nil {
			failed = err
		}
		return t
	}
	if get("KHR_materials_unlit", &struct{}{}) {
		m.Unlit = true
	}
	coat := struct {
		Factor           float64      `json:"clearcoatFactor"`
		Roughness        float64      `json:"clearcoatRoughnessFactor"`
		Texture          *textureInfo `json:"clearcoatTexture"`
		RoughnessTexture *textureInfo `json:"clearcoatRoughnessTexture"`
		NormalTexture    *textureInfo `json:"clearcoatNormalTexture"`
	}{}
	if get("KHR_materials_clearcoat", &coat) {
		m.Clearcoat, m.ClearcoatRoughness = share(coat.Factor), share(coat.Roughness)
		m.ClearcoatTexture, m.ClearcoatRoughnessTexture, m.ClearcoatNormal = read(coat.Texture), read(coat.RoughnessTexture), read(coat.NormalTexture)
		if n := coat.NormalTexture; n != nil {
			if m.ClearcoatNormalScale = 1; n.Scale != nil {
				m.ClearcoatNormalScale = *n.Scale
			}
		}
	}
	glass := struct {
		Factor  float64      `json:"transmissionFactor"`
		Texture *textureInfo `json:"transmissionTexture"`
	}{}
	if get("KHR_materials_transmission", &glass) {
		m.Transmission, m.TransmissionTexture = share(glass.Factor), read(glass.Texture)
	}
	volume := struct { // its texture is for those who do not follow the light through the mesh
		Thickness float64    `json:"thicknessFactor"`
		Distance  float64    `json:"attenuationDistance"`
		Color     [3]float64 `json:"attenuationColor"`

		Texture *textureInfo `json:"thicknessTexture"`
	}{Color: [3]float64{1, 1, 1}}
	if get("KHR_materials_volume", &volume) {
		if volume.Texture != nil {
			r.left.Add("thickness texture (glass is as thick as its mesh)")
		}
		m.Thickness, m.AttenuationDistance, m.AttenuationColor = volume.Thickness, volume.Distance, &volume.Color
	}
	ior := struct {
		IOR float64 `json:"ior"`
	}{1.5}
	if get("KHR_materials_ior", &ior) && ior.IOR >= 1 && ior.IOR < 10 {
		m.IOR = ior.IOR
	}
	sheen := struct {
		Color            [3]float64   `json:"sheenColorFactor"`
		Roughness        float64      `json:"sheenRoughnessFactor"`
		Texture          *textureInfo `json:"sheenColorTexture"`
		RoughnessTexture *textureInfo `json:"sheenRoughnessTexture"`
	}{}
	if get("KHR_materials_sheen", &sheen) {
		m.SheenColor, m.SheenRoughness = &sheen.Color, share(sheen.Roughness)
		m.SheenColorTexture, m.SheenRoughnessTexture = read(sheen.Texture), read(sheen.RoughnessTexture)
	}
	specular := struct {
		Factor       float64      `json:"specularFactor"`
		Color        [3]float64   `json:"specularColorFactor"`
		Texture      *textureInfo `json:"specularTexture"`
		ColorTexture *textureInfo `json:"specularColorTexture"`
	}{1, [3]float64{1, 1, 1}, nil, nil}
	if get("KHR_materials_specular", &specular) {
		f := share(specular.Factor)
		m.Specular, m.SpecularColor = &f, &specular.Color
		m.SpecularTexture, m.SpecularColorTexture = read(specular.Texture), read(specular.ColorTexture)
	}
	return failed
}

func share(v float64) float64 { return math.Max(0, math.Min(1, v)) }

// place reads a texture's own transform (KHR_texture_transform).
func (info *textureInfo) place(t *corematerial.Texture) error {
	raw, ok := info.Extensions["KHR_texture_transform"]
	if !ok || t == nil {
		return nil
	}
	x := struct {
		Offset   [2]float64 `json:"offset"`
		Rotation float64    `json:"rotation"`
		Scale    [2]float64 `json:"scale"`
	}{Scale: [2]float64{1, 1}}
	if err := json.Unmarshal(raw, &x); err != nil {
		return fmt.Errorf("a texture transform cannot be read: %w", fault.JSON(err))
	}
	t.Transform = &corematerial.Placing{Offset: x.Offset, Rotation: x.Rotation, Scale: x.Scale}
	return nil
}

// maxInstances of one node.
const maxInstances = 100_000

// instances adds the copies of a node that EXT_mesh_gpu_instancing asks for, below the node.
func (r *reader) instances(raw json.RawMessage, at int) error {
	var x struct {
		Attributes map[string]int `json:"attributes"`
	}
	if err := json.Unmarshal(raw, &x); err != nil {
		return fmt.Errorf("its instances cannot be read: %w", fault.JSON(err))
	}
	count := -1
	read := func(name string, width int, kind string) ([]float32, error) {
		a, ok := x.Attributes[name]
		if !ok {
			return nil, nil
		}
		f, err := r.floats(a, width, 0, kind)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
		if count >= 0 && len(f)/width != count {
			return nil, fmt.Errorf("its instances have %d and %d values", count, len(f)/width)
		}
		count = len(f) / width
		return f, nil
	}
	move, err := read("TRANSLATION", 3, "VEC3")
	if err != nil {
		return err
	}
	turn, err := read("ROTATION", 4, "VEC4")
	if err != nil {
		return err
	}
	size, err := read("SCALE", 3, "VEC3")
	if err != nil {
		return err
	}
	if count > maxInstances {
		return fmt.Errorf("%d instances are more than %d", count, maxInstances)
	}
	n := &r.out.Nodes[at]
	mesh, name := n.Mesh, n.Name
	if mesh < 0 || count < 0 {
		return nil
	}
	n.Mesh = -1
	for k := range count {
		c := model.Node{Name: fmt.Sprintf("%s %d", name, k+1), Parent: at, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}, Mesh: mesh}
		for a := range 3 {
			if move != nil {
				c.Position[a] = float64(move[3*k+a])
			}
			if size != nil {
				c.Size[a] = float64(size[3*k+a])
				if c.Size[a] == 0 {
					c.Size[a] = 1e-6
				}
			}
		}
		if turn != nil {
			c.Rotation = geom.Quat{float64(turn[4*k]), float64(turn[4*k+1]), float64(turn[4*k+2]), float64(turn[4*k+3])}.Unit()
		}
		if !c.Position.Finite() || !c.Size.Finite() {
			return fmt.Errorf("instance %d is not at a number", k)
		}
		r.out.Nodes = append(r.out.Nodes, c)
	}
	return r.limits.CheckParts(len(r.out.Nodes), 0)
}
