package render

import (
	"math"

	"perigyre/core/geom"
	"perigyre/core/render/bvh"
	"perigyre/core/scene"
)

// bulb is a sphere that shines, all round or in a cone.
type bulb struct {
	centre   bvh.Vec
	radius   float32
	radiance bvh.Vec
	axis     bvh.Vec // of a spot's cone
	cone     bool
	// A spot's light is ((cos - offset) * scale)^2 of the whole, clamped to 0 and 1, as KHR_lights_punctual
	// recommends.
	scale, offset float32
}

func newBulb(l *scene.Light, world geom.Mat4) *bulb {
	size := math.Cbrt(math.Abs(world.Det()))
	b := &bulb{centre: vec(world.Column(3)), radius: float32(l.Radius * size), radiance: rgb(l.Color).Mul(float32(l.Strength))}
	if l.Kind == scene.Spot {
		b.cone, b.axis = true, vec(world.Column(2).Mul(-1)).Unit()
		in, out := math.Cos(l.Inner), math.Cos(l.Outer)
		b.scale, b.offset = float32(1/math.Max(1e-3, in-out)), float32(out)
	}
	return b
}

// share returns how much of a spot's light goes along d.
func (b *bulb) share(d bvh.Vec) float32 {
	if !b.cone {
		return 1
	}
	k := min(1, max(0, (d.Dot(b.axis)-b.offset)*b.scale))
	return k * k
}

func (b *bulb) through(centre geom.Vec3, radius float64) float32 {
	to := vec(centre).Sub(b.centre)
	away := max(sqrt(to.Dot(to)), float32(radius))
	w := luminance(b.radiance) * pi * b.radius * b.radius / (away * away)
	if b.cone { // part of the object may be in the cone though its middle is not
		w *= 0.1 + 0.9*b.share(to.Unit())
	}
	return w
}

// sample draws a direction within the cone that the sphere fills, evenly by solid angle (Shirley, Wang and
// Zimmerman 1996).
func (b *bulb) sample(p bvh.Vec, u, v float32) (direction bvh.Vec, distance float32, radiance bvh.Vec, pdf float32) {
	to := b.centre.Sub(p)
	away2 := to.Dot(to)
	sin2 := b.radius * b.radius / away2
	if sin2 >= 1 {
		return direction, 0, radiance, 0
	}
	whole := sin2 / (1 + sqrt(1-sin2)) // 1 - cos, without its cancellation
	direction = inCone(to.Mul(1/sqrt(away2)), whole, u, v)
	distance, radiance, pdf = b.meet(p, direction)
	if pdf == 0 { // the rim, lost to rounding: the direction still counts
		distance, radiance, pdf = sqrt(away2), b.radiance.Mul(b.share(direction.Mul(-1))), 1/(2*pi*whole)
	}
	return direction, distance, radiance, pdf
}

func (b *bulb) meet(o, d bvh.Vec) (distance float32, radiance bvh.Vec, pdf float32) {
	to := b.centre.Sub(o)
	away2 := to.Dot(to)
	sin2 := b.radius * b.radius / away2
	t := to.Dot(d)
	if sin2 >= 1 || t <= 0 {
		return 0, bvh.Vec{}, 0
	}
	side := to.Sub(d.Mul(t)) // from the ray to the centre
	h2 := b.radius*b.radius - side.Dot(side)
	if h2 < 0 {
		return 0, bvh.Vec{}, 0
	}
	whole := sin2 / (1 + sqrt(1-sin2))
	return t - sqrt(h2), b.radiance.Mul(b.share(d.Mul(-1))), 1 / (2 * pi * whole)
}

// inCone returns a direction about an axis, evenly by solid angle: whole is 1 less the cosine of the
// cone's half angle.
func inCone(axis bvh.Vec, whole, u, v float32) bvh.Vec {
	k := u * whole
	r := sqrt(max(0, k*(2-k)))
	cos, sin := circle(v)
	var f frame
	f.about(axis)
	return f.room(bvh.Vec{X: r * cos, Y: r * sin, Z: 1 - k})
}

// sun is a disc of light infinitely far away.
type sun struct {
	toward   bvh.Vec
	whole    float32 // 1 less the cosine of its half angle
	radiance bvh.Vec
}

func newSun(l *scene.Light, world geom.Mat4) *sun {
	half := math.Sin(l.Angle / 4)
	return &sun{vec(world.Column(2)).Unit(), float32(2 * half * half), rgb(l.Color).Mul(float32(l.Strength))}
}

func (s *sun) through(geom.Vec3, float64) float32 {
	return luminance(s.radiance) * 2 * pi * s.whole
}

func (s *sun) sample(_ bvh.Vec, u, v float32) (direction bvh.Vec, distance float32, radiance bvh.Vec, pdf float32) {
	return inCone(s.toward, s.whole, u, v), math.MaxFloat32, s.radiance, 1 / (2 * pi * s.whole)
}

func (s *sun) meet(_, d bvh.Vec) (distance float32, radiance bvh.Vec, pdf float32) {
	if s.whole < 1e-4 { // the cosine is too near to 1 to be told from it
		if c := d.Cross(s.toward); d.Dot(s.toward) <= 0 || c.Dot(c) > 2*s.whole-s.whole*s.whole {
			return 0, bvh.Vec{}, 0
		}
	} else if 1-d.Dot(s.toward) > s.whole {
		return 0, bvh.Vec{}, 0
	}
	return math.MaxFloat32, s.radiance, 1 / (2 * pi * s.whole)
}
