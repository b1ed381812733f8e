package material

import (
	"fmt"
	"math"
)

// bound is what a number of a material can be. The bounds are those of glTF 2.0 and of the extensions, but that
// emission may be strong (KHR_materials_emissive_strength) and that base colours brighter than white are let pass.
type bound struct {
	name        string
	least, most float64
	values      []*float64
}

func (m *Material) bounds() []bound {
	list := []bound{
		{"metal", 0, 1, []*float64{&m.Metallic}},
		{"roughness", 0, 1, []*float64{&m.Roughness}},
		{"opacity", 0, 1, []*float64{&m.BaseColor[3]}},
		{"alpha cutoff", 0, 1, []*float64{&m.AlphaCutoff}},
		{"occlusion's strength", 0, 1, []*float64{&m.OcclusionStrength}},
		{"transmission", 0, 1, []*float64{&m.Transmission}},
		{"clearcoat", 0, 1, []*float64{&m.Clearcoat}},
		{"clearcoat's roughness", 0, 1, []*float64{&m.ClearcoatRoughness}},
		{"sheen's roughness", 0, 1, []*float64{&m.SheenRoughness}},
		{"base colour", 0, 100, []*float64{&m.BaseColor[0], &m.BaseColor[1], &m.BaseColor[2]}},
		{"emission", 0, 1e9, []*float64{&m.Emissive[0], &m.Emissive[1], &m.Emissive[2]}},
		{"thickness", 0, 1e9, []*float64{&m.Thickness}},
		{"distance of attenuation", 0, 1e9, []*float64{&m.AttenuationDistance}},
		{"normal's scale", -1e4, 1e4, []*float64{&m.NormalScale}},
		{"clearcoat normal's scale", -1e4, 1e4, []*float64{&m.ClearcoatNormalScale}},
	}
	if m.IOR != 0 { // 0 stands for 1.5
		list = append(list, bound{"index of refraction", 1, 100, []*float64{&m.IOR}})
	}
	if m.Specular != nil {
		list = append(list, bound{"specular", 0, 1, []*float64{m.Specular}})
	}
	color := func(name string, c *[3]float64, most float64) {
		if c != nil {
			list = append(list, bound{name, 0, most, []*float64{&c[0], &c[1], &c[2]}})
		}
	}
	color("specular colour", m.SpecularColor, 1e4)
	color("colour of attenuation", m.AttenuationColor, 1)
	color("sheen colour", m.SheenColor, 1)
	for _, slot := range m.TextureSlots() {
		if *slot != nil && (*slot).Transform != nil {
			p := (*slot).Transform
			list = append(list, bound{"texture's place", -1e6, 1e6, []*float64{&p.Offset[0], &p.Offset[1], &p.Rotation, &p.Scale[0], &p.Scale[1]}})
		}
	}
	return list
}

// Validate returns an error in a sentence for what no surface has.
func (m *Material) Validate() error {
	for _, b := range m.bounds() {
		for _, v := range b.values {
			if !(*v >= b.least && *v <= b.most) {
				return fmt.Errorf("the %s of the material %q is %g to %g, not %g", b.name, m.Name, b.least, b.most, *v)
			}
		}
	}
	if m.Alpha != "" && m.Alpha != Opaque && m.Alpha != Mask && m.Alpha != Blend {
		return fmt.Errorf("the alpha mode of the material %q is OPAQUE, MASK or BLEND, not %q", m.Name, m.Alpha)
	}
	for _, slot := range m.TextureSlots() {
		if t := *slot; t != nil {
			for _, w := range []Wrap{t.WrapS, t.WrapT} {
				if w != "" && w != Repeat && w != Mirror && w != Clamp {
					return fmt.Errorf("beyond its edges a texture of the material %q repeats, mirrors or is clamped, not %q", m.Name, w)
				}
			}
			if t.Image < 0 {
				return fmt.Errorf("a texture of the material %q is none of the pictures of its file", m.Name)
			}
		}
	}
	return nil
}

// Limit brings every number within its bounds: files have others. What is no number becomes the least.
func (m *Material) Limit() {
	for _, b := range m.bounds() {
		for _, v := range b.values {
			if *v = math.Min(b.most, math.Max(b.least, *v)); math.IsNaN(*v) {
				*v = b.least
			}
		}
	}
}
