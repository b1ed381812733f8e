package render

import (
	"math"
	"sync"

	"perigyre/core/render/bvh"
)

// coat is a clear layer over everything else (KHR_materials_clearcoat): a specular lobe of its own with the
// reflectance of an index of 1.5.
type coat struct {
	strength, alpha float32
	turned          bool
	frame           frame   // where it is turned, in the surface's own
	cos             float32 // and the cosine of its normal to the view

	multiple float32 // what light that bounces more than once adds
	sent     float32 // share of the light that it sends back, all told
}

const coatF0 = 0.04

// turn gives the coat a normal of its own on a surface seen along d.
func (c *coat) turn(under *frame, normal, d bvh.Vec) {
	var own frame
	own.about(normal)
	c.turned, c.cos = true, -normal.Dot(d)
	c.frame = frame{under.local(own.x), under.local(own.y), under.local(own.z)}
}

// prepare returns the share of light that the coat sends back towards a view direction.
func (c *coat) prepare(cos float32) float32 {
	c.sent = 0
	if c.turned {
		cos = c.cos
	}
	if c.strength > 0 {
		a, b := albedo(cos, c.alpha)
		c.multiple = 1 + coatF0*(1-a-b)/(a+b)
		c.sent = c.strength * (coatF0*a + b) * c.multiple
	}
	return c.sent
}

// eval returns the lobe times the cosine of wi, and its density.
func (c *coat) eval(wo, wi, h bvh.Vec) (f, pdf float32) {
	if c.turned {
		wo, wi, h = c.frame.local(wo), c.frame.local(wi), c.frame.local(h)
		if wo.Z <= 0 || wi.Z <= 0 {
			return 0, 0
		}
	}
	d := ggx(h, c.alpha)
	g1, g2 := smith(wo, wi, c.alpha)
	fresnel := schlick(bvh.Vec{X: coatF0}, 1, wo.Dot(h)).X
	return c.strength * fresnel * c.multiple * d * g2 / (4 * wo.Z), d * g1 / (4 * wo.Z)
}

// sample draws a direction.
func (c *coat) sample(wo bvh.Vec, u, v float32) bvh.Vec {
	if !c.turned {
		return above(mirror(wo, visibleNormal(wo, c.alpha, u, v)))
	}
	own := c.frame.local(wo)
	wi := mirror(own, visibleNormal(own, c.alpha, u, v))
	if wi.Z <= 0 {
		return bvh.Vec{}
	}
	return above(c.frame.room(wi))
}

// sheen is the light that the fibres of cloth scatter towards grazing angles (KHR_materials_sheen): the Charlie
// distribution (Estevez and Kulla, "Production Friendly Microfacet Sheen BRDF", 2017) with the visibility of
// Neubelt and Pettineo, which the extension allows.
type sheen struct {
	color bvh.Vec
	alpha float32

	sent float32 // of its strongest colour
}

// prepare returns the share of light that the sheen takes from what lies under it: the extension's way of scaling
// the base.
func (s *sheen) prepare(cos float32) float32 {
	s.sent = 0
	if most := max(s.color.X, s.color.Y, s.color.Z); most > 0 {
		s.sent = min(1, most*sheenAlbedo(cos, s.alpha))
	}
	return s.sent
}

// eval returns the lobe times the cosine of wi.
func (s *sheen) eval(wo, wi, h bvh.Vec) bvh.Vec {
	return s.color.Mul(charlie(wo, wi, h, s.alpha) * wi.Z)
}

func charlie(wo, wi, h bvh.Vec, alpha float32) float32 {
	inverse := float64(1 / alpha)
	sin := math.Sqrt(math.Max(0, float64(h.X*h.X+h.Y*h.Y)))
	d := (2 + inverse) * math.Pow(sin, inverse) / (2 * math.Pi)
	return float32(d) / (4 * (wi.Z + wo.Z - wi.Z*wo.Z))
}

// widthOfSheen returns the width of a sheen's roughness, kept above what the extension's formula can draw.
func widthOfSheen(roughness float32) float32 { return max(5e-3, roughness*roughness) }

// sheenTable holds the directional albedo of a white sheen over the cosine of the view and the square root of its
// width.
var sheenTable = sync.OnceValue(func() *[albedoSize][albedoSize]float32 {
	t := new([albedoSize][albedoSize]float32)
	const n = 1024
	for i := range albedoSize {
		cos := float32(max(0.25, float64(i))) / (albedoSize - 1)
		wo := bvh.Vec{X: sqrt(max(0, 1-cos*cos)), Z: cos}
		for j := range albedoSize {
			alpha := widthOfSheen(float32(j) / (albedoSize - 1))
			sum := 0.0
			for k := range uint32(n) {
				wi := cosineHemisphere(float32(sobol(k, 0)>>8)/(1<<24), float32(sobol(k, 1)>>8)/(1<<24))
				sum += pi * float64(charlie(wo, wi, wo.Add(wi).Unit(), alpha))
			}
			t[i][j] = float32(sum / n)
		}
	}
	return t
})

func sheenAlbedo(cos, alpha float32) float32 {
	t := sheenTable()
	i, x := cell(cos)
	j, y := cell(sqrt(alpha))
	return (1-x)*((1-y)*t[i][j]+y*t[i][j+1]) + x*((1-y)*t[i+1][j]+y*t[i+1][j+1])
}

// cell returns the place of a number from 0 to 1 in a table: the entry before it and the way to the next.
func cell(v float32) (int, float32) {
	v = min(1, max(0, v)) * (albedoSize - 1)
	i := min(albedoSize-2, int(v))
	return i, v - float32(i)
}
