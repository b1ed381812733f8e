package render

import (
	"math"
	"sync"

	"perigyre/core/render/bvh"
)

// glass is the share of a surface that light goes through (KHR_materials_transmission): a thin wall, which does
// not turn it aside, or the skin of a solid body (KHR_materials_volume), which refracts it.
type glass struct {
	share  float32 // of the surface that is glass
	ior    float32 // of the medium beyond over that on the viewer's side; 1 for a thin wall
	walled bool    // light passes straight, which is decided before the surface is shaded

	sendBack bvh.Vec // reflectance straight on of a thin wall, with what bounces more than once
	f0       bvh.Vec
	f90      float32
	kept     bvh.Vec // share of the light that a thin wall reflects towards the viewer, all told
	single   float32 // share that both lobes together bring back when light bounces once
}

func (g *glass) thin() bool { return g.ior == 1 }

// prepare works out how much of the light comes back towards a view direction. What light that bounces more than
// once between facets brings is made up for, so that glass without colour loses nothing.
func (g *glass) prepare(cos, alpha float32, f0 bvh.Vec, f90 float32) {
	if g.thin() {
		a, b := albedo(cos, alpha)
		g.f0, g.f90, g.single = f0, f90, a+b
		one := func(f0 float32) (kept, times float32) {
			times = 1 + f0*(1-g.single)/g.single
			return (f0*a + f90*b) * times, times
		}
		g.kept.X, g.sendBack.X = one(f0.X)
		g.kept.Y, g.sendBack.Y = one(f0.Y)
		g.kept.Z, g.sendBack.Z = one(f0.Z)
		return
	}
	kept, passed := glassAlbedo(cos, alpha, g.ior)
	g.single = kept + passed
	k := kept / g.single
	g.kept = bvh.Vec{X: k, Y: k, Z: k}
}

// reflected is the share of the light that comes back on the viewer's side, without colour.
func (g *glass) reflected() float32 { return min(1, luminance(g.kept)) }

// back returns the reflectance of a facet met at a cosine, and the chance that sampling reflects there.
func (g *glass) back(cos float32) (bvh.Vec, float32) {
	if g.thin() {
		share := min(0.9, max(0.1, g.reflected()))
		if g.walled {
			share = 1
		}
		return mul(schlick(g.f0, g.f90, cos), g.sendBack), share
	}
	f := fresnel(cos, g.ior)
	share := f
	if g.walled {
		share = 1
	}
	f /= g.single
	return bvh.Vec{X: f, Y: f, Z: f}, share
}

// through returns the lobe of what comes from below, times the cosine, and its density (Walter et al., "Microfacet
// Models for Refraction through Rough Surfaces", 2007, with light followed backwards: radiance is not compressed,
// since lights are on the same side at both ends).
func (g *glass) through(wo, wi bvh.Vec, alpha float32, color bvh.Vec) (bvh.Vec, float32) {
	if g.thin() { // as rough as a mirror lobe, on the other side
		m := bvh.Vec{X: wi.X, Y: wi.Y, Z: -wi.Z}
		h := wo.Add(m).Unit()
		d := ggx(h, alpha)
		g1, g2 := smith(wo, m, alpha)
		_, back := g.back(1)
		pass := bvh.Vec{X: 1 - g.kept.X, Y: 1 - g.kept.Y, Z: 1 - g.kept.Z}
		return mul(color, pass).Mul(d * g2 / (4 * wo.Z) / g.single), (1 - back) * d * g1 / (4 * wo.Z)
	}
	h := wo.Add(wi.Mul(g.ior)).Unit()
	if h.Z < 0 {
		h = h.Mul(-1)
	}
	o, i := wo.Dot(h), wi.Dot(h)
	if o <= 0 || i >= 0 {
		return bvh.Vec{}, 0
	}
	d := ggx(h, alpha)
	g1, g2 := smith(wo, bvh.Vec{X: wi.X, Y: wi.Y, Z: -wi.Z}, alpha)
	k := o + g.ior*i
	jacobian := g.ior * g.ior * -i / (k * k)
	f := (1 - fresnel(o, g.ior)) * d * o * jacobian / wo.Z
	return color.Mul(f * g2 / g.single), f * g1
}

// sample draws a direction: one of the normals that wo sees, and off it or through it.
func (g *glass) sample(wo bvh.Vec, alpha, pick, u, v float32) bvh.Vec {
	h := visibleNormal(wo, alpha, u, v)
	cos := wo.Dot(h)
	mirrored := above(mirror(wo, h))
	if _, back := g.back(cos); pick < back {
		return mirrored
	}
	if g.thin() {
		return bvh.Vec{X: mirrored.X, Y: mirrored.Y, Z: -mirrored.Z}
	}
	if wi := refract(wo, h, g.ior); wi.Z < 0 {
		return wi
	}
	return bvh.Vec{}
}

// refract returns the direction that wo is bent to beyond a facet (Snell's law), or nothing where all is reflected.
func refract(wo, h bvh.Vec, ior float32) bvh.Vec {
	cos := wo.Dot(h)
	sin2 := (1 - cos*cos) / (ior * ior)
	if sin2 >= 1 {
		return bvh.Vec{}
	}
	return h.Mul(cos/ior - sqrt(1-sin2)).Sub(wo.Mul(1 / ior)).Unit()
}

// fresnel returns the share of unpolarised light that an even surface between dielectrics reflects (Fresnel's
// equations), ior that of the medium beyond over that on this side.
func fresnel(cos, ior float32) float32 {
	sin2 := (1 - cos*cos) / (ior * ior)
	if sin2 >= 1 {
		return 1
	}
	t := sqrt(1 - sin2)
	s := (cos - ior*t) / (cos + ior*t)
	p := (ior*cos - t) / (ior*cos + t)
	return (s*s + p*p) / 2
}

// glassTables hold how much light rough glass reflects and lets through when it bounces once, for each relative
// index of refraction, over the cosine of the view and the square root of the GGX width.
var glassTables sync.Map // float32 to *table

func glassTable(ior float32) *table {
	if t, ok := glassTables.Load(ior); ok {
		return t.(*table)
	}
	t := new(table)
	const n = 128
	for i := range albedoSize {
		cos := float32(max(0.25, float64(i))) / (albedoSize - 1)
		wo := bvh.Vec{X: sqrt(max(0, 1-cos*cos)), Z: cos}
		for j := range albedoSize {
			alpha := widthOf(float32(j) / (albedoSize - 1))
			var kept, passed float64
			for k := range uint32(n) {
				h := visibleNormal(wo, alpha, float32(sobol(k, 0)>>8)/(1<<24), float32(sobol(k, 1)>>8)/(1<<24))
				f := fresnel(wo.Dot(h), ior)
				if wi := mirror(wo, h); wi.Z > 0 {
					g1, g2 := smith(wo, wi, alpha)
					kept += float64(f * g2 / g1)
				}
				if wi := refract(wo, h, ior); wi.Z < 0 {
					g1, g2 := smith(wo, bvh.Vec{X: wi.X, Y: wi.Y, Z: -wi.Z}, alpha)
					passed += float64((1 - f) * g2 / g1)
				}
			}
			t[i][j] = [2]float32{float32(kept / n), float32(passed / n)}
		}
	}
	known, _ := glassTables.LoadOrStore(ior, t)
	return known.(*table)
}

func glassAlbedo(cos, alpha, ior float32) (kept, passed float32) {
	return between2(glassTable(ior), cos, alpha)
}

// absorption returns the share of each colour that is left after a way inside a body (KHR_materials_volume: the
// attenuation colour is what is left after the attenuation distance; Beer-Lambert law).
func (k *skin) absorption(distance float32) bvh.Vec {
	if !(k.AttenuationDistance > 0) || k.AttenuationColor == nil {
		return bvh.Vec{X: 1, Y: 1, Z: 1}
	}
	left := func(c float64) float32 { return float32(math.Pow(c, float64(distance)/k.AttenuationDistance)) }
	c := *k.AttenuationColor
	return bvh.Vec{X: left(c[0]), Y: left(c[1]), Z: left(c[2])}
}

// index is the material's index of refraction.
func (k *skin) index() float32 {
	if k.IOR == 0 {
		return 1.5
	}
	return float32(k.IOR)
}

// hazy is the share of what is seen through glass that counts as light of the glass itself: the smoother it is the
// more it shows what is behind it, a plate too, and the rougher the more it glows by itself.
func hazy(alpha float32) float32 {
	k := min(1, max(0, (sqrt(alpha)-0.1)/0.4))
	return k * k * (3 - 2*k)
}
