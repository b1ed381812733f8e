package render

import (
	"math"
	"sync"

	"perigyre/core/render/bvh"
)

// surface is what a material is at one point: the parameters of glTF 2.0, Appendix B, and of the extensions of
// Khronos that products need, as numbers.
type surface struct {
	base       bvh.Vec // base colour
	metallic   float32
	dielectric bvh.Vec // reflectance straight on of what is not metal
	grazing    float32 // and at a grazing angle
	alpha      float32 // GGX width, roughness squared
	emission   bvh.Vec
	frame      frame // shading frame, its z on the viewer's side

	coat  coat
	sheen sheen
	glass glass

	// derived by prepare
	f0       bvh.Vec
	f90      float32
	diffuse  bvh.Vec // colour of the diffuse lobe
	multiple bvh.Vec // what light that bounces more than once adds to the specular lobe
	under    float32 // share of the light that the layers above leave
	chance   [lobes]float32
}

const pi = math.Pi

// The lobes that directions are drawn from.
const (
	diffuseLobe = iota
	specularLobe
	glassLobe
	coatLobe
	sheenLobe
	lobes
)

// prepare works out what depends on the view direction: the metal-rough mix of Appendix B.2, with
// the specular lobe made up for multiple scattering (Turquin, "Practical multiple scattering
// compensation for microfacet models", 2019) and the diffuse lobe scaled to the energy that the
// dielectric's specular lobe leaves, so that a white surface reflects all light at any roughness. Coat and sheen
// lie over it and leave it what they do not send back themselves.
func (s *surface) prepare(cos float32) {
	if s.matt() {
		s.diffuse, s.under, s.chance = s.base, 1, [lobes]float32{diffuseLobe: 1}
		return
	}
	a, b := albedo(cos, s.alpha)
	single := a + b
	compensate := func(f0 float32) float32 { return 1 + f0*(1-single)/single }
	total := func(f0, f90 float32) float32 { return (f0*a + f90*b) * compensate(f0) }
	s.f90 = s.grazing + (1-s.grazing)*s.metallic
	mix := func(base, dielectric, glossy float32) (f0, diffuse, multiple float32) {
		if s.metallic == 0 {
			return dielectric, base * (1 - glossy), compensate(dielectric)
		}
		f0 = dielectric + (base-dielectric)*s.metallic
		both := (1-s.metallic)*glossy + s.metallic*total(base, 1)
		return f0, base * (1 - s.metallic) * (1 - glossy), both / (f0*a + s.f90*b)
	}
	glossy := bvh.Vec{X: total(s.dielectric.X, s.grazing)}
	if glossy.Y, glossy.Z = glossy.X, glossy.X; s.dielectric.Y != s.dielectric.X || s.dielectric.Z != s.dielectric.X {
		glossy.Y, glossy.Z = total(s.dielectric.Y, s.grazing), total(s.dielectric.Z, s.grazing)
	}
	s.f0.X, s.diffuse.X, s.multiple.X = mix(s.base.X, s.dielectric.X, glossy.X)
	s.f0.Y, s.diffuse.Y, s.multiple.Y = mix(s.base.Y, s.dielectric.Y, glossy.Y)
	s.f0.Z, s.diffuse.Z, s.multiple.Z = mix(s.base.Z, s.dielectric.Z, glossy.Z)
	coated := s.coat.prepare(cos)
	sheer := s.sheen.prepare(cos)
	s.under = (1 - coated) * (1 - sheer)
	clear := float32(0)
	if s.glass.share > 0 {
		s.glass.prepare(cos, s.alpha, s.dielectric, s.grazing)
		if clear = s.glass.share; s.glass.walled { // what passes straight was decided before
			clear *= s.glass.reflected()
		}
	}
	solid := 1 - s.glass.share
	specular := luminance(mul(s.f0.Mul(a).Add(bvh.Vec{X: b, Y: b, Z: b}.Mul(s.f90)), s.multiple))
	s.chance = [lobes]float32{
		diffuseLobe:  s.under * solid * luminance(s.diffuse),
		specularLobe: s.under * solid * specular,
		glassLobe:    s.under * clear,
		coatLobe:     coated,
		sheenLobe:    (1 - coated) * sheer,
	}
	sum := float32(0)
	for i, c := range s.chance {
		if c > 0 {
			s.chance[i] = max(0.05, c) // none is left to chance alone
		}
		sum += s.chance[i]
	}
	if sum == 0 {
		s.chance[specularLobe], sum = 1, 1
	}
	for i := range s.chance {
		s.chance[i] /= sum
	}
}

// matt reports whether it scatters light evenly and does nothing else.
func (s *surface) matt() bool {
	return s.metallic == 0 && s.grazing == 0 && s.dielectric == (bvh.Vec{}) && s.coat.strength == 0 && s.sheen.color == (bvh.Vec{}) && s.glass.share == 0
}

// eval returns the BSDF times the cosine of wi, and the density of sampling wi. Directions are in
// the shading frame and point away from the surface; below it lies what glass lets through.
func (s *surface) eval(wo, wi bvh.Vec) (bvh.Vec, float32) {
	if wo.Z <= 0 {
		return bvh.Vec{}, 0
	}
	if wi.Z <= 0 {
		if s.chance[glassLobe] == 0 || wi.Z == 0 || s.glass.walled {
			return bvh.Vec{}, 0
		}
		f, pdf := s.glass.through(wo, wi, s.alpha, s.base)
		return f.Mul(s.under * s.glass.share), s.chance[glassLobe] * pdf
	}
	solid := s.under * (1 - s.glass.share)
	f := s.diffuse.Mul(solid * wi.Z / pi)
	pdf := s.chance[diffuseLobe] * wi.Z / pi
	if s.chance[diffuseLobe] == 1 { // there is nothing else
		return f, pdf
	}
	h := wo.Add(wi).Unit()
	if s.chance[specularLobe]+s.chance[glassLobe] > 0 {
		if d := ggx(h, s.alpha); d > 0 {
			g1, g2 := smith(wo, wi, s.alpha)
			lobe, density := d*g2/(4*wo.Z), d*g1/(4*wo.Z)
			f = f.Add(mul(schlick(s.f0, s.f90, wo.Dot(h)), s.multiple).Mul(solid * lobe))
			pdf += s.chance[specularLobe] * density
			if s.chance[glassLobe] > 0 {
				g, share := s.glass.back(wo.Dot(h))
				f = f.Add(g.Mul(s.under * s.glass.share * lobe))
				pdf += s.chance[glassLobe] * share * density
			}
		}
	}
	if s.chance[coatLobe] > 0 {
		c, density := s.coat.eval(wo, wi, h)
		f = f.Add(bvh.Vec{X: c, Y: c, Z: c})
		pdf += s.chance[coatLobe] * density
	}
	if s.chance[sheenLobe] > 0 {
		f = f.Add(s.sheen.eval(wo, wi, h).Mul(1 - s.coat.sent))
		pdf += s.chance[sheenLobe] * wi.Z / pi
	}
	return f, pdf
}

// diffuseShare returns how much of f, the BSDF times the cosine, is of the lobes that scatter: diffuse and sheen.
func (s *surface) diffuseShare(f, wo, wi bvh.Vec) bvh.Vec {
	if wi.Z <= 0 {
		return bvh.Vec{}
	}
	d := s.diffuse.Mul(s.under * (1 - s.glass.share) * wi.Z / pi)
	if s.chance[sheenLobe] > 0 {
		d = d.Add(s.sheen.eval(wo, wi, wo.Add(wi).Unit()).Mul(1 - s.coat.sent))
	}
	part := func(d, f float32) float32 {
		if f <= 0 {
			return 0
		}
		return min(1, d/f)
	}
	return bvh.Vec{X: part(d.X, f.X), Y: part(d.Y, f.Y), Z: part(d.Z, f.Z)}
}

// sample draws a direction and returns it with the BSDF times cosine over density, and the density.
func (s *surface) sample(wo bvh.Vec, lobe, u, v float32) (wi, weight bvh.Vec, pdf float32) {
	k := 0
	for ; k < lobes-1 && lobe >= s.chance[k]; k++ {
		lobe -= s.chance[k]
	}
	switch k {
	case specularLobe:
		wi = above(mirror(wo, visibleNormal(wo, s.alpha, u, v)))
	case coatLobe:
		wi = s.coat.sample(wo, u, v)
	case glassLobe:
		wi = s.glass.sample(wo, s.alpha, min(1, lobe/s.chance[k]), u, v)
	default:
		wi = cosineHemisphere(u, v)
	}
	f, pdf := s.eval(wo, wi)
	if pdf <= 0 {
		return wi, bvh.Vec{}, 0
	}
	return wi, f.Mul(1 / pdf), pdf
}

// mirror returns the direction that a facet throws wo to.
func mirror(wo, h bvh.Vec) bvh.Vec { return h.Mul(2 * wo.Dot(h)).Sub(wo) }

// above returns a direction, or nothing where the facets block it: what a lobe draws on its wrong side must not be
// taken for what another draws there.
func above(w bvh.Vec) bvh.Vec {
	if w.Z <= 0 {
		return bvh.Vec{}
	}
	return w
}

// ggx is the Trowbridge-Reitz distribution (glTF 2.0, B.3.2 "Implementation").
func ggx(h bvh.Vec, alpha float32) float32 {
	a2 := alpha * alpha
	k := h.Z*h.Z*(a2-1) + 1
	// h.Z^2 (a^2 - 1) + 1 loses all digits for narrow lobes; sin^2 + a^2 cos^2 does not.
	if h.Z > 0.9 {
		k = (h.X*h.X + h.Y*h.Y) + a2*h.Z*h.Z
	}
	return a2 / (pi * k * k)
}

// smith returns the masking of wo alone and the height-correlated masking and shadowing of both
// (Heitz, "Understanding the Masking-Shadowing Function", JCGT 2014), g1 and g2, each divided by
// nothing: D g2 / (4 cos cos) is the lobe.
func smith(wo, wi bvh.Vec, alpha float32) (g1, g2 float32) {
	lambda := func(w bvh.Vec) float32 {
		c2 := w.Z * w.Z
		t2 := max(0, 1-c2) / c2
		return (sqrt(1+alpha*alpha*t2) - 1) / 2
	}
	o, i := lambda(wo), lambda(wi)
	return 1 / (1 + o), 1 / (1 + o + i)
}

// visibleNormal samples the GGX normals that wo sees (Dupuy and Benyoub, "Sampling Visible GGX
// Normals with Spherical Caps", 2023).
func visibleNormal(wo bvh.Vec, alpha, u, v float32) bvh.Vec {
	w := bvh.Vec{X: wo.X * alpha, Y: wo.Y * alpha, Z: wo.Z}.Unit()
	z := (1-v)*(1+w.Z) - w.Z
	r := sqrt(max(0, 1-z*z))
	cos, sin := circle(u)
	c := bvh.Vec{X: r * cos, Y: r * sin, Z: z}.Add(w)
	return bvh.Vec{X: c.X * alpha, Y: c.Y * alpha, Z: max(1e-9, c.Z)}.Unit()
}

// schlick is the reflectance of a facet met at a cosine, from that straight on and at a grazing angle (glTF 2.0, B.3.4).
func schlick(f0 bvh.Vec, f90, cos float32) bvh.Vec {
	k := max(0, 1-cos)
	k *= k * k * k * k
	return bvh.Vec{X: f0.X + (f90-f0.X)*k, Y: f0.Y + (f90-f0.Y)*k, Z: f0.Z + (f90-f0.Z)*k}
}

func cosineHemisphere(u, v float32) bvh.Vec {
	r := sqrt(u)
	cos, sin := circle(v)
	return bvh.Vec{X: r * cos, Y: r * sin, Z: sqrt(max(0, 1-u))}
}

// albedoTable holds the directional albedo of the specular lobe as f0 A + B, over the cosine of the
// view and the square root of the GGX width.
const albedoSize = 32

var albedoTable = sync.OnceValue(func() *table {
	t := new(table)
	const n = 256
	for i := range albedoSize {
		cos := float32(max(0.25, float64(i))) / (albedoSize - 1)
		wo := bvh.Vec{X: sqrt(max(0, 1-cos*cos)), Z: cos}
		for j := range albedoSize {
			alpha := widthOf(float32(j) / (albedoSize - 1))
			var a, b float64
			for k := range uint32(n) {
				u, v := float32(sobol(k, 0)>>8)/(1<<24), float32(sobol(k, 1)>>8)/(1<<24)
				h := visibleNormal(wo, alpha, u, v)
				wi := mirror(wo, h)
				if wi.Z <= 0 {
					continue
				}
				g1, g2 := smith(wo, wi, alpha)
				f := schlick(bvh.Vec{}, 1, wo.Dot(h)).X // the share that does not depend on f0
				b += float64(g2 / g1 * f)
				a += float64(g2 / g1 * (1 - f))
			}
			t[i][j] = [2]float32{float32(a / n), float32(b / n)}
		}
	}
	return t
})

// widthOf returns the GGX width of a roughness, kept above what single precision can draw.
func widthOf(roughness float32) float32 { return max(1e-3, roughness*roughness) }

func albedo(cos, alpha float32) (a, b float32) { return between2(albedoTable(), cos, alpha) }

// table holds two numbers over the cosine of the view and the square root of a width.
type table [albedoSize][albedoSize][2]float32

// between2 returns the numbers of a table between its entries.
func between2(t *table, cos, alpha float32) (float32, float32) {
	i, x := cell(cos)
	j, y := cell(sqrt(alpha))
	at := func(k int) float32 {
		return (1-x)*((1-y)*t[i][j][k]+y*t[i][j+1][k]) + x*((1-y)*t[i+1][j][k]+y*t[i+1][j+1][k])
	}
	return at(0), at(1)
}
