package render

import (
	"math"

	"perigyre/core/render/bvh"
)

// sample is what one camera ray brings back.
type sample struct {
	light    bvh.Vec // scene-linear, associated with alpha
	alpha    float32 // 1 if the ray ended on something, 0 if on nothing or on the shadow floor
	floor    float32 // how much of the shadow floor that it ended on it sees
	ground   bvh.Vec // the sky behind it, where that is seen
	unshaded float32 // light that the floor there would get with nothing in its way
	shaded   float32 // light that it gets

	emission, diffuse, specular       bvh.Vec // of the light: what the surface gives by itself, and what light that comes to it directly gives, by the two lobes
	indirectDiffuse, indirectSpecular bvh.Vec // and light that has bounced
	first                             first
}

// first is the surface that a camera ray ends on.
type first struct {
	position, normal, albedo bvh.Vec    // room; the shading normal, on the viewer's side
	part                     int32      // its matte, -1 for none
	body                     int32      // its index in the scene
	cap                      bool       // it is a cut face of it
	motion                   [2]float32 // that it goes in a frame's time, to the right and up, as a share of half the picture
	open                     float32    // 1 if nothing is near above the surface, 0 if something is: asked for by occlusion
}

// is sets it to a point. Here and in what else is done for each ray structures are filled field by field: what is put together first and
// then copied the processor waits for.
func (f *first) is(p *point, normal, albedo bvh.Vec) {
	f.position, f.normal, f.albedo = p.at, normal, albedo
	f.part, f.body, f.cap = p.piece.part, p.piece.body, p.cap
}

const (
	straight = 1e-4 // cosine to the surface below which directions are not followed
	maxHoles = 64   // surfaces with alpha that one ray passes
)

// beam is about as wide as what one sample stands for (ray cones: Akenine-Moller et al., "Texture Level of Detail
// Strategies for Real-Time Ray Tracing", 2019). Textures are read no finer than that; on faces seen aslant not
// coarser either, since the samples of a pixel average over the rest of its footprint.
type beam struct{ width, spread float32 } // metres, and metres for each metre

// spread is by how much a surface widens a beam that it throws back.
func (s *surface) spread() float32 {
	if s.chance[diffuseLobe]+s.chance[sheenLobe] > 0.5 {
		return 0.2
	}
	return 0.5 * s.alpha
}

// pixel is how wide a pixel of a picture is at a distance of 1.
func (c *camera) pixel(width int) float32 { return 2 * sqrt(c.right.Dot(c.right)) / float32(width) }

// maxWalls are passed by a path that has met nothing but glass.
const maxWalls = 32

// way is a path as far as it has been followed.
type way struct {
	o, d       bvh.Vec
	throughput bvh.Vec
	density    float32 // of the direction that it took, 0 for the camera's
	share      bvh.Vec // of the diffuse lobe in what it brings back
	bounce     int
	walls      int     // of glass that the camera has looked through
	named      bool    // what it shows is known
	frosted    bool    // the camera has looked through glass that scatters
	shared     bool    // what glows beyond the glass that was passed last has been sampled there
	part       float32 // of what the sample brings back: ways that were split have less than 1
	look       beam
}

// trace follows one path. As long as it has met nothing but clear glass it is the camera's own sight: it sees no
// sky, and where it ends on nothing the picture keeps what the glass lets through as transparency. After that,
// unless caustics are asked for, glass lets light through straight, by what it reflects, tints and absorbs, and
// does not bend it.
func (s *Scene) trace(o, d bvh.Vec, met *shading, g *sampler, q *settings, out *sample) {
	*out = sample{}
	var w way
	w.o, w.d, w.throughput, w.part = o, d, bvh.Vec{X: 1, Y: 1, Z: 1}, 1
	w.look.spread = q.pixel / sqrt(float32(max(1, q.samples)))
	s.follow(&w, met, g, q, out)
}

// shading is where a path is and what is there: filled anew at each surface, and not emptied for each path, which costs as much as to fill it.
type shading struct {
	point   point
	surface surface
}

// follow follows a path to its end.
func (s *Scene) follow(w *way, met *shading, g *sampler, q *settings, out *sample) {
	p, surf := &met.point, &met.surface
	for {
		from, floor := w.o, out.floor
		base, kept, found := s.next(&w.o, w.d, g, w.bounce == 0, p, &w.throughput, &w.look, out, q)
		if w.bounce > 0 {
			s.addLights(out, w.o, w.d, p, found, w.throughput, w.share, w.density, w.bounce, g, q)
		}
		if !found {
			if w.bounce > 0 {
				out.alpha += w.part
				return
			}
			if w.walls > 0 {
				out.alpha += w.part - luminance(w.throughput)
			}
			if s.seen {
				sky, _ := s.lights.sky.look(w.d)
				sky = mul(w.throughput, sky)
				if out.floor > floor {
					out.ground = out.ground.Add(sky)
				} else {
					out.light, out.emission = out.light.Add(sky), out.emission.Add(sky)
				}
			}
			return
		}
		if w.bounce > q.bounces { // the last direction only brings back lights, which share with direct sampling
			out.alpha += w.part
			return
		}
		w.throughput = w.throughput.Mul(1 / kept)
		if p.piece.material.Unlit { // the base colour as it is, whatever the light
			if w.bounce == 0 && !w.named {
				out.first.is(p, p.normal, bvh.Vec{})
				out.first.motion = s.motionOf(p, q)
			}
			out.add(mul(w.throughput, base), w.bounce, q, w.share)
			out.alpha += w.part
			return
		}
		p.surface(surf, base, w.d)
		haze := float32(1)
		if surf.glass.share > 0 {
			haze = hazy(surf.alpha)
		}
		if w.bounce == 0 && !w.named {
			w.named = haze > 0.5 // smooth glass gives way to what is behind it
			out.first.is(p, surf.frame.z, base)
			out.first.motion = s.motionOf(p, q)
			if q.occlusion > 0 {
				own := g.aside(occlusionSets)
				out.first.open = s.unoccluded(p, surf, q.occlusion, &own)
			}
		}
		if g := s.lightsAt(g.time); (w.bounce > 0 || w.shared) && p.piece.glows && !p.cap && surf.emission != (bvh.Vec{}) { // direct sampling shares it
			to := p.at.Sub(from)
			chance := g.glow.pdf(luminance(surf.emission), sqrt(to.Dot(to)), w.d.Dot(p.normal))
			if !w.shared {
				chance *= g.glowly
			}
			surf.emission = surf.emission.Mul(heuristic(w.density, chance))
		}
		seen := w.bounce
		if w.frosted {
			seen = max(seen, 1)
		}
		out.add(mul(w.throughput, surf.emission), seen, q, w.share)
		wo := surf.frame.local(w.d.Mul(-1))
		surf.prepare(wo.Z)
		frosted := w.bounce == 0 && surf.glass.share > 0 && surf.alpha > frost
		beyond := frosted && s.lights.glow != nil
		sees := w.seesThrough(haze, g)
		if beyond {
			s.glowBeyond(out, p, surf, wo, w.throughput, w.walls, sees || q.caustics, g, q)
		}
		s.direct(out, p, surf, wo, w.throughput, w.share, w.bounce, sees, beyond, g, q)
		if frosted && w.part == 1 && q.split > 1 {
			s.split(w, p, surf, wo, haze, beyond, g, q, out)
			return
		}
		if !w.goOn(p, surf, wo, sees, beyond, g, q) {
			out.alpha += w.part
			return
		}
	}
}

// split follows a path on in several directions (Arvo and Kirk, "Particle transport and image synthesis", 1990): rough glass
// scatters what the camera sees over all that is behind it, of which one direction shows as good as nothing.
func (s *Scene) split(w *way, p *point, surf *surface, wo bvh.Vec, haze float32, beyond bool, g *sampler, q *settings, out *sample) {
	w.part = 1 / float32(q.split)
	w.throughput = w.throughput.Mul(w.part)
	var met shading
	for k := range q.split {
		own, one := g.branch(k, q.split), *w
		own.shadowRays = max(1, g.shadowRays/q.split) // of all together as many as elsewhere
		if one.goOn(p, surf, wo, one.seesThrough(haze, &own), beyond, &own, q) {
			s.follow(&one, &met, &own, q, out)
		} else {
			out.alpha += one.part
		}
	}
}

// seesThrough decides by chance whether what is behind a surface is in the camera's sight, or light of the surface.
func (w *way) seesThrough(haze float32, g *sampler) bool {
	return w.bounce == 0 && haze < 1 && g.next1() >= haze && w.walls < maxWalls
}

// goOn sends a path on from a surface, and reports whether it goes on.
func (w *way) goOn(p *point, surf *surface, wo bvh.Vec, sees, beyond bool, g *sampler, q *settings) bool {
	lobe := g.next1()
	u, v := g.next2()
	wi, weight, pdf := surf.sample(wo, lobe, u, v)
	survive := g.next1()
	dir := surf.frame.room(wi)
	if c := dir.Dot(p.normal); pdf <= 0 || wi.Z > 0 && c < straight || wi.Z <= 0 && c > -straight {
		return false
	}
	w.shared = beyond && wi.Z < 0
	w.throughput = mul(w.throughput, weight)
	w.o, w.d, w.density = p.leave(dir), dir, pdf
	w.look.spread += surf.spread()
	if sees && wi.Z < 0 {
		w.walls++
		w.frosted = w.frosted || surf.alpha > frost
		return true
	}
	if w.bounce == 0 && q.layers {
		w.share = surf.diffuseShare(weight.Mul(pdf), wo, wi)
	}
	if w.bounce++; w.bounce > 2 { // Russian roulette
		keep := min(0.95, max(w.throughput.X, max(w.throughput.Y, w.throughput.Z))/w.part)
		if survive >= keep {
			return false
		}
		w.throughput = w.throughput.Mul(1 / keep)
	}
	return true
}

// next finds the next surface that the path does not pass through straight. The origin moves along over the
// ones it passes, and through loses what they take. Kept is the chance with which the path was kept at the
// surface.
func (s *Scene) next(o *bvh.Vec, d bvh.Vec, g *sampler, primary bool, p *point, throughput *bvh.Vec, look *beam, out *sample, q *settings) (base bvh.Vec, kept float32, found bool) {
	start := *o
	var r bvh.Ray
	r.Direction, r.Far, r.Mask, r.Time = d, math.MaxFloat32, solid|pierced|glassy, g.time
	for range maxHoles {
		r.Origin = *o
		if found = s.find(&r, g.walker, p); !found {
			break
		}
		if s.holes {
			*throughput = mul(*throughput, p.absorbed(p.at.Sub(*o).Dot(d)))
		}
		look.width += look.spread * p.at.Sub(*o).Dot(d)
		p.wide = look.width * p.dense
		var alpha float32
		if base, alpha = p.coverage(); alpha >= 1 || alpha > 0 && g.next1() < alpha {
			if primary || q.caustics || !s.holes {
				return base, 1, true
			}
			pass := p.straight(d)
			if pass == 0 {
				return base, 1, true
			}
			p.walled = true
			if pass = min(pass, 0.99); g.next1() >= pass {
				return base, 1 - pass, true
			}
			*throughput = mul(*throughput, base)
		}
		*o = p.leave(d)
	}
	if primary {
		s.catch(start, d, luminance(*throughput), g, out)
	}
	return base, 1, false
}

// catch measures the shadow on the floor that receives it, where a camera ray meets nothing else: weight is what
// glass before it lets through.
func (s *Scene) catch(o, d bvh.Vec, weight float32, g *sampler, out *sample) {
	if s.floor == nil || d.Y >= 0 || o.Y <= *s.floor {
		return
	}
	t := (*s.floor - o.Y) / d.Y
	at := o.Add(d.Mul(t))
	at.Y = *s.floor
	out.floor += weight
	from := at
	from.Y += 2e-6 * (abs(at.X) + abs(at.Y) + abs(at.Z))
	for k := range g.shadowRays {
		pick := (float32(k) + g.next1()) / float32(g.shadowRays)
		u, v := g.next2()
		var l lit
		s.lightsAt(g.time).sample(at, pick, u, v, &l)
		if l.pdf <= 0 || l.direction.Y <= straight {
			continue
		}
		light := weight * luminance(l.radiance) * l.direction.Y / l.pdf / float32(g.shadowRays)
		out.unshaded += light
		out.shaded += light * luminance(s.open(from, l.direction, l.distance, false, g))
	}
}

// shadowRays are sent for each ray that ends on the shadow floor. Where several have met nothing in the light's way, one is enough.
func (p *gathered) shadowRays(q *settings) int {
	if p.n >= 4 && p.shadow.sum == 0 {
		return 1
	}
	return q.shadowRays
}

// addLights adds what shines along a path's segment by itself: the sky where it ends on nothing, and
// the lamps it meets on its way. The camera sees neither, and asks for neither. Weighted against direct sampling by
// the power heuristic (Veach and Guibas 1995).
func (s *Scene) addLights(out *sample, o, d bvh.Vec, p *point, found bool, through, share bvh.Vec, density float32, bounce int, g *sampler, q *settings) {
	far := float32(math.MaxFloat32)
	lights := s.lightsAt(g.time)
	if found {
		far = p.at.Sub(o).Dot(d)
	} else {
		radiance, pdf := lights.sky.look(d)
		out.add(mul(through, radiance).Mul(heuristic(density, pdf*lights.skyly)), bounce, q, share)
	}
	for i, b := range lights.lamps {
		if distance, radiance, pdf := b.meet(o, d); pdf > 0 && (distance < far || !found) {
			out.add(mul(through, radiance).Mul(heuristic(density, pdf*lights.chance[i])), bounce, q, share)
		}
	}
}

// direct samples one light. What the camera sees through clear glass is no light on it, and what glows beyond may have been sampled.
func (s *Scene) direct(out *sample, p *point, surf *surface, wo, throughput, share bvh.Vec, bounce int, seesThrough, beyond bool, g *sampler, q *settings) {
	pick := g.next1()
	u, v := g.next2()
	var l lit
	s.lightsAt(g.time).sample(p.at, pick, u, v, &l)
	c := l.direction.Dot(p.normal)
	if l.pdf <= 0 || abs(c) < straight || c < 0 && (seesThrough || surf.glass.share == 0 || beyond && l.glows) {
		return
	}
	wi := surf.frame.local(l.direction)
	if wi.Z*c <= 0 { // the two normals disagree on which side it is
		return
	}
	f, density := surf.eval(wo, wi)
	if density <= 0 {
		return
	}
	if bounce == 0 && q.layers {
		share = surf.diffuseShare(f, wo, wi)
	}
	if open := s.open(p.leave(l.direction), l.direction, l.distance, q.caustics, g); open != (bvh.Vec{}) {
		w := heuristic(l.pdf, density) / l.pdf
		out.add(mul(mul(throughput, open), mul(f, l.radiance)).Mul(w), bounce+1, q, share)
	}
}

// frost is the GGX width of glass beyond which what glows behind it is a light on it, and not a thing that is seen: what comes of it is
// sampled, and smoothed with the light.
const frost = 0.005

// glowSets is where numbers for what glows behind glass begin.
const glowSets = 1 << 17

// glowBeyond samples what glows behind the rough glass that the camera looks at or through; with strict, up to the next glass. Directions that
// the glass scatters to meet small things that glow seldom, and among many lights they are seldom picked: here they always are. Both
// ways are weighted by the power heuristic.
func (s *Scene) glowBeyond(out *sample, p *point, surf *surface, wo, throughput bvh.Vec, walls int, strict bool, g *sampler, q *settings) {
	own := g.aside(glowSets + uint32(walls))
	u, v := own.next2()
	direction, distance, radiance, pdf := s.lightsAt(g.time).glow.sample(p.at, u, v)
	if pdf <= 0 || direction.Dot(p.normal) > -straight {
		return
	}
	wi := surf.frame.local(direction)
	if wi.Z >= 0 {
		return
	}
	f, density := surf.eval(wo, wi)
	if density <= 0 {
		return
	}
	if open := s.open(p.leave(direction), direction, distance, strict, g); open != (bvh.Vec{}) {
		w := heuristic(pdf, density) / pdf
		out.add(mul(mul(throughput, open), mul(f, radiance)).Mul(w), 1, q, bvh.Vec{})
	}
}

// open returns how much light comes through from a distance along d: none behind something solid. Glass lets it
// through straight, or with strict not at all.
func (s *Scene) open(o, d bvh.Vec, distance float32, strict bool, g *sampler) bvh.Vec {
	var r bvh.Ray
	r.Origin, r.Direction, r.Far, r.Mask, r.Time = o, d, distance, solid, g.time
	if strict {
		r.Mask |= glassy
	}
	if distance < math.MaxFloat32 {
		r.Far = distance * (1 - 1e-5)
	}
	if len(s.cutters) > 0 && s.cutNear(&r, g.walker) {
		var p point
		if s.find(&r, g.walker, &p) {
			return bvh.Vec{}
		}
	} else if s.tree.Occluded(&r, g.walker) {
		return bvh.Vec{}
	}
	light := bvh.Vec{X: 1, Y: 1, Z: 1}
	if !s.holes {
		return light
	}
	r.Mask = (pierced | glassy) &^ r.Mask
	var p point
	for range maxHoles {
		if !s.find(&r, g.walker, &p) {
			return light
		}
		light = mul(light, p.absorbed(p.at.Sub(r.Origin).Dot(d)))
		base, alpha := p.coverage()
		pass := bvh.Vec{X: 1 - alpha, Y: 1 - alpha, Z: 1 - alpha}
		if !strict {
			pass = pass.Add(base.Mul(alpha * p.straight(d)))
		}
		if light = mul(light, pass); light.X+light.Y+light.Z <= 0 {
			return bvh.Vec{}
		}
		next := p.leave(d)
		if r.Far < math.MaxFloat32 {
			r.Far -= next.Sub(r.Origin).Dot(d)
		}
		r.Origin = next
	}
	return bvh.Vec{}
}

// lightsAt returns the lights at a time of the shutter.
func (s *Scene) lightsAt(time float32) *lights {
	if len(s.lit) == 0 {
		return &s.lights
	}
	return &s.lit[min(len(s.lit)-1, int(time*float32(len(s.lit))))]
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
	return luminance(s.open(p.leave(d), d, within, true, g))
}
