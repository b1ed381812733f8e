package render

import (
	"math"

	"perigyre/core/render/bvh"
)

// sample is what one camera ray brings back.
type sample struct {
	light    bvh.Vec // scene-linear, associated with alpha
	alpha    float32 // 1 if the ray ended on something, 0 if on nothing or on the shadow floor
	floor    bool    // it ended on the shadow floor
	unshaded float32 // light that the floor there would get with nothing in its way
	shaded   float32 // light that it gets

	emission, diffuse, specular       bvh.Vec // of the light: what the surface gives by itself, and what light that comes to it directly gives, by the two lobes
	indirectDiffuse, indirectSpecular bvh.Vec // and light that has bounced
	first                             first
}

// first is the surface that a camera ray ends on.
type first struct {
	position, normal, albedo bvh.Vec // room; the shading normal, on the viewer's side
	part                     int32   // its index in the shot
	open                     float32 // 1 if nothing is near above the surface, 0 if something is: asked for by occlusion
}

const (
	straight  = 1e-4 // cosine to the surface below which directions are not followed
	mostHoles = 64   // surfaces with alpha that one ray passes
)

// trace follows one path.
func (s *Scene) trace(o, d bvh.Vec, g *sampler, q *settings) (out sample) {
	through := bvh.Vec{X: 1, Y: 1, Z: 1}
	density := float32(0) // of the direction that the path took, 0 for the camera's
	var share bvh.Vec     // of the diffuse lobe in what the path brings back
	for bounce := 0; ; bounce++ {
		p, base, found := s.next(&o, d, g, bounce == 0, &out)
		s.addLights(&out, o, d, &p, found, through, share, density, bounce, q)
		if !found || bounce > q.bounces { // the last direction only brings back lights, which share with direct sampling
			return out
		}
		out.alpha = 1
		if p.piece.material.Unlit { // the base colour as it is, whatever the light
			if bounce == 0 {
				out.first = first{position: p.at, normal: p.normal, part: p.piece.part}
			}
			out.add(mul(through, base), bounce, q, share)
			return out
		}
		surf := s.surface(&p, base, d)
		if bounce == 0 {
			out.first = first{position: p.at, normal: surf.frame.z, albedo: base, part: p.piece.part}
			if q.occlusion > 0 {
				out.first.open = s.unoccluded(&p, &surf, q.occlusion, g)
			}
		}
		out.add(mul(through, surf.emission), bounce, q, share)
		wo := surf.frame.local(d.Mul(-1))
		surf.prepare(wo.Z)

		s.direct(&out, &p, &surf, wo, through, share, bounce, g, q)
		lobe := g.next1()
		u, v := g.next2()
		wi, weight, pdf := surf.sample(wo, lobe, u, v)
		survive := g.next1()
		dir := surf.frame.room(wi)
		if pdf <= 0 || dir.Dot(p.normal) < straight {
			return out
		}
		if bounce == 0 {
			share = surf.diffuseShare(weight.Mul(pdf), wi)
		}
		through = mul(through, weight)
		if bounce >= 2 { // Russian roulette
			keep := min(0.95, max(through.X, max(through.Y, through.Z)))
			if survive >= keep {
				return out
			}
			through = through.Mul(1 / keep)
		}
		o, d, density = p.leave(dir), dir, pdf
	}
}

// next finds the next surface that the path does not pass through. The origin moves along over the
// ones it passes.
func (s *Scene) next(o *bvh.Vec, d bvh.Vec, g *sampler, first bool, out *sample) (p point, base bvh.Vec, found bool) {
	start := *o
	for range mostHoles {
		r := bvh.Ray{Origin: *o, Direction: d, Far: math.MaxFloat32, Mask: solid | pierced, Time: g.time}
		if p, found = s.find(&r, g.walker); !found {
			break
		}
		var alpha float32
		if base, alpha = p.coverage(); alpha >= 1 || alpha > 0 && g.next1() < alpha {
			return p, base, true
		}
		*o = p.leave(d)
	}
	if first {
		s.catch(start, d, g, out)
	}
	return p, base, false
}

// catch measures the shadow on the floor that receives it, where a camera ray meets nothing else.
func (s *Scene) catch(o, d bvh.Vec, g *sampler, out *sample) {
	if s.floor == nil || d.Y >= 0 || o.Y <= *s.floor {
		return
	}
	t := (*s.floor - o.Y) / d.Y
	at := o.Add(d.Mul(t))
	at.Y = *s.floor
	pick := g.next1()
	u, v := g.next2()
	l := s.lights.sample(at, pick, u, v)
	out.floor = true
	if l.pdf <= 0 || l.direction.Y <= straight {
		return
	}
	light := luminance(l.radiance) * l.direction.Y / l.pdf
	out.unshaded += light
	size := 2e-6 * (abs(at.X) + abs(at.Y) + abs(at.Z))
	at.Y += size
	out.shaded += light * s.open(at, l.direction, l.distance, g)
}

// addLights adds what shines along a path's segment by itself: the sky where it ends on nothing, and
// the lamps it meets on its way. The camera sees neither. Weighted against direct sampling by
// the power heuristic (Veach and Guibas 1995).
func (s *Scene) addLights(out *sample, o, d bvh.Vec, p *point, found bool, through, share bvh.Vec, density float32, bounce int, q *settings) {
	if bounce == 0 {
		return
	}
	far := float32(math.MaxFloat32)
	if found {
		far = p.at.Sub(o).Dot(d)
	} else {
		w := heuristic(density, s.lights.sky.pdf(d)*s.lights.skyly)
		out.add(mul(through, s.lights.sky.radiance(d)).Mul(w), bounce, q, share)
	}
	for i, b := range s.lights.lamps {
		if l, ok := b.meet(o, d); ok && (l.distance < far || !found) {
			w := heuristic(density, l.pdf*s.lights.chance[i])
			out.add(mul(through, l.radiance).Mul(w), bounce, q, share)
		}
	}
}

// direct samples one light.
func (s *Scene) direct(out *sample, p *point, surf *surface, wo, through, share bvh.Vec, bounce int, g *sampler, q *settings) {
	pick := g.next1()
	u, v := g.next2()
	l := s.lights.sample(p.at, pick, u, v)
	if l.pdf <= 0 || l.direction.Dot(p.normal) < straight {
		return
	}
	wi := surf.frame.local(l.direction)
	f, density := surf.eval(wo, wi)
	if density <= 0 {
		return
	}
	if bounce == 0 {
		share = surf.diffuseShare(f, wi)
	}
	if open := s.open(p.leave(l.direction), l.direction, l.distance, g); open > 0 {
		w := heuristic(l.pdf, density) * open / l.pdf
		out.add(mul(through, mul(f, l.radiance)).Mul(w), bounce+1, q, share)
	}
}

// open returns how much light comes through from a distance along d: 0 behind something solid.
func (s *Scene) open(o, d bvh.Vec, distance float32, g *sampler) float32 {
	r := bvh.Ray{Origin: o, Direction: d, Far: distance, Mask: solid, Time: g.time}
	if distance < math.MaxFloat32 {
		r.Far = distance * (1 - 1e-5)
	}
	if len(s.cutters) > 0 {
		if _, dark := s.find(&r, g.walker); dark {
			return 0
		}
	} else if s.tree.Occluded(&r, g.walker) {
		return 0
	}
	if !s.holes {
		return 1
	}
	light := float32(1)
	r.Mask = pierced
	for range mostHoles {
		p, found := s.find(&r, g.walker)
		if !found {
			return light
		}
		_, alpha := p.coverage()
		if light *= 1 - alpha; light <= 0 {
			return 0
		}
		next := p.leave(d)
		if r.Far < math.MaxFloat32 {
			r.Far -= next.Sub(r.Origin).Dot(d)
		}
		r.Origin = next
	}
	return 0
}

// heuristic is the weight of a sample drawn with density a where another way draws it with b.
func heuristic(a, b float32) float32 {
	if b == 0 {
		return 1
	}
	r := b / a
	return 1 / (1 + r*r)
}

// add adds light, with what bounced more than once kept below the clamp. Share is how much of it came by the
// diffuse lobe of the first surface.
func (o *sample) add(l bvh.Vec, bounce int, q *settings, share bvh.Vec) {
	if bounce > 1 && q.clamp > 0 {
		if m := max(l.X, max(l.Y, l.Z)); m > q.clamp {
			l = l.Mul(q.clamp / m)
		}
	}
	if s := l.X + l.Y + l.Z; s-s != 0 { // not finite
		return
	}
	o.light = o.light.Add(l)
	if !q.layers {
		return
	}
	diffuse := mul(l, share)
	switch bounce {
	case 0:
		o.emission = o.emission.Add(l)
	case 1:
		o.diffuse, o.specular = o.diffuse.Add(diffuse), o.specular.Add(l.Sub(diffuse))
	default:
		o.indirectDiffuse, o.indirectSpecular = o.indirectDiffuse.Add(diffuse), o.indirectSpecular.Add(l.Sub(diffuse))
	}
}

// unoccluded reports, by one ray of the cosine about the normal, whether nothing lies within a distance.
func (s *Scene) unoccluded(p *point, surf *surface, within float32, g *sampler) float32 {
	u, v := g.next2()
	d := surf.frame.room(cosineHemisphere(u, v))
	if d.Dot(p.normal) < straight {
		return 0
	}
	return s.open(p.leave(d), d, within, g)
}
