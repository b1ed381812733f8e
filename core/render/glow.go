package render

import (
	"math"
	"sort"

	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/render/bvh"
)

// glow is all surfaces that give light by themselves, sampled as one light: a triangle by its area times its
// luminance, and a point of it evenly. Both sides shine.
type glow struct {
	triangles []glowing
	upTo      []float32 // sums of area times luminance
	centre    bvh.Vec
}

type glowing struct {
	a, b, c, normal bvh.Vec // b and c are edges
	radiance        bvh.Vec
}

// maxGlowing triangles are sampled; light of more of them is found by chance.
const maxGlowing = 200_000

// glows reports whether a piece's light is sampled. What moves, fades, has holes or a picture of its light is found by
// chance.
func (p *piece) glowsEvenly(i *bvh.Instance) bool {
	k := p.material
	return luminance(rgb(k.Emissive)) > 0 && k.emissive == nil && k.Alpha == material.Opaque && k.gone == 0 && !k.Unlit && !k.OneSided && len(i.Keys) == 0 && len(p.bent) == 0
}

// newGlow gathers the surfaces that shine, and marks their pieces. It is nil where there are none.
func newGlow(instances []bvh.Instance, pieces []piece) *glow {
	g := new(glow)
	sum := 0.0
	for i := range pieces {
		p := &pieces[i]
		if !p.glowsEvenly(&instances[i]) || len(g.triangles)+len(p.mesh.Indices)/3 > maxGlowing {
			continue
		}
		p.glows = true
		radiance := rgb(p.material.Emissive)
		at := func(k uint32) bvh.Vec { return instances[i].ToRoom.Point(position(p.mesh.Positions[k])) }
		for t := 0; t < len(p.mesh.Indices); t += 3 {
			a := at(p.mesh.Indices[t])
			b, c := at(p.mesh.Indices[t+1]).Sub(a), at(p.mesh.Indices[t+2]).Sub(a)
			n := b.Cross(c)
			double := sqrt(n.Dot(n))
			if !(double > 0) {
				continue
			}
			sum += float64(double / 2 * luminance(radiance))
			g.triangles = append(g.triangles, glowing{a, b, c, n.Mul(1 / double), radiance})
			g.upTo = append(g.upTo, float32(sum))
			g.centre = g.centre.Add(a)
		}
	}
	if len(g.triangles) == 0 {
		return nil
	}
	g.centre = g.centre.Mul(1 / float32(len(g.triangles)))
	return g
}

// total is the area of all of it times its luminance.
func (g *glow) total() float32 { return g.upTo[len(g.upTo)-1] }

func (g *glow) sample(p bvh.Vec, u, v float32) (direction bvh.Vec, distance float32, radiance bvh.Vec, pdf float32) {
	want := u * g.total()
	k := min(len(g.upTo)-1, sort.Search(len(g.upTo), func(i int) bool { return g.upTo[i] > want }))
	before := float32(0)
	if k > 0 {
		before = g.upTo[k-1]
	}
	s := sqrt(min(1, max(0, (want-before)/(g.upTo[k]-before)))) // the place within the triangle's share is as good as another number
	t := &g.triangles[k]
	d := t.a.Add(t.b.Mul(s * (1 - v))).Add(t.c.Mul(s * v)).Sub(p)
	away := sqrt(d.Dot(d))
	if away == 0 {
		return direction, 0, radiance, 0
	}
	d = d.Mul(1 / away)
	return d, away, t.radiance, g.pdf(luminance(t.radiance), away, d.Dot(t.normal))
}

// pdf returns the density by solid angle of sampling a point of a luminance, seen from a distance at a cosine.
func (g *glow) pdf(luminance, away, cos float32) float32 {
	if cos = abs(cos); cos == 0 {
		return 0
	}
	return luminance / g.total() * away * away / cos
}

// meet is never asked: what glows is met as a surface.
func (g *glow) meet(bvh.Vec, bvh.Vec) (distance float32, radiance bvh.Vec, pdf float32) {
	return 0, bvh.Vec{}, 0
}

func (g *glow) through(centre geom.Vec3, radius float64) float32 {
	to := vec(centre).Sub(g.centre)
	away := math.Max(float64(sqrt(to.Dot(to))), radius)
	return g.total() / float32(away*away)
}
