package render

import (
	"math"

	"perigyre/core/geom"
	"perigyre/core/render/bvh"
	"perigyre/core/scene"
)

// environment is a sky whose radiance depends on height alone: linear in the sine of the elevation
// between ground, horizon and zenith.
type environment struct {
	zenith, horizon, ground bvh.Vec
	// Luminance at the three heights, and the share of all light that comes from above.
	lz, lh, lg, above float32

	picture  *panorama // in place of the gradient
	strength float32
	tipped   bool       // it is not upright in the room
	axes     [3]bvh.Vec // its own x, y and z in the room

	power float32 // light through a unit sphere: the mean luminance times its surface
}

func newEnvironment(e *scene.Sky, picture *panorama) environment {
	s := float32(e.Strength)
	if picture != nil {
		v := environment{picture: picture, strength: s, power: float32(picture.total) * s}
		v.turn(e.Rotation)
		return v
	}
	v := environment{zenith: rgb(e.Zenith).Mul(s), horizon: rgb(e.Horizon).Mul(s), ground: rgb(e.Ground).Mul(s)}
	v.lz, v.lh, v.lg = luminance(v.zenith), luminance(v.horizon), luminance(v.ground)
	v.power = pi * (2*v.lh + v.lz + v.lg)
	v.turn(e.Rotation)
	up, down := v.lh+v.lz, v.lh+v.lg
	if up+down > 0 {
		v.above = up / (up + down)
	}
	return v
}

// look returns what comes from a direction of unit length, and the density by solid angle of sampling it.
func (e *environment) look(d bvh.Vec) (radiance bvh.Vec, pdf float32) {
	if e.picture != nil {
		radiance, pdf = e.picture.look(e.own(d))
		return radiance.Mul(e.strength), pdf
	}
	if e.tipped {
		d = e.own(d)
	}
	k := min(1, abs(d.Y))
	if d.Y >= 0 {
		radiance = e.horizon.Mul(1 - k).Add(e.zenith.Mul(k))
	} else {
		radiance = e.horizon.Mul(1 - k).Add(e.ground.Mul(k))
	}
	if e.power > 0 {
		pdf = luminance(radiance) / e.power
	}
	return radiance, pdf
}

// turn takes the rotation from the surroundings' own frame to the room.
func (e *environment) turn(q geom.Quat) {
	if q == (geom.Quat{}) {
		q = geom.NoTurn
	}
	for k := range e.axes {
		axis := geom.Vec3{}
		axis[k] = 1
		e.axes[k] = vec(q.Rotate(axis))
	}
	e.tipped = e.axes[1] != bvh.Vec{Y: 1}
}

// own takes a direction from the room into the surroundings' own frame, and room back.
func (e *environment) own(d bvh.Vec) bvh.Vec {
	return bvh.Vec{X: e.axes[0].Dot(d), Y: e.axes[1].Dot(d), Z: e.axes[2].Dot(d)}
}

func (e *environment) room(d bvh.Vec) bvh.Vec {
	return e.axes[0].Mul(d.X).Add(e.axes[1].Mul(d.Y)).Add(e.axes[2].Mul(d.Z))
}

// sample draws a direction with a density proportional to luminance, and returns what comes from there and the density.
func (e *environment) sample(u, v float32) (d, radiance bvh.Vec, pdf float32) {
	if e.picture != nil {
		own := e.picture.sample(u, v)
		radiance, pdf = e.picture.look(own)
		return e.room(own), radiance.Mul(e.strength), pdf
	}
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
	cos, sin := circle(v)
	w := bvh.Vec{X: r * cos, Y: sign * k, Z: r * sin}
	if e.tipped {
		w = e.room(w)
	}
	radiance, pdf = e.look(w)
	return w, radiance, pdf
}

// lamp is a light with a shape.
type lamp interface {
	// sample draws a point on the light as seen from p: the way to it, its distance, its radiance and the
	// density by solid angle, 0 where p gets nothing.
	sample(p bvh.Vec, u, v float32) (direction bvh.Vec, distance float32, radiance bvh.Vec, pdf float32)
	// meet returns how far along a ray of unit direction it meets the light, what comes from there, and the density of sampling
	// that direction: 0 where it does not.
	meet(o, d bvh.Vec) (distance float32, radiance bvh.Vec, pdf float32)
	// through is about what the light sends through an object, a sphere about a centre.
	through(centre geom.Vec3, radius float64) float32
}

func newLamp(l *scene.Light, world geom.Mat4) lamp {
	switch l.Kind {
	case scene.Bulb, scene.Spot:
		return newBulb(l, world)
	case scene.Sun:
		return newSun(l, world)
	}
	b := newSoftbox(l, world)
	return &b
}

// softbox is a rectangle, or an ellipse, that shines from its front.
type softbox struct {
	centre, u, v, normal bvh.Vec // u and v are half edges or half axes
	across, along        bvh.Vec // u and v over the squares of their lengths
	round                bool
	area                 float32
	radiance             bvh.Vec
}

func newSoftbox(l *scene.Light, world geom.Mat4) softbox {
	b := softbox{
		centre: vec(world.Column(3)), u: vec(world.Column(0).Mul(l.Width / 2)), v: vec(world.Column(1).Mul(l.Height / 2)),
		radiance: rgb(l.Color).Mul(float32(l.Strength)),
	}
	around := float32(4)
	if l.Kind == scene.Round {
		b.u, b.v = vec(world.Column(0).Mul(l.Radius)), vec(world.Column(1).Mul(l.Radius))
		b.round, around = true, pi
	}
	n := b.u.Cross(b.v)
	b.area = around * sqrt(n.Dot(n))
	b.normal = vec(world.Column(2).Mul(-1)).Unit()
	b.across, b.along = b.u.Mul(1/b.u.Dot(b.u)), b.v.Mul(1/b.v.Dot(b.v))
	return b
}

func (b *softbox) through(centre geom.Vec3, radius float64) float32 {
	away := math.Max(float64(sqrt(b.centre.Sub(vec(centre)).Dot(b.centre.Sub(vec(centre))))), radius)
	return luminance(b.radiance) * b.area / float32(away*away)
}

func (b *softbox) sample(p bvh.Vec, u, v float32) (direction bvh.Vec, distance float32, radiance bvh.Vec, pdf float32) {
	u, v = 2*u-1, 2*v-1
	if b.round {
		u, v = inDisc(u, v)
	}
	q := b.centre.Add(b.u.Mul(u)).Add(b.v.Mul(v))
	d := q.Sub(p)
	t2 := d.Dot(d)
	distance = sqrt(t2)
	d = d.Mul(1 / distance)
	cos := -d.Dot(b.normal)
	if cos <= 0 || b.area == 0 {
		return direction, 0, radiance, 0
	}
	return d, distance, b.radiance, t2 / (cos * b.area)
}

func (b *softbox) meet(o, d bvh.Vec) (distance float32, radiance bvh.Vec, pdf float32) {
	cos := -d.Dot(b.normal)
	if cos <= 0 || b.area == 0 {
		return 0, bvh.Vec{}, 0
	}
	t := o.Sub(b.centre).Dot(b.normal) / cos
	if t <= 0 {
		return 0, bvh.Vec{}, 0
	}
	q := o.Add(d.Mul(t)).Sub(b.centre)
	x, y := q.Dot(b.across), q.Dot(b.along)
	if abs(x) > 1 || abs(y) > 1 || b.round && x*x+y*y > 1 {
		return 0, bvh.Vec{}, 0
	}
	return t, b.radiance, t * t / (cos * b.area)
}

// inDisc maps the square from -1 to 1 onto the unit disc, keeping areas and neighbours (Shirley and Chiu, "A Low
// Distortion Map Between Disk and Square", 1997).
func inDisc(x, y float32) (float32, float32) {
	if x == 0 && y == 0 {
		return 0, 0
	}
	r, angle := x, pi/4*(y/x)
	if abs(y) > abs(x) {
		r, angle = y, pi/2-pi/4*(x/y)
	}
	sin, cos := sincos(angle)
	return r * cos, r * sin
}

// lights are all that shine, with the chance of picking each.
type lights struct {
	sky    environment
	lamps  []lamp
	chance []float32 // of the lamps
	skyly  float32   // chance of picking the sky
	glow   *glow     // the last of the lamps, or nil
	glowly float32   // its chance
}

// newLights gives each light a chance in proportion to what it sends through the object, a sphere
// of the given radius about a centre.
func newLights(sc *scene.Scene, at func(*scene.Light) geom.Mat4, picture *panorama, shining *glow, centre geom.Vec3, radius float64) lights {
	l := lights{sky: newEnvironment(&sc.Sky, picture)}
	var weights []float32
	total := l.sky.power / 2
	l.skyly = total
	for i := range sc.Lights {
		b := newLamp(&sc.Lights[i], at(&sc.Lights[i]))
		w := b.through(centre, radius)
		if !(w > 0) {
			continue
		}
		l.lamps = append(l.lamps, b)
		weights = append(weights, w)
		total += w
	}
	if shining != nil { // small and near to what it lights: more than its share
		w := max(shining.through(centre, radius), 0.15*total)
		l.lamps, l.glow, weights = append(l.lamps, shining), shining, append(weights, w)
		total += w
		l.glowly = w / total
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
	glows     bool    // it is of a surface that shines by itself
}

// sample draws a light that is picked, and a place on it.
func (l *lights) sample(p bvh.Vec, pick, u, v float32, out *lit) {
	if pick < l.skyly {
		out.direction, out.radiance, out.pdf = l.sky.sample(u, v)
		out.distance, out.glows = math.MaxFloat32, false
		out.pdf *= l.skyly
		return
	}
	pick -= l.skyly
	for i, b := range l.lamps {
		if pick < l.chance[i] || i == len(l.lamps)-1 {
			out.direction, out.distance, out.radiance, out.pdf = b.sample(p, u, v)
			out.pdf *= l.chance[i]
			out.glows = l.glow != nil && i == len(l.lamps)-1
			return
		}
		pick -= l.chance[i]
	}
	*out = lit{}
}
