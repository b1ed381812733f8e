// Package material describes surfaces in the terms of the glTF 2.0 metallic-roughness model
// (specification, 3.9 "Materials" and Appendix B).
package material

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
}

// Default is the material of surfaces that name none (glTF 2.0, 3.9.6), less metallic than the
// specification's own default, since files without materials are seldom meant to be chrome.
func Default() Material {
	return Material{Name: "Plain", BaseColor: [4]float64{0.8, 0.8, 0.8, 1}, Roughness: 0.5, Alpha: Opaque, DoubleSided: true}
}

// TextureSlots returns pointers to every texture slot, in a fixed order.
func (m *Material) TextureSlots() []**Texture {
	return []**Texture{&m.BaseColorTexture, &m.MetallicRoughness, &m.Normal, &m.Occlusion, &m.EmissiveTexture}
}
