package render

import (
	"math"
	"math/rand/v2"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/pose"
	"perigyre/core/render/bvh"
	"perigyre/core/scene"
	"perigyre/core/shot"
)

// skied are things under a picture of surroundings.
type skied struct {
	things
	w, h int
	pix  []float32
}

func (s skied) Sky(string) (int, int, []float32, error) { return s.w, s.h, s.pix, nil }

func noisySky(w, h int) skied {
	rng := rand.New(rand.NewPCG(2, 8))
	s := skied{things{ball(0.5)}, w, h, make([]float32, 3*w*h)}
	for i := range w * h {
		v := float32(rng.Float64())
		if rng.IntN(60) == 0 {
			v *= 80 // small lamps
		}
		s.pix[3*i], s.pix[3*i+1], s.pix[3*i+2] = v, v, v
	}
	return s
}

// Directions are drawn as often as their density says, and the density is one over the whole sphere.
func TestPanoramaSampling(t *testing.T) {
	s := noisySky(64, 32)
	p := newPanorama(s.w, s.h, s.pix)
	e := newEnvironment(&scene.Sky{Strength: 1, Rotation: geom.AxisAngle(geom.Vec3{1, 2, 3}, 0.7)}, p)
	rng := rand.New(rand.NewPCG(1, 3))
	const n = 400_000
	whole, light, drawn := 0.0, 0.0, 0.0
	for range n {
		h := 2*rng.Float64() - 1
		a := 2 * math.Pi * rng.Float64()
		r := math.Sqrt(1 - h*h)
		d := bvh.Vec{X: float32(r * math.Cos(a)), Y: float32(h), Z: float32(r * math.Sin(a))}
		radiance, density := e.look(d)
		whole += float64(density) * 4 * math.Pi / n
		light += float64(radiance.Y) * 4 * math.Pi / n
		w, seen, pdf := e.sample(rng.Float32(), rng.Float32())
		if _, q := e.look(w); math.Abs(float64(q/pdf-1)) > 0.2 && pdf > 0 && q < pdf/100 {
			t.Fatalf("a direction that was drawn with the density %g has %g", pdf, q)
		}
		drawn += float64(seen.Y/pdf) / n
	}
	if math.Abs(whole-1) > 0.02 {
		t.Errorf("the density is %.4f over the sphere", whole)
	}
	if math.Abs(drawn/light-1) > 0.02 {
		t.Errorf("drawn by its light the picture gives %.4f, evenly %.4f", drawn, light)
	}
}

// A picture of one colour is the white furnace; turned, the light comes from elsewhere.
func TestPanoramaLights(t *testing.T) {
	hash := string(make([]byte, 64))
	s := still(material.Material{Name: "white", BaseColor: [4]float64{1, 1, 1, 1}, Roughness: 1}, 1)
	s.Environment = shot.Environment{Strength: 1, Picture: hash}
	even := skied{things{ball(0.5)}, 16, 8, make([]float32, 3*16*8)}
	for i := range even.pix {
		even.pix[i] = 1
	}
	f := picture32(t, s, even, Exact, 0)
	if v := f.Pix[4*(16*32+16)]; math.Abs(float64(v)-1) > 0.01 {
		t.Errorf("in an even white picture a white ball is %g", v)
	}
	lamp := skied{things{ball(0.5)}, 64, 32, make([]float32, 3*64*32)}
	for y := 12; y < 20; y++ {
		for x := 28; x < 36; x++ { // in the middle: along x
			for k := range 3 {
				lamp.pix[3*(y*64+x)+k] = 20
			}
		}
	}
	side := func(turn float64) (right float64) {
		s.Environment.Turn = turn
		sc, err := drawn(pose.New(s), 0, NewProps(lamp))
		if err != nil {
			t.Fatal(err)
		}
		w := new(bvh.Walker)
		for k := range uint32(4000) {
			g := newSampler(3, k, w)
			p := bvh.Vec{X: 0.5}
			u, v := g.next2()
			var l lit
			sc.lights.sample(p, 0, u, v, &l)
			right += float64(l.direction.X) / 4000
		}
		return right
	}
	if a, b := side(0), side(math.Pi); a < 0.9 || b > -0.9 {
		t.Errorf("the lamp lies at x = %.2f, turned by half a turn at %.2f", a, b)
	}
}
