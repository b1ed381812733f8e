package render

import (
	"math"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// The mean of many renders of one sample each, drawn independently, is the picture of many samples within the error
// that the many have by themselves: under every kind of light, off a surface that scatters and shines, with another
// that throws light back onto it. What picks lights, places on them or lobes in other shares than it says would shift
// the one of few samples and the one of many alike, so both are held against a third: lights taken one at a time, of
// which the picture with all is the sum.
func TestManySmallRendersAreOneLarge(t *testing.T) {
	m := material.Default()
	m.BaseColor, m.Roughness, m.Metallic = [4]float64{0.7, 0.5, 0.3, 1}, 0.4, 0.2
	down := geom.LookAlong(geom.Vec3{-1, -2, -1})
	light := func(id string, at geom.Vec3, l shot.LightSpec) shot.Part {
		l.Color = [3]float64{1, 1, 1}
		return shot.Part{ID: id, Name: id, Kind: shot.Light, Rest: shot.Rest{Position: at, Rotation: down, Size: geom.Vec3{1, 1, 1}}, Light: &l}
	}
	all := []shot.Part{
		light("softbox", geom.Vec3{1, 2, 1}, shot.LightSpec{Width: 1, Height: 0.5, Strength: 4}),
		light("disc", geom.Vec3{1.5, 2, 0}, shot.LightSpec{Kind: shot.Round, Radius: 0.4, Strength: 4}),
		light("bulb", geom.Vec3{-1, 2, 1}, shot.LightSpec{Kind: shot.Bulb, Radius: 0.1, Strength: 30}),
		light("sun", geom.Vec3{}, shot.LightSpec{Kind: shot.Sun, Angle: 0.1, Strength: 60}),
		light("spot", geom.Vec3{1, 2, 1}, shot.LightSpec{Kind: shot.Spot, Radius: 0.05, Inner: 0.3, Outer: 0.6, Strength: 100}),
	}
	// mean returns the mean luminance of the picture and how far chance may put it off.
	mean := func(lights []shot.Part, sky float64, side int, o Options) (v, off float64) {
		s := still(m, sky)
		s.Format = shot.Format{Width: side, Height: side}
		s.Parts = append(s.Parts, lights...)
		s.Parts = append(s.Parts, shot.Part{ID: "ball", Name: "Ball", Kind: shot.Solid, Rest: shot.AtRest, Mesh: &shot.MeshRef{Mesh: 1}, Materials: []string{"m"}})
		o.Quality = Exact
		f := expose(t, s, things{sheet(20), ball(0.3)}, 0, o)
		sum, squares, n := 0.0, 0.0, float64(side*side)
		for i := 0; i < len(f.Pix); i += 4 {
			l := 0.2126*float64(f.Pix[i]) + 0.7152*float64(f.Pix[i+1]) + 0.0722*float64(f.Pix[i+2])
			sum, squares = sum+l, squares+l*l
		}
		return sum / n, math.Sqrt((squares/n - sum*sum/n/n) / n)
	}
	many, off := mean(all, 0.3, 128, Options{Samples: 1, Random: true})
	large, _ := mean(all, 0.3, 16, Options{Samples: 1024})
	if math.Abs(many-large) > 4*off {
		t.Errorf("many small pictures have a mean light of %.4f, one large has %.4f; chance would put it off by %.4f", many, large, off)
	}
	sum, _ := mean(nil, 0.3, 16, Options{Samples: 1024})
	for i := range all {
		one, _ := mean(all[i:i+1], 0, 16, Options{Samples: 1024})
		sum += one
	}
	if math.Abs(sum-large) > 0.01*large {
		t.Errorf("the lights one at a time give %.4f, all together %.4f", sum, large)
	}
}

// What glows behind rough glass, thin or solid, is as bright where it is sampled as where it is found by chance alone, and far less
// noisy. Chance alone is the plain definition: directions are drawn as the glass scatters them, and count for what they meet.
func TestGlowBehindRoughGlass(t *testing.T) {
	for name, solid := range map[string]bool{"thin": false, "solid": true} {
		glass := material.Default()
		glass.BaseColor, glass.Roughness, glass.Transmission = [4]float64{0.9, 0.9, 0.9, 1}, 0.35, 1
		if solid {
			glass.Thickness = 1
		}
		s := still(glass, 0)
		lamp := material.Default()
		lamp.ID, lamp.Emissive = "lamp", [3]float64{20, 20, 20}
		s.Materials = append(s.Materials, lamp)
		s.Parts = append(s.Parts, shot.Part{ID: "l", Name: "Lamp", Kind: shot.Solid, Rest: shot.AtRest, Mesh: &shot.MeshRef{Mesh: 1}, Materials: []string{"lamp"}})
		s.Format = shot.Format{Width: 24, Height: 24}
		mean := func(chance bool, samples int) (v, noise float64) {
			sc, err := drawn(pose.New(s), 0, NewProps(things{ball(0.5), ball(0.06)}))
			if err != nil {
				t.Fatal(err)
			}
			if sc.lights.glow == nil {
				t.Fatal("nothing glows")
			}
			if chance {
				sc.lights = lights{}
				for i := range sc.pieces {
					sc.pieces[i].glows = false
				}
			}
			f, err := sc.Expose(t.Context(), 24, 24, Options{Quality: Proof, Samples: samples})
			if err != nil {
				t.Fatal(err)
			}
			for i := 0; i < len(f.Pix); i += 4 {
				v, noise = v+float64(f.Pix[i]), noise+float64(f.Pix[i])*float64(f.Pix[i])
			}
			return v / 576, noise / 576
		}
		long, _ := mean(true, 2048)
		short, sharp := mean(false, 512)
		if math.Abs(short-long) > 0.02*long {
			t.Errorf("%s: sampled it is %.5f bright, by chance %.5f", name, short, long)
		}
		_, few := mean(false, 16)
		_, lucky := mean(true, 16)
		if few-sharp > (lucky-sharp)/3 {
			t.Errorf("%s: the noise is %.3g, by chance %.3g", name, few-sharp, lucky-sharp)
		}
	}
}

// A path that splits at rough glass brings the same light, the same alpha and the same floor as one that goes on in one direction,
// with less noise. Behind the glass are a mirror, the floor with its shadow, and nothing.
func TestSplittingBringsTheSame(t *testing.T) {
	glass := material.Default()
	glass.BaseColor, glass.Roughness, glass.Transmission = [4]float64{0.9, 0.9, 0.9, 1}, 0.3, 0.8
	s := still(glass, 0.3)
	mirror := material.Default()
	mirror.ID, mirror.Roughness, mirror.Metallic = "mirror", 0.2, 1
	s.Materials = append(s.Materials, mirror)
	s.Parts = append(s.Parts,
		shot.Part{ID: "b", Name: "Mirror", Kind: shot.Solid, Rest: shot.AtRest, Mesh: &shot.MeshRef{Mesh: 1}, Materials: []string{"mirror"}},
		shot.Part{ID: "f", Name: "Floor", Kind: shot.Floor, Rest: shot.Rest{Position: geom.Vec3{0, -0.4, 0}, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}}},
		shot.Part{ID: "l", Name: "Softbox", Kind: shot.Light, Rest: shot.Rest{Position: geom.Vec3{1, 2, 1}, Rotation: geom.LookAlong(geom.Vec3{-1, -2, -1}), Size: geom.Vec3{1, 1, 1}},
			Light: &shot.LightSpec{Width: 0.3, Height: 0.3, Color: [3]float64{1, 1, 1}, Strength: 30}})
	const side = 16
	sc, err := drawn(pose.New(s), 0, NewProps(things{ball(0.4), ball(0.2)}))
	if err != nil {
		t.Fatal(err)
	}
	shoot := func(split, samples int) *canvas {
		q := qualities[Proof]
		q.split, q.random, q.shadowRays = split, true, 4
		c := sc.gather(side, side, &q)
		if err := c.pass(t.Context(), 1, even(samples), nil); err != nil {
			t.Fatal(err)
		}
		return c
	}
	one, four := shoot(1, 2048), shoot(4, 1024)
	sum := func(c *canvas, of func(*gathered) float32) (v float64) {
		for i := range c.pixels {
			v += float64(of(&c.pixels[i])) / float64(c.pixels[i].n)
		}
		return v
	}
	for name, of := range map[string]func(*gathered) float32{
		"light":              func(p *gathered) float32 { return luminance(p.light) },
		"alpha":              func(p *gathered) float32 { return p.alpha },
		"floor":              func(p *gathered) float32 { return p.floors },
		"light on the floor": func(p *gathered) float32 { return p.unshaded },
		"what is left of it": func(p *gathered) float32 { return p.shaded },
	} {
		if a, b := sum(one, of), sum(four, of); a == 0 || math.Abs(a-b) > 0.01*a {
			t.Errorf("%s: %.4f in four ways, %.4f in one", name, b, a)
		}
	}
	variance := func(p *gathered) float32 { return p.squares.X - p.light.X*p.light.X/float32(p.n) }
	if a, b := sum(one, variance), sum(four, variance); b > 0.6*a { // what surfaces seen at edges and lights picked bring stays
		t.Errorf("the variance is %.4f in four ways, %.4f in one", b, a)
	}
}
