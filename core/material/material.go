// Package material describes surfaces in the terms of the glTF 2.0 metallic-roughness model
// (specification, 3.9 "Materials" and Appendix B).
package material

import "math"

// AlphaMode says what the alpha of the base colour means (glTF 2.0, 3.9.4 "Alpha Coverage").
type AlphaMode string

const (
	Opaque AlphaMode = "OPAQUE"
	Mask   AlphaMode = "MASK"
	Blend  AlphaMode = "BLEND"
)

// Wrap says how a picture goes on beyond its edges.
type Wrap string

const (
	Repeat Wrap = "repeat"
	Mirror Wrap = "mirror"
	Clamp  Wrap = "clamp"
)

// Texture refers to a picture of an asset.
type Texture struct {
	Asset string `json:"asset,omitempty"` // content hash of the asset; empty inside a model being read
	Image int    `json:"image"`           // index of the picture in the asset
	WrapS Wrap   `json:"wrapS,omitempty"` // repeat if empty
	WrapT Wrap   `json:"wrapT,omitempty"`

	Transform *Placing `json:"transform,omitempty"`
	Missing   string   `json:"missing,omitempty"` // name of the file that did not come along; a checker or nothing stands for it
}

// Placing moves texture coordinates before a picture is read: scaled, then turned, then moved
// (KHR_texture_transform).
type Placing struct {
	Offset   [2]float64 `json:"offset"`
	Rotation float64    `json:"rotation"` // radians, counter-clockwise in the picture
	Scale    [2]float64 `json:"scale"`
}

// Apply returns the coordinates that the picture is read at.
func (p *Placing) Apply(u, v float32) (float32, float32) {
	sin, cos := math.Sincos(p.Rotation)
	x, y := float64(u)*p.Scale[0], float64(v)*p.Scale[1]
	return float32(cos*x + sin*y + p.Offset[0]), float32(cos*y - sin*x + p.Offset[1])
}

// Material is one surface. Colours are scene-linear with Rec. 709 primaries.
type Material struct {
	ID   string `json:"id"`
	Name string `json:"name"`

	BaseColor         [4]float64 `json:"baseColor"` // linear RGB and alpha
	BaseColorTexture  *Texture   `json:"baseColorTexture,omitempty"`
	Metallic          float64    `json:"metallic"`
	Roughness         float64    `json:"roughness"`
	MetallicRoughness *Texture   `json:"metallicRoughnessTexture,omitempty"` // G roughness, B metallic
	Normal            *Texture   `json:"normalTexture,omitempty"`
	NormalScale       float64    `json:"normalScale,omitempty"` // used with a normal texture
	Occlusion         *Texture   `json:"occlusionTexture,omitempty"`
	OcclusionStrength float64    `json:"occlusionStrength,omitempty"`
	Emissive          [3]float64 `json:"emissive"`
	EmissiveTexture   *Texture   `json:"emissiveTexture,omitempty"`
	Alpha             AlphaMode  `json:"alphaMode"`
	AlphaCutoff       float64    `json:"alphaCutoff,omitempty"` // for MASK
	DoubleSided       bool       `json:"doubleSided"`
	// OneSided says that its surfaces are seen through from behind. It is a choice of the shot's, not of a file's: files call
	// surfaces single-sided that were meant as thin sheets just as those of closed bodies, and one that is not there from
	// behind lets light in.
	OneSided bool `json:"oneSided,omitempty"`

	// Of the ratified extensions of Khronos.
	Unlit               bool        `json:"unlit,omitempty"`
	IOR                 float64     `json:"ior,omitempty"` // 0 for 1.5
	Specular            *float64    `json:"specular,omitempty"`
	SpecularColor       *[3]float64 `json:"specularColor,omitempty"`
	Transmission        float64     `json:"transmission,omitempty"`
	Thickness           float64     `json:"thickness,omitempty"`           // above 0 the mesh is a solid body of glass, 0 a thin wall
	AttenuationDistance float64     `json:"attenuationDistance,omitempty"` // 0 for none
	AttenuationColor    *[3]float64 `json:"attenuationColor,omitempty"`
	Clearcoat           float64     `json:"clearcoat,omitempty"`
	ClearcoatRoughness  float64     `json:"clearcoatRoughness,omitempty"`
	SheenColor          *[3]float64 `json:"sheenColor,omitempty"`
	SheenRoughness      float64     `json:"sheenRoughness,omitempty"`

	// Their textures, by which the numbers above are multiplied. Glass is as thick as its mesh: there is none for that.
	SpecularTexture           *Texture `json:"specularTexture,omitempty"`           // A
	SpecularColorTexture      *Texture `json:"specularColorTexture,omitempty"`      // sRGB
	TransmissionTexture       *Texture `json:"transmissionTexture,omitempty"`       // R
	ClearcoatTexture          *Texture `json:"clearcoatTexture,omitempty"`          // R
	ClearcoatRoughnessTexture *Texture `json:"clearcoatRoughnessTexture,omitempty"` // G
	ClearcoatNormal           *Texture `json:"clearcoatNormalTexture,omitempty"`
	ClearcoatNormalScale      float64  `json:"clearcoatNormalScale,omitempty"`  // used with its texture
	SheenColorTexture         *Texture `json:"sheenColorTexture,omitempty"`     // sRGB
	SheenRoughnessTexture     *Texture `json:"sheenRoughnessTexture,omitempty"` // A
}

// Untextured is the tint that Dielectric takes where no texture has a say.
var Untextured = [3]float64{1, 1, 1}

// Dielectric returns the reflectance of the surface looked at straight on and at a grazing angle, by its index of
// refraction and KHR_materials_specular. Tint and strength are what the extension's textures say at the place.
func (m *Material) Dielectric(tint [3]float64, strength float64) (straight [3]float64, grazing float64) {
	n := m.IOR
	if n == 0 {
		n = 1.5
	}
	f := (n - 1) / (n + 1)
	f *= f
	if m.SpecularColor != nil {
		for k, v := range m.SpecularColor {
			tint[k] *= v
		}
	}
	if m.Specular != nil {
		strength *= *m.Specular
	}
	for k := range straight {
		straight[k] = math.Min(1, f*tint[k]) * strength
	}
	return straight, strength
}

// Default is the material of surfaces that name none (glTF 2.0, 3.9.6), less metallic than the
// specification's own default, since files without materials are seldom meant to be chrome.
func Default() Material {
	return Material{Name: "Plain", BaseColor: [4]float64{0.8, 0.8, 0.8, 1}, Roughness: 0.5, Alpha: Opaque, DoubleSided: true}
}

// Slot names a place for a texture, or what a picture says that goes into one of them.
type Slot string

const (
	BaseColor  Slot = "base colour"
	MetalRough Slot = "roughness and metal" // green and blue of one picture
	Roughness  Slot = "roughness"           // the green of it alone
	Metal      Slot = "metal"               // the blue of it alone
	Normal     Slot = "normal"
	Occlusion  Slot = "occlusion"
	Emission   Slot = "emission"

	SpecularStrength Slot = "specular"
	SpecularColor    Slot = "specular colour"
	Transmission     Slot = "transmission"
	Coat             Slot = "clearcoat"
	CoatRoughness    Slot = "clearcoat roughness"
	CoatNormal       Slot = "clearcoat normal"
	SheenColor       Slot = "sheen colour"
	SheenRoughness   Slot = "sheen roughness"
)

// Slots lists the slots in the order of TextureSlots.
var Slots = []Slot{
	BaseColor, MetalRough, Normal, Occlusion, Emission,
	SpecularStrength, SpecularColor, Transmission, Coat, CoatRoughness, CoatNormal, SheenColor, SheenRoughness,
}

// TextureSlots returns pointers to every texture slot, in a fixed order.
func (m *Material) TextureSlots() []**Texture {
	return []**Texture{
		&m.BaseColorTexture, &m.MetallicRoughness, &m.Normal, &m.Occlusion, &m.EmissiveTexture,
		&m.SpecularTexture, &m.SpecularColorTexture, &m.TransmissionTexture,
		&m.ClearcoatTexture, &m.ClearcoatRoughnessTexture, &m.ClearcoatNormal, &m.SheenColorTexture, &m.SheenRoughnessTexture,
	}
}

// Textured reports whether it has a texture.
func (m *Material) Textured() bool {
	for _, slot := range m.TextureSlots() {
		if *slot != nil {
			return true
		}
	}
	return false
}

// Slot returns the place of a texture, or nil for a name that is none. Roughness and metal share one.
func (m *Material) Slot(name Slot) **Texture {
	if name == Roughness || name == Metal {
		name = MetalRough
	}
	for i, s := range Slots {
		if s == name {
			return m.TextureSlots()[i]
		}
	}
	return nil
}

// Fill puts a texture into a slot and lets it be seen: factors that would hide it become 1.
func (m *Material) Fill(name Slot, t *Texture) {
	*m.Slot(name) = t
	if t == nil {
		return
	}
	show := func(factor *float64) {
		if *factor == 0 {
			*factor = 1
		}
	}
	switch name {
	case BaseColor:
		m.BaseColor = [4]float64{1, 1, 1, m.BaseColor[3]}
	case MetalRough:
		m.Metallic, m.Roughness = 1, 1
	case Roughness:
		m.Roughness = 1
	case Metal:
		m.Metallic = 1
	case Normal:
		show(&m.NormalScale)
	case Occlusion:
		show(&m.OcclusionStrength)
	case Emission:
		if m.Emissive == [3]float64{} {
			m.Emissive = [3]float64{1, 1, 1}
		}
	case Transmission:
		m.Transmission = 1
	case Coat:
		m.Clearcoat = 1
	case CoatRoughness:
		m.ClearcoatRoughness = 1
	case CoatNormal:
		show(&m.ClearcoatNormalScale)
	case SheenColor:
		if m.SheenColor == nil {
			m.SheenColor = &[3]float64{1, 1, 1}
		}
	case SheenRoughness:
		m.SheenRoughness = 1
	}
}
