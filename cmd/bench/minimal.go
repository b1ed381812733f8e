package main

import (
	"math"
	"runtime"
	"sync"
	"sync/atomic"

	"perigyre/core/mesh"
	"perigyre/core/render/bvh"
)

// minimal is bench/paths.cpp on our kernel: the same path tracer, line by line, so that what the renderer takes outside the kernel and what
// the kernel takes are told apart.
type minimal struct{ tree *bvh.Scene }

// newMinimal makes one of a mesh that stands where it is.
func newMinimal(m *mesh.Mesh) *minimal {
	x, y, z := bvh.Vec{X: 1}, bvh.Vec{Y: 1}, bvh.Vec{Z: 1}
	stays := bvh.Matrix{X: x, Y: y, Z: z}
	return &minimal{bvh.NewScene([]bvh.Instance{{Mesh: bvh.NewMesh(m.Positions, m.Indices), ToRoom: stays, ToMesh: stays, Visible: 1}})}
}

// pcg is PCG32, as there.
type pcg struct{ s uint64 }

func (g *pcg) next() float32 {
	o := g.s
	g.s = o*6364136223846793005 + 1442695040888963407
	x, r := uint32((o>>18^o)>>27), uint32(o>>59)
	return float32((x>>r|x<<(-r&31))>>8) * (1.0 / (1 << 24))
}

const (
	plainAlbedo, plainSky                 = 0.8, 0.8
	boxHalf, boxStrength, boxArea         = 0.4, 8, 4 * boxHalf * boxHalf
	boxX, boxY, boxZ              float32 = 0.6, 1.5, 0.3
)

func root(v float32) float32 { return float32(math.Sqrt(float64(v))) }

func power(a, b float32) float32 { r := b / a; return 1 / (1 + r*r) }

func round(turn float32) (cos, sin float32) {
	s, c := math.Sincos(2 * math.Pi * float64(turn))
	return float32(c), float32(s)
}

func (k *minimal) path(o, d bvh.Vec, g *pcg, w *bvh.Walker) float32 {
	var light, density float32
	through := float32(1)
	for bounce := 0; ; bounce++ {
		var h bvh.Hit
		met := k.tree.Intersect(&bvh.Ray{Origin: o, Direction: d, Far: math.MaxFloat32, Mask: 1}, w, &h)
		if bounce > 0 {
			if !met {
				light += through * plainSky * power(density, 0.5/(4*math.Pi))
			}
			if d.Y > 0 {
				t := (boxY - o.Y) / d.Y
				x, z := o.X+d.X*t-boxX, o.Z+d.Z*t-boxZ
				if t > 0 && x <= boxHalf && x >= -boxHalf && z <= boxHalf && z >= -boxHalf && (!met || t < h.T) {
					light += through * boxStrength * power(density, 0.5*t*t/(d.Y*boxArea))
				}
			}
		}
		if !met || bounce > 4 {
			return light
		}
		a, b, c := k.tree.Instances[0].Corners(&h, 0)
		n := b.Sub(a).Cross(c.Sub(a)).Unit()
		if n.Dot(d) > 0 {
			n = n.Mul(-1)
		}
		p := o.Add(d.Mul(h.T)).Add(n.Mul(2e-5))
		u, v := g.next(), g.next()
		var wi bvh.Vec
		var pdf, l float32
		far := float32(math.MaxFloat32)
		if g.next() < 0.5 {
			z := 1 - 2*u
			r := root(max(0, 1-z*z))
			cos, sin := round(v)
			wi, pdf, l = bvh.Vec{X: r * cos, Y: z, Z: r * sin}, 0.5/(4*math.Pi), plainSky
		} else {
			q := bvh.Vec{X: boxX + boxHalf*(2*u-1), Y: boxY, Z: boxZ + boxHalf*(2*v-1)}.Sub(p)
			far = root(q.Dot(q))
			if wi, l = q.Mul(1/far), boxStrength; wi.Y > 0 {
				pdf = 0.5 * far * far / (wi.Y * boxArea)
			}
			far *= 1 - 1e-5
		}
		if cos := wi.Dot(n); pdf > 0 && cos > 0 && !k.tree.Occluded(&bvh.Ray{Origin: p, Direction: wi, Far: far, Mask: 1}, w) {
			light += through * l * plainAlbedo * cos / math.Pi / pdf * power(pdf, cos/math.Pi)
		}
		s := float32(math.Copysign(1, float64(n.Z)))
		e := -1 / (s + n.Z)
		f := n.X * n.Y * e
		x, y := bvh.Vec{X: 1 + s*n.X*n.X*e, Y: s * f, Z: -s * n.X}, bvh.Vec{X: f, Y: s + n.Y*n.Y*e, Z: -n.Y}
		u = g.next()
		cos, sin := round(g.next())
		r, z := root(u), root(max(0, 1-u))
		d = x.Mul(r * cos).Add(y.Mul(r * sin)).Add(n.Mul(z))
		o, density = p, z/math.Pi
		through *= plainAlbedo
		if bounce >= 2 {
			keep := min(0.95, through)
			if g.next() >= keep {
				return light
			}
			through /= keep
		}
	}
}

// picture renders it and returns the mean light.
func (k *minimal) picture(side, samples int) float64 {
	film := make([]float32, side*side)
	var next atomic.Int64
	tiles := (side + 15) / 16
	slant := float32(math.Sqrt(0.5))
	eye, ahead := bvh.Vec{Y: 1, Z: 1}, bvh.Vec{Y: -slant, Z: -slant}
	right, up := bvh.Vec{X: 0.36}, bvh.Vec{Y: 0.36 * slant, Z: -0.36 * slant}
	var all sync.WaitGroup
	for range runtime.GOMAXPROCS(0) {
		all.Go(func() {
			w := new(bvh.Walker)
			for i := int(next.Add(1)) - 1; i < tiles*tiles; i = int(next.Add(1)) - 1 {
				for y := i / tiles * 16; y < min(side, i/tiles*16+16); y++ {
					for x := i % tiles * 16; x < min(side, i%tiles*16+16); x++ {
						sum := float32(0)
						for s := range samples {
							g := pcg{uint64(y*side+x)*9781 + uint64(s)*6271 + 1}
							g.next()
							a := 2*(float32(x)+g.next())/float32(side) - 1
							b := 1 - 2*(float32(y)+g.next())/float32(side)
							sum += k.path(eye, ahead.Add(right.Mul(a)).Add(up.Mul(b)).Unit(), &g, w)
						}
						film[y*side+x] = sum / float32(samples)
					}
				}
			}
		})
	}
	all.Wait()
	mean := 0.0
	for _, v := range film {
		mean += float64(v)
	}
	return mean / float64(len(film))
}
