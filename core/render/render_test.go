package render

import (
	"context"
	"fmt"
	"image"
	"math"
	"slices"
	"sync/atomic"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/core/pose"
	"perigyre/core/render/bvh"
	"perigyre/core/scene"
	"perigyre/core/shot"
)

// things are meshes by number.
type things []*mesh.Mesh

func (s things) Primitives(_ string, r int) ([]model.Primitive, error) {
	return []model.Primitive{{Mesh: s[r], Material: 0}}, nil
}
func (s things) Picture(string, int) (image.Image, error) { return nil, nil }

// drawn makes a moment ready to be rendered.
func drawn(e *pose.Evaluator, t float64, p *Props, passes ...Pass) (*Scene, error) {
	has := func(pass Pass) bool { return slices.Contains(passes, pass) }
	s, err := scene.Resolve(e, t, nil, scene.Options{Symmetry: p, Motion: has(Motion), Mattes: has(Matte) || has(PartMattes)})
	if err != nil {
		return nil, err
	}
	return NewScene(s, p)
}

func ball(radius float64) *mesh.Mesh {
	var profile []geom.Vec2
	for i := range 65 {
		sin, cos := math.Sincos(math.Pi * float64(i) / 64)
		profile = append(profile, geom.Vec2{radius * sin, -radius * cos})
	}
	profile[0][0], profile[64][0] = 0, 0
	return mesh.Lathe(profile, 128, mesh.DefaultCrease)
}

func sheet(size float64) *mesh.Mesh {
	h := float32(size / 2)
	m := &mesh.Mesh{Positions: [][3]float32{{-h, 0, -h}, {-h, 0, h}, {h, 0, h}, {h, 0, -h}}, Indices: []uint32{0, 1, 2, 0, 2, 3}}
	m.MakeNormals(mesh.DefaultCrease)
	return m
}

// still returns a shot of one thing seen from the front, from the height of 2 looking down by 45
// degrees, with a uniform sky.
func still(m material.Material, sky float64) *shot.Shot {
	s := shot.New("t")
	m.ID = "m"
	s.Materials = []material.Material{m}
	s.Environment = shot.Environment{Zenith: [3]float64{1, 1, 1}, Horizon: [3]float64{1, 1, 1}, Ground: [3]float64{1, 1, 1}, Strength: sky}
	s.Parts = []shot.Part{
		{ID: "thing", Name: "Thing", Kind: shot.Solid, Rest: shot.AtRest, Mesh: &shot.MeshRef{}, Materials: []string{"m"}},
		{ID: "cam", Name: "Camera", Kind: shot.Camera, Camera: &shot.Lens{Focal: 50, SensorWidth: 36, SensorHeight: 24, Sensor: shot.FitLonger},
			Rest: shot.Rest{Position: geom.Vec3{0, 2, 2}, Rotation: geom.LookAlong(geom.Vec3{0, -1, -1}), Size: geom.Vec3{1, 1, 1}}},
	}
	s.Camera = "cam"
	return s
}

func picture32(t *testing.T, s *shot.Shot, a Assets, q Quality, threads int) *Film {
	t.Helper()
	if err := s.Validate(); err != nil {
		t.Fatal(err)
	}
	sc, err := drawn(pose.New(s), 0, NewProps(a))
	if err != nil {
		t.Fatal(err)
	}
	f, err := sc.Render(context.Background(), 32, 32, q, threads, nil)
	if err != nil {
		t.Fatal(err)
	}
	return f
}

// White furnace: under a uniform sky of 1 a surface that loses no light cannot be told from the sky, whatever it is
// made of: laid over white, every pixel is white. Where layers or lobes take from each other what they
// do not give back, or glass loses light between its faces, it shows here.
func TestWhiteFurnace(t *testing.T) {
	white := func(change func(m *material.Material)) material.Material {
		m := material.Default()
		m.BaseColor = [4]float64{1, 1, 1, 1}
		change(&m)
		return m
	}
	sheer, half := &[3]float64{1, 1, 1}, 0.5
	list := map[string]material.Material{}
	for _, rough := range []float64{0.05, 0.3, 0.6, 1} {
		for what, change := range map[string]func(m *material.Material){
			"dielectric":    func(m *material.Material) {},
			"half specular": func(m *material.Material) { m.Specular = &half },
			"half metal":    func(m *material.Material) { m.Metallic = 0.5 },
			"metal":         func(m *material.Material) { m.Metallic = 1 },
			"coated":        func(m *material.Material) { m.Metallic, m.Clearcoat, m.ClearcoatRoughness = 1, 1, 0.3 },
			"cloth":         func(m *material.Material) { m.SheenColor, m.SheenRoughness = sheer, 0.5 },
			"thin glass":    func(m *material.Material) { m.Transmission = 1 },
			"half glass":    func(m *material.Material) { m.Transmission, m.Metallic, m.Clearcoat = 0.5, 0.3, 0.7 },
			"solid glass":   func(m *material.Material) { m.Transmission, m.Thickness, m.IOR = 1, 1, 1.7 },
		} {
			list[fmt.Sprintf("%s, roughness %g", what, rough)] = white(func(m *material.Material) { m.Roughness = rough; change(m) })
		}
	}
	for what, m := range list {
		for _, quality := range []Quality{Final, Exact} {
			if quality == Exact && m.Transmission == 0 {
				continue // it has nothing to add
			}
			s := still(m, 1)
			s.Format = shot.Format{Width: 12, Height: 12}
			f := expose(t, s, things{ball(0.5)}, 0, Options{Quality: quality})
			sum, n := 0.0, 0
			for i := 0; i < len(f.Pix); i += 4 {
				sum += float64(f.Pix[i+1]+1-f.Pix[i+3]) - 1
				n++
			}
			most := 0.002 // the ball covers a fifth: 1 % of it
			if m.Transmission > 0 {
				most = 0.005 // light that goes about inside loses what smooth normals and flat triangles disagree on
			}
			if mean := sum / float64(n); math.Abs(mean) > most {
				t.Errorf("%s, %s: over white the picture is off by %.4f", what, quality, mean)
			}
		}
	}
}

// Howell, A Catalog of Radiation Heat Transfer Configuration Factors, C-11 (from memory): from a
// small plane to a parallel rectangle a x b at distance c, one corner straight above it.
func cornerFactor(a, b, c float64) float64 {
	x, y := a/c, b/c
	return (x/math.Sqrt(1+x*x)*math.Atan(y/math.Sqrt(1+x*x)) + y/math.Sqrt(1+y*y)*math.Atan(x/math.Sqrt(1+y*y))) / (2 * math.Pi)
}

func TestSoftboxAgainstViewFactor(t *testing.T) {
	l := &scene.Light{Width: 2, Height: 3, Color: [3]float64{1, 1, 1}, Strength: 5}
	box := newSoftbox(l, geom.TRS(geom.Vec3{0, 1.5, 0}, geom.LookAlong(geom.Vec3{0, -1, 0}), geom.Vec3{1, 1, 1}))
	sum := 0.0
	const n = 1 << 14
	for k := range uint32(n) {
		g := newSampler(1, k, new(bvh.Walker))
		u, v := g.next2()
		d, _, _, pdf := box.sample(bvh.Vec{}, u, v)
		if pdf > 0 {
			sum += 5 * float64(d.Y/pdf)
			if _, _, back := box.meet(bvh.Vec{}, d); back == 0 || abs(back/pdf-1) > 1e-3 {
				t.Fatalf("the density towards %v is %g when sampled and %g when met", d, pdf, back)
			}
		}
	}
	want := 5 * math.Pi * 4 * cornerFactor(1, 1.5, 1.5)
	if got := sum / n; math.Abs(got-want) > 2e-3*want {
		t.Errorf("irradiance %g, view factor says %g", got, want)
	}
}

// The sky's samples bring back the integral of its radiance: the mean of a linear ramp, 4 pi times.
func TestSkySampling(t *testing.T) {
	for _, turn := range []geom.Quat{geom.NoTurn, geom.AxisAngle(geom.Vec3{1, 0, 2}, 1.1)} { // tipped over it is as bright
		skySampling(t, newEnvironment(&scene.Sky{Zenith: [3]float64{1, 2, 3}, Horizon: [3]float64{0.5, 0.5, 0.2}, Ground: [3]float64{0, 0.1, 0}, Strength: 2, Rotation: turn}, nil))
	}
}

func skySampling(t *testing.T, e environment) {
	var sum bvh.Vec
	const n = 1 << 14
	for k := range uint32(n) {
		g := newSampler(2, k, new(bvh.Walker))
		u, v := g.next2()
		_, radiance, pdf := e.sample(u, v)
		sum = sum.Add(radiance.Mul(1 / pdf / n))
	}
	for i, want := range []float64{2 * math.Pi * 2 * (0.5 + 0.5), 2 * math.Pi * 2 * (0.5 + 1 + 0.05), 2 * math.Pi * 2 * (0.2 + 1.5)} {
		if got := float64([]float32{sum.X, sum.Y, sum.Z}[i]); math.Abs(got-want) > 5e-3*want {
			t.Errorf("component %d: %g, want %g", i, got, want)
		}
	}
}

// A plane under a light, where paths and direct samples share it: the picture against the integral over
// the light's surface by a fine grid.
func TestPlaneUnderLightsAgainstQuadrature(t *testing.T) {
	for _, c := range []struct {
		rough float64
		light shot.LightSpec
	}{
		{0.2, shot.LightSpec{Width: 1.4, Height: 0.8, Strength: 3}},
		{0.5, shot.LightSpec{Width: 1.4, Height: 0.8, Strength: 3}},
		{0.9, shot.LightSpec{Width: 1.4, Height: 0.8, Strength: 3}},
		{0.3, shot.LightSpec{Kind: shot.Round, Radius: 0.5, Strength: 3}},
		{0.3, shot.LightSpec{Kind: shot.Bulb, Radius: 0.4, Strength: 3}},
		{0.5, shot.LightSpec{Kind: shot.Spot, Radius: 0.1, Inner: 0.1, Outer: 0.6, Strength: 40}},
		{0.4, shot.LightSpec{Kind: shot.Sun, Angle: 0.4, Strength: 3}},
	} {
		rough, light := c.rough, c.light
		light.Color = [3]float64{1, 1, 1}
		m := material.Default()
		m.Metallic, m.Roughness = 0.5, rough
		s := still(m, 0)
		s.Parts = append(s.Parts, shot.Part{ID: "l", Name: "L", Kind: shot.Light,
			Rest:  shot.Rest{Position: geom.Vec3{0.2, 1, -1}, Rotation: geom.LookAlong(geom.Vec3{0, -1, 1}), Size: geom.Vec3{1, 1, 1}},
			Light: &light})
		sheets := things{sheet(0.5)}
		sc, err := drawn(pose.New(s), 0, NewProps(sheets))
		if err != nil {
			t.Fatal(err)
		}
		q := settings{samples: 1} // direct light alone brings all of it, as in drafts
		sum := 0.0
		const n = 1 << 15
		for k := range uint32(n) {
			g := newSampler(5, k, new(bvh.Walker))
			o, d := sc.camera.ray(0.5, 0.5, &g)
			var one sample
			sc.trace(o, d, new(shading), &g, &q, &one)
			sum += float64(one.light.Y) / n
		}
		surf := surface{base: bvh.Vec{X: 0.8, Y: 0.8, Z: 0.8}, metallic: 0.5, dielectric: bvh.Vec{X: 0.04, Y: 0.04, Z: 0.04}, alpha: widthOf(float32(rough))}
		surf.frame.about(bvh.Vec{Y: 1})
		_, d := sc.camera.ray(0.5, 0.5, nil)
		wo := surf.frame.local(d.Mul(-1))
		surf.prepare(wo.Z)
		want := 0.0
		const grid = 400
		for i := range grid {
			for j := range grid {
				d, _, radiance, pdf := sc.lights.lamps[0].sample(bvh.Vec{}, (float32(i)+0.5)/grid, (float32(j)+0.5)/grid)
				if f, _ := surf.eval(wo, surf.frame.local(d)); pdf > 0 {
					want += float64(f.Y*radiance.Y/pdf) / grid / grid
				}
			}
		}
		if math.Abs(sum-want) > 0.01*want {
			t.Errorf("roughness %g, %q: %g, quadrature says %g", rough, light.Kind, sum, want)
		}
	}
}

// A sheet that glows lights a plane as a softbox of its size and radiance does, in drafts too, where its light is only
// sampled.
func TestGlowingSheetIsASoftbox(t *testing.T) {
	place := shot.Rest{Position: geom.Vec3{0.2, 1, -1}, Rotation: geom.LookAlong(geom.Vec3{0, -1, 1}), Size: geom.Vec3{1, 1, 1}}
	mean := func(part shot.Part, o Options) (sum float64) {
		m := material.Default()
		s := still(m, 0)
		s.Format = shot.Format{Width: 16, Height: 16}
		s.Part("cam").Camera.Focal = 200 // the plane fills the picture
		s.Materials = append(s.Materials, material.Material{ID: "glow", Name: "Glow", BaseColor: [4]float64{0, 0, 0, 1}, Emissive: [3]float64{3, 3, 3}, Roughness: 1, Alpha: material.Opaque})
		s.Parts = append(s.Parts, part)
		lamp := sheet(0.8)
		for i, p := range lamp.Positions { // upright, as a softbox is
			lamp.Positions[i] = [3]float32{p[0], p[2], 0}
		}
		f := expose(t, s, things{sheet(0.5), lamp}, 0, o)
		for i := 1; i < len(f.Pix); i += 4 {
			sum += float64(f.Pix[i]) / 256
		}
		return sum
	}
	box := shot.Part{ID: "l", Name: "L", Kind: shot.Light, Rest: place, Light: &shot.LightSpec{Width: 0.8, Height: 0.8, Color: [3]float64{1, 1, 1}, Strength: 3}}
	shine := shot.Part{ID: "l", Name: "L", Kind: shot.Solid, Rest: place, Mesh: &shot.MeshRef{Mesh: 1}, Materials: []string{"glow"}}
	want := mean(box, Options{Quality: Exact})
	for _, q := range []Quality{Draft, Final, Exact} {
		if got := mean(shine, Options{Quality: q}); math.Abs(got/want-1) > 0.01 {
			t.Errorf("%s: the glowing sheet gives %.4f, the softbox %.4f", q, got, want)
		}
	}
}

// Irradiance on a surface that looks at a light, in closed form: of a sphere of radius r at the distance h
// it is pi L (r/h)^2, of a disc straight above pi L r^2 / (r^2 + h^2) (Howell, A Catalog of Radiation Heat Transfer Configuration Factors, B-19 for a
// sphere and B-12 for a disc straight above, from memory); of a disc in the sky of half angle a it is pi L sin^2 a.
func TestLightsAgainstViewFactors(t *testing.T) {
	for _, c := range []struct {
		light scene.Light
		want  float64
	}{
		{scene.Light{Kind: shot.Round, Radius: 1.5, Strength: 2}, math.Pi * 2 * 1.5 * 1.5 / (1.5*1.5 + 2*2)},
		{scene.Light{Kind: shot.Bulb, Radius: 0.5, Strength: 2}, math.Pi * 2 * 0.25 * 0.25},
		{scene.Light{Kind: shot.Bulb, Radius: 1e-4, Strength: 1e8}, math.Pi * 0.25},
		{scene.Light{Kind: shot.Spot, Radius: 1e-3, Inner: 0.2, Outer: 0.3, Strength: 1e6}, math.Pi * 0.25},
		{scene.Light{Kind: shot.Sun, Angle: 0.6, Strength: 2}, math.Pi * 2 * math.Sin(0.3) * math.Sin(0.3)},
		{scene.Light{Kind: shot.Sun, Angle: 0.0093, Strength: 1e5}, math.Pi * 1e5 * math.Sin(0.00465) * math.Sin(0.00465)},
	} {
		c.light.Color = [3]float64{1, 1, 1}
		l := newLamp(&c.light, geom.TRS(geom.Vec3{0, 2, 0}, geom.LookAlong(geom.Vec3{0, -1, 0}), geom.Vec3{1, 1, 1}))
		got, missed := 0.0, 0
		const grid = 64
		for i := range grid {
			for j := range grid {
				d, _, radiance, own := l.sample(bvh.Vec{}, (float32(i)+0.5)/grid, (float32(j)+0.5)/grid)
				got += float64(radiance.Y*d.Y/own) / grid / grid
				if _, _, pdf := l.meet(bvh.Vec{}, d); pdf == 0 || math.Abs(float64(pdf/own)-1) > 1e-3 {
					missed++
				}
			}
		}
		if math.Abs(got/c.want-1) > 2e-3 || missed > grid*grid/100 {
			t.Errorf("%+v: irradiance %g, want %g; %d of its own samples missed it", c.light, got, c.want, missed)
		}
	}
}

// Unlit surfaces come out in their base colour; the reflectance of an index of refraction by Fresnel's formula:
// 1.5 reflects 4 %, 2.42 (diamond) 17.2 %.
func TestExtensions(t *testing.T) {
	m := material.Default()
	m.Unlit, m.BaseColor = true, [4]float64{0.2, 0.5, 0.7, 1}
	f := picture32(t, still(m, 3), things{ball(0.5)}, Draft, 0)
	if at := 4 * (16*32 + 16); math.Abs(float64(f.Pix[at+1])-0.5) > 1e-6 {
		t.Errorf("unlit 0.5 comes out as %g", f.Pix[at+1])
	}
	for ior, want := range map[float64]float64{0: 0.04, 1.5: 0.04, 2.42: 0.172} {
		if got, _ := (&material.Material{IOR: ior}).Dielectric(material.Untextured, 1); math.Abs(got[0]-want) > 5e-4 {
			t.Errorf("an index of %g reflects %g, want %g", ior, got, want)
		}
	}
}

// Glass in closed form, straight through the middle. A thin wall twice: (1 - F)^2 of a tint squared; a ball that
// absorbs: (1 - F)^2 c^(2r / d), by Beer and Lambert. Alpha is what is kept back.
func TestGlassAgainstClosedForms(t *testing.T) {
	for _, c := range []struct {
		what   string
		change func(m *material.Material)
		want   float64
	}{
		{"clear wall", func(m *material.Material) {}, 0.96 * 0.96},
		{"tinted wall", func(m *material.Material) { m.BaseColor = [4]float64{0.5, 0.5, 0.5, 1} }, 0.96 * 0.96 * 0.25},
		{"solid", func(m *material.Material) { m.Thickness = 1 }, 0.96 * 0.96},
		{"smoke", func(m *material.Material) {
			m.Thickness, m.AttenuationDistance, m.AttenuationColor = 1, 0.5, &[3]float64{0.6, 0.6, 0.6}
		}, 0.96 * 0.96 * 0.36},
	} {
		m := material.Material{Name: "glass", BaseColor: [4]float64{1, 1, 1, 1}, Transmission: 1}
		c.change(&m)
		s := still(m, 0)
		s.Format = shot.Format{Width: 33, Height: 33}
		f := expose(t, s, things{ball(0.5)}, 0, Options{Quality: Exact})
		if got := 1 - float64(f.Pix[4*(16*33+16)+3]); math.Abs(got-c.want) > 0.006 {
			t.Errorf("%s lets %.4f through, want %.4f", c.what, got, c.want)
		}
	}
}

// Every direction that a surface draws has the density that it says: over the sphere the density adds up to 1, less
// what falls below the surface, and the mean of samples is the integral of the lobes on a grid.
func TestSamplingOfLobes(t *testing.T) {
	var aslant frame
	aslant.about(bvh.Vec{X: 0.3, Y: 0.4, Z: 0.866}.Unit())
	for what, s := range map[string]surface{
		"matt":         {base: bvh.Vec{X: 0.7, Y: 0.7, Z: 0.7}, dielectric: bvh.Vec{X: 0.04, Y: 0.04, Z: 0.04}, alpha: 0.25},
		"metal":        {base: bvh.Vec{X: 0.7, Y: 0.7, Z: 0.7}, metallic: 1, alpha: 0.1},
		"coated":       {base: bvh.Vec{X: 0.7, Y: 0.7, Z: 0.7}, metallic: 1, alpha: 0.3, coat: coat{strength: 0.8, alpha: 0.05}},
		"turned coat":  {base: bvh.Vec{X: 0.1, Y: 0.1, Z: 0.1}, alpha: 0.3, coat: coat{strength: 0.8, alpha: 0.3, turned: true, cos: 0.5, frame: aslant}},
		"no specular":  {base: bvh.Vec{X: 0.7, Y: 0.7, Z: 0.7}, alpha: 0.25, grazing: -1},
		"cloth":        {base: bvh.Vec{X: 0.2, Y: 0.2, Z: 0.2}, alpha: 0.5, sheen: sheen{color: bvh.Vec{X: 0.8, Y: 0.8, Z: 0.8}, alpha: 0.2}},
		"frosted":      {base: bvh.Vec{X: 0.9, Y: 0.9, Z: 0.9}, dielectric: bvh.Vec{X: 0.04, Y: 0.04, Z: 0.04}, alpha: 0.2, glass: glass{share: 0.9, ior: 1}},
		"into glass":   {base: bvh.Vec{X: 0.9, Y: 0.9, Z: 0.9}, alpha: 0.2, glass: glass{share: 1, ior: 1.5}},
		"out of glass": {base: bvh.Vec{X: 0.9, Y: 0.9, Z: 0.9}, alpha: 0.2, glass: glass{share: 1, ior: 1 / 1.5}},
	} {
		s.grazing++
		for _, cos := range []float32{0.95, 0.5, 0.2} {
			wo := bvh.Vec{X: sqrt(1 - cos*cos), Z: cos}
			s.prepare(cos)
			var density, whole float64
			const across, around = 800, 800
			for i := range across {
				z := float32(i)*2/across - 1 + 1.0/across
				for j := range around {
					sin, c := sincos(2 * pi * (float32(j) + 0.5) / around)
					r := sqrt(1 - z*z)
					f, pdf := s.eval(wo, bvh.Vec{X: r * c, Y: r * sin, Z: z})
					density += float64(pdf)
					whole += float64(f.Y)
				}
			}
			const cell = 4 * math.Pi / across / around
			mean, drawn := 0.0, 0.0
			const n = 1 << 15
			for k := range uint32(n) {
				g := newSampler(3, k, nil)
				u, v := g.next2()
				if _, w, pdf := s.sample(wo, g.next1(), u, v); pdf > 0 {
					mean += float64(w.Y) / n
					drawn += 1.0 / n
				}
			}
			if math.Abs(density*cell-drawn) > 0.01 {
				t.Errorf("%s at %g: the density adds up to %.4f, %.4f of the samples count", what, cos, density*cell, drawn)
			}
			if math.Abs(whole*cell-mean) > 0.01*mean {
				t.Errorf("%s at %g: samples say %.4f, the grid %.4f", what, cos, mean, whole*cell)
			}
		}
	}
}

// The pixels are the same with 1, 2 and 7 threads, of a picture that takes more samples where it needs them, denoised
// or not, and with the plain kernel too: both find the same hits to the last bit.
func TestSamePixelsOnAnyNumberOfThreads(t *testing.T) {
	s := still(material.Default(), 0.7)
	s.Format = shot.Format{Width: 40, Height: 60} // more than one of the denoiser's bands
	for _, o := range []Options{{Quality: Final}, {Quality: Final, Denoise: true}} {
		with := func(threads int) []float32 {
			o.Threads = threads
			return expose(t, s, things{ball(0.5)}, 0, o).Pix
		}
		one := with(1)
		for _, n := range []int{2, 7} {
			if !slices.Equal(one, with(n)) {
				t.Errorf("denoised %v, one thread and %d give different pixels", o.Denoise, n)
			}
		}
		bvh.ForcePlain(true)
		if !slices.Equal(one, with(1)) {
			t.Errorf("denoised %v, the plain kernel gives different pixels", o.Denoise)
		}
		bvh.ForcePlain(false)
	}
}

// A final picture is as near as was asked to one of very many samples, in the square root of luminance and denoised or
// not: with a small lamp that throws a shadow, a surface that shines and one that is rough.
func TestFinalIsAsNearAsAsked(t *testing.T) {
	m := material.Default()
	m.BaseColor, m.Roughness, m.Metallic = [4]float64{0.7, 0.6, 0.5, 1}, 0.3, 0.5
	s := still(m, 0.2)
	s.Format = shot.Format{Width: 64, Height: 64}
	s.Parts = append(s.Parts,
		shot.Part{ID: "wall", Name: "Wall", Kind: shot.Solid, Rest: shot.Rest{Position: geom.Vec3{0, -0.5, 0}, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}}, Mesh: &shot.MeshRef{Mesh: 1}, Materials: []string{"m"}},
		shot.Part{ID: "l", Name: "Lamp", Kind: shot.Light, Rest: shot.Rest{Position: geom.Vec3{1, 3, 1}, Rotation: geom.LookAlong(geom.Vec3{-1, -3, -1}), Size: geom.Vec3{1, 1, 1}}, Light: &shot.LightSpec{Width: 0.6, Height: 0.6, Color: [3]float64{1, 1, 1}, Strength: 20}})
	a := things{ball(0.4), sheet(3)}
	root := func(f *Film, i int) float64 {
		return math.Sqrt(math.Max(0, 0.2126*float64(f.Pix[i])+0.7152*float64(f.Pix[i+1])+0.0722*float64(f.Pix[i+2])))
	}
	want := expose(t, s, a, 0, Options{Quality: Final, Samples: 4096})
	for _, o := range []Options{{Noise: 0.04}, {Noise: 0.01}, {Noise: 0.04, Denoise: true}, {Noise: 0.01, Denoise: true}} {
		o.Quality = Final
		got := expose(t, s, a, 0, o)
		sum, worst := 0.0, 0.0
		for i := 0; i < len(want.Pix); i += 4 {
			d := root(got, i) - root(want, i)
			sum, worst = sum+d*d, math.Max(worst, math.Abs(d))
		}
		off := math.Sqrt(sum / float64(len(want.Pix)/4))
		t.Logf("noise %g, denoised %v: off by %.4f, at most %.3f", o.Noise, o.Denoise, off, worst)
		most := 5*o.Noise + 0.01
		if o.Denoise { // single pixels, where a fit takes an edge of a shadow for noise
			most = 0.12
		}
		if off > o.Noise || worst > most {
			t.Errorf("noise %g was asked for, denoised %v: the picture is off by %.4f, at most by %.4f", o.Noise, o.Denoise, off, worst)
		}
	}
}

// Alpha is coverage: that of a ball is the area of its outline; a material of alpha 0.25 keeps a
// quarter; and the floor's alpha is the share of light that is kept away, none far from everything.
func TestAlphaIsCoverage(t *testing.T) {
	m := material.Default()
	s := still(m, 1)
	s.Part("cam").Rest = shot.Rest{Position: geom.Vec3{0, 0, 4}, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}}
	total := func(f *Film) (sum float64) {
		for i := 3; i < len(f.Pix); i += 4 {
			sum += float64(f.Pix[i])
		}
		return sum
	}
	full := total(picture32(t, s, things{ball(0.5)}, Final, 0))
	// The outline of a ball at distance d: tan^2 = r^2 / (d^2 - r^2), over the square of the view.
	r2 := 0.25 / (16 - 0.25) / (0.36 * 0.36)
	if want := math.Pi * r2 * 32 * 32 / 4; math.Abs(full-want) > 0.01*want {
		t.Errorf("a ball covers %g pixels, its outline %g", full, want)
	}
	s.Materials[0].Alpha, s.Materials[0].BaseColor[3] = material.Blend, 0.25
	// Through the front and the back: 1 - 0.75^2.
	if quarter := total(picture32(t, s, things{ball(0.5)}, Final, 0)); math.Abs(quarter/full-(1-0.75*0.75)) > 0.02 {
		t.Errorf("two walls of alpha 0.25 cover %g of the ball", quarter/full)
	}
	s = still(m, 1)
	s.Parts = append(s.Parts, shot.Part{ID: "f", Name: "Floor", Kind: shot.Floor, Rest: shot.AtRest})
	s.Part("thing").Rest.Position = geom.Vec3{0, 1000, 0}
	if a := total(picture32(t, s, things{ball(0.5)}, Proof, 0)); a > 0.01 {
		t.Errorf("an open floor has an alpha of %g", a)
	}
	// A disc of radius r at height h over the floor keeps away r^2 / (r^2 + h^2) of a uniform sky
	// (Howell, B-12, from memory); looked at straight from the side it is not in the picture.
	s.Part("thing").Rest.Position = geom.Vec3{0, 2.5, 0}
	disc := mesh.DiscPlinth(1, 0.001, 0)
	f := picture32(t, s, things{disc}, Final, 0)
	middle := (16*32 + 16) * 4
	if got, want := float64(f.Pix[middle+3]), 1/(1+2.5*2.5); math.Abs(got-want) > 0.03 {
		t.Errorf("the shadow's alpha is %g, the view factor %g", got, want)
	}
}

// asked counts how often whether to go on is asked.
type asked struct {
	context.Context
	times atomic.Int64
}

func (a *asked) Err() error {
	a.times.Add(1)
	return a.Context.Err()
}

// Whether to go on is asked for every pixel, of every kind of picture, so that giving one up takes no longer than that.
func TestGivingUpIsAskedForEveryPixel(t *testing.T) {
	sc, err := drawn(pose.New(still(material.Default(), 1)), 0, NewProps(things{ball(0.5)}))
	if err != nil {
		t.Fatal(err)
	}
	for _, o := range []Options{{Quality: Draft}, {Quality: Final, Samples: 4}, {Quality: Final, Samples: 4, Denoise: true}} {
		ctx := &asked{Context: context.Background()}
		if _, err := sc.Expose(ctx, 48, 32, o); err != nil {
			t.Fatal(err)
		}
		if n := ctx.times.Load(); n < 48*32 {
			t.Errorf("%+v: it is asked %d times for 1536 pixels", o, n)
		}
	}
}

// Every 2^k consecutive points of the first two dimensions fall one into each of the 2^k boxes of
// any shape: a (0, 2)-sequence in base 2; scrambling keeps that.
func TestSamplesAreANet(t *testing.T) {
	for a := range 7 {
		across, down := 1<<a, 1<<(6-a)
		seen := map[int]bool{}
		for k := range uint32(64) {
			g := newSampler(9, k, new(bvh.Walker))
			u, v := g.next2()
			seen[int(u*float32(across))*down+int(v*float32(down))] = true
		}
		if len(seen) != 64 {
			t.Errorf("64 points fill %d of the %d x %d boxes", len(seen), across, down)
		}
	}
}

// 1 mm and 1 km: the same picture, with no shadow of a surface on itself.
func TestPictureDoesNotDependOnScale(t *testing.T) {
	m := material.Default()
	mean := func(scale float64) float64 {
		s := still(m, 1)
		for i := range s.Parts {
			s.Parts[i].Rest.Position = s.Parts[i].Rest.Position.Mul(scale)
		}
		f := picture32(t, s, things{ball(0.5 * scale)}, Final, 0)
		sum := 0.0
		for i := 1; i < len(f.Pix); i += 4 {
			sum += float64(f.Pix[i])
		}
		return sum
	}
	want := mean(1)
	for _, scale := range []float64{1e-3, 1e3} {
		if got := mean(scale); math.Abs(got/want-1) > 0.005 {
			t.Errorf("at a scale of %g the picture is %g as bright", scale, got/want)
		}
	}
}
