package render

import "perigyre/core/render/bvh"

// layerTextures are those of the extensions of Khronos that a material may have.
type layerTextures struct {
	specular, specularColor     *texture // KHR_materials_specular: alpha, sRGB
	transmission                *texture // KHR_materials_transmission: red
	coat, coatRough, coatNormal *texture // KHR_materials_clearcoat: red, green, a normal texture
	sheenColor, sheenRough      *texture // KHR_materials_sheen: sRGB, alpha
}

// times returns a number times a channel of a texture at the point, or the number where there is no texture.
func (p *point) times(v float32, t *texture, channel int) float32 {
	if t == nil {
		return v
	}
	return v * t.read(p.uv, p.wide, false)[channel]
}

// tinted is times for a colour.
func (p *point) tinted(v bvh.Vec, t *texture) bvh.Vec {
	if t == nil {
		return v
	}
	c := t.read(p.uv, p.wide, true)
	return mul(v, bvh.Vec{X: c[0], Y: c[1], Z: c[2]})
}

// reflects returns the reflectance of what is not metal, straight on and at a grazing angle.
func (k *skin) reflects(tint [3]float64, strength float64) (straight bvh.Vec, grazing float32) {
	f0, f90 := k.Dielectric(tint, strength)
	return rgb(f0), float32(f90)
}

// dielectric is reflects at the point.
func (p *point) dielectric() (straight bvh.Vec, grazing float32) {
	k := p.piece.material
	l := k.layers
	if p.cap || l == nil || l.specular == nil && l.specularColor == nil {
		return k.dielectric, k.grazing
	}
	c := p.tinted(bvh.Vec{X: 1, Y: 1, Z: 1}, l.specularColor)
	return k.reflects([3]float64{float64(c.X), float64(c.Y), float64(c.Z)}, float64(p.times(1, l.specular, 3)))
}

// layered gives a surface its coat, sheen and glass.
func (p *point) layered(s *surface) {
	k := p.piece.material
	l := k.layers
	if l == nil {
		l = &noLayers
	}
	if k.Clearcoat > 0 {
		s.coat = coat{strength: p.times(float32(k.Clearcoat), l.coat, 0), alpha: widthOf(p.times(float32(k.ClearcoatRoughness), l.coatRough, 1))}
	}
	if k.SheenColor != nil {
		s.sheen = sheen{color: p.tinted(rgb(*k.SheenColor), l.sheenColor), alpha: widthOfSheen(p.times(float32(k.SheenRoughness), l.sheenRough, 3))}
	}
	if k.Transmission > 0 {
		s.glass = p.glass(s.metallic)
	}
}

var noLayers layerTextures
