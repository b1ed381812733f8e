package render

import (
	"math"

	"perigyre/core/geom"
	"perigyre/core/render/bvh"
	"perigyre/core/shot"
)

// environment is a sky whose radiance depends on height alone: linear in the sine of the elevation
// between ground, horizon and zenith.
type environment struct {
	zenith, horizon, ground bvh.Vec
	// Luminance at the three heights, and the share of all light that comes from above.
	lz, lh, lg, above float32
}

func newEnvironment(e shot.Environment) environment {
	s := float32(e.Strength)
	v := environment{zenith: rgb(e.Zenith).Mul(s), horizon: rgb(e.Horizon).Mul(s), ground: rgb(e.Ground).Mul(s)}
	v.lz, v.lh, v.lg = luminance(v.zenith), luminance(v.horizon), luminance(v.ground)
	up, down := v.lh+v.lz, v.lh+v.lg
	if up+down > 0 {
		v.above = up / (up + down)
	}
	return v
}

// radiance returns what comes from a direction of unit length.
func (e *environment) radiance(d bvh.Vec) bvh.Vec {
	k := min(1, abs(d.Y))
	if d.Y >= 0 {
		return e.horizon.Mul(1 - k).Add(e.zenith.Mul(k))
	}
	return e.horizon.Mul(1 - k).Add(e.ground.Mul(k))
}

// power is the light through a unit sphere: the mean luminance times its surface.
func (e *environment) power() float32 { return pi * (2*e.lh + e.lz + e.lg) }

// sample draws a direction with a density proportional to luminance.
func (e *environment) sample(u, v float32) (bvh.Vec, float32) {
	far, sign := e.lz, float32(1)
	if u < e.above {
		u /= e.above
	} else {
		u = (u - e.above) / (1 - e.above)
		far, sign = e.lg, -1
	}
	// The height k has a density proportional to lh + k (far - lh): solve the quadratic.
	a, c := e.lh, far
	k := u
	if d := c - a; abs(d) > 1e-6*(a+c) {
		k = (sqrt(max(0, a*a+u*d*(a+c))) - a) / d
	}
	k = min(1, max(0, k))
	r := sqrt(max(0, 1-k*k))
	sin, cos := sincos(2 * pi * v)
	w := bvh.Vec{X: r * cos, Y: sign * k, Z: r * sin}
	return w, e.pdf(w)
}

func (e *environment) pdf(d bvh.Vec) float32 {
	total := e.power()
	if total <= 0 {
		return 0
	}
	return luminance(e.radiance(d)) / total
}

// softbox is a rectangle that shines from its front.
type softbox struct {
	centre, u, v, normal bvh.Vec // u and v are half edges
	area                 float32
	radiance             bvh.Vec
}

func newSoftbox(l *shot.LightSpec, world geom.Mat4) softbox {
	b := softbox{
		centre: vec(world.Column(3)), u: vec(world.Column(0).Mul(l.Width / 2)), v: vec(world.Column(1).Mul(l.Height / 2)),
		radiance: rgb(l.Color).Mul(float32(l.Strength)),
	}
	n := b.u.Cross(b.v)
	b.area = 4 * sqrt(n.Dot(n))
	b.normal = vec(world.Column(2).Mul(-1)).Unit()
	return b
}

func (b *softbox) power() float32 { return pi * b.area * luminance(b.radiance) }

// sample draws a point on the light as seen from p: the way to it, its distance, and the density by
// solid angle, 0 where p is behind it.
func (b *softbox) sample(p bvh.Vec, u, v float32) (d bvh.Vec, distance, pdf float32) {
	q := b.centre.Add(b.u.Mul(2*u - 1)).Add(b.v.Mul(2*v - 1))
	d = q.Sub(p)
	t2 := d.Dot(d)
	distance = sqrt(t2)
	d = d.Mul(1 / distance)
	cos := -d.Dot(b.normal)
	if cos <= 0 || b.area == 0 {
		return d, distance, 0
	}
	return d, distance, t2 / (cos * b.area)
}

// meet returns where a ray of unit direction meets the light's front, and the density of sampling
// that direction.
func (b *softbox) meet(o, d bvh.Vec) (t, pdf float32, ok bool) {
	cos := -d.Dot(b.normal)
	if cos <= 0 || b.area == 0 {
		return 0, 0, false
	}
	t = o.Sub(b.centre).Dot(b.normal) / cos
	if t <= 0 {
		return 0, 0, false
	}
	q := o.Add(d.Mul(t)).Sub(b.centre)
	if abs(q.Dot(b.u)) > b.u.Dot(b.u) || abs(q.Dot(b.v)) > b.v.Dot(b.v) {
		return 0, 0, false
	}
	return t, t * t / (cos * b.area), true
}

// lights are all that shine, with the chance of picking each.
type lights struct {
	sky    environment
	boxes  []softbox
	chance []float32 // of the boxes
	skyly  float32   // chance of picking the sky
}

// newLights gives each light a chance in proportion to what it sends through the object, a sphere
// of the given radius about a centre.
func newLights(s *shot.Shot, world []geom.Mat4, visible func(int) bool, centre geom.Vec3, radius float64) lights {
	l := lights{sky: newEnvironment(s.Environment)}
	var weights []float32
	total := l.sky.power() / 2
	l.skyly = total
	for i := range s.Parts {
		p := &s.Parts[i]
		if p.Kind != shot.Light || !visible(i) {
			continue
		}
		b := newSoftbox(p.Light, world[i])
		if b.area == 0 || luminance(b.radiance) == 0 {
			continue
		}
		away := math.Max(world[i].Column(3).Sub(centre).Len(), radius)
		w := luminance(b.radiance) * b.area / float32(away*away)
		l.boxes = append(l.boxes, b)
		weights = append(weights, w)
		total += w
	}
	if total > 0 {
		l.skyly /= total
		for _, w := range weights {
			l.chance = append(l.chance, w/total)
		}
	}
	return l
}

// lit is one sample of direct light.
type lit struct {
	direction bvh.Vec
	distance  float32
	radiance  bvh.Vec
	pdf       float32 // by solid angle, with the chance of the light; 0 for none
}

func (l *lights) sample(p bvh.Vec, pick, u, v float32) lit {
	if pick < l.skyly {
		d, pdf := l.sky.sample(u, v)
		return lit{d, math.MaxFloat32, l.sky.radiance(d), pdf * l.skyly}
	}
	pick -= l.skyly
	for i := range l.boxes {
		if pick < l.chance[i] || i == len(l.boxes)-1 {
			d, t, pdf := l.boxes[i].sample(p, u, v)
			return lit{d, t, l.boxes[i].radiance, pdf * l.chance[i]}
		}
		pick -= l.chance[i]
	}
	return lit{}
}
