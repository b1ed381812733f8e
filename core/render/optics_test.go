package render

import (
	"context"
	"image"
	"math"
	"slices"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/motion"
	"perigyre/core/move"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// facing is a shot of a thing seen straight from the front at a distance of 2, black but for itself.
func facing(width, height int) *shot.Shot {
	s := still(material.Material{Name: "white", BaseColor: [4]float64{1, 1, 1, 1}, Unlit: true}, 0)
	s.Format = shot.Format{Width: width, Height: height}
	cam := s.Part("cam")
	cam.Rest = shot.Rest{Position: geom.Vec3{0, 0, 2}, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}}
	s.Frames, s.Ending = 10, shot.Once
	return s
}

func expose(t *testing.T, s *shot.Shot, a Assets, at float64, o Options) *Film {
	t.Helper()
	if err := s.Validate(); err != nil {
		t.Fatal(err)
	}
	sc, err := drawn(pose.New(s), at, NewProps(a), o.Passes...)
	if err != nil {
		t.Fatal(err)
	}
	f, err := sc.Expose(context.Background(), s.Format.Width, s.Format.Height, o)
	if err != nil {
		t.Fatal(err)
	}
	return f
}

// An edge that moves evenly while the shutter is open leaves a ramp of coverage as wide as its way, which is
// linear where the pixel filter, three pixels wide, lies within it.
func TestMotionBlurOfAnEdge(t *testing.T) {
	s := facing(96, 8)
	thing := s.Part("thing")
	thing.Rest.Rotation = geom.AxisAngle(geom.Vec3{1, 0, 0}, math.Pi/2) // the sheet faces the camera
	thing.Rest.Position = geom.Vec3{-2, 0, 0}                           // 4 wide: its right edge at 0
	// The view is 2 x 2 tan(fov / 2) = 1.44 wide at the distance of 2: 15 mm a pixel.
	const pixel = 2 * 2 * 18.0 / 50 / 96
	const way = 40 * pixel
	thing.Moves = []shot.Move{{ID: "m", Kind: "slide", Data: &move.Slide{By: geom.Vec3{9 * 2 * way, 0, 0}, Frame: shot.ParentFrame}}}
	s.Part("cam").Camera.Shutter = 180 // half a frame's time, in which it goes 40 pixels
	thing.Rest.Position[0] -= 5 * 2 * way
	f := expose(t, s, things{sheet(4)}, 5, Options{Quality: Exact})
	for x := range f.Width {
		// On frame 5 the edge is in the middle, x = 48; it goes from 28 to 68.
		want := math.Min(1, math.Max(0, (68-(float64(x)+0.5))/40))
		if math.Abs(float64(x)+0.5-28) < 2 || math.Abs(float64(x)+0.5-68) < 2 {
			continue
		}
		if got := float64(f.Pix[4*(4*f.Width+x)+3]); math.Abs(got-want) > 0.01 {
			t.Errorf("column %d is covered by %.4f, the ramp says %.4f", x, got, want)
		}
	}
}

// What turns goes on its arc: half a turn in the open shutter leaves the radius as it is.
func TestMotionBlurOnAnArc(t *testing.T) {
	s := facing(64, 64)
	thing := s.Part("thing")
	thing.Rest.Position, thing.Pivot = geom.Vec3{0.4, 0, 0}, geom.Vec3{-0.4, 0, 0}
	thing.Moves = []shot.Move{{ID: "m", Kind: "turn", Data: &move.Turn{Axis: geom.Vec3{0, 0, 1}, Frame: shot.ParentFrame, Turns: 9, Direction: shot.CounterClockwise}}}
	s.Part("cam").Camera.Shutter = 180
	f := expose(t, s, things{ball(0.05)}, 4, Options{Quality: Exact})
	sum, moment := 0.0, 0.0
	for y := range 64 {
		for x := range 64 {
			a := float64(f.Pix[4*(y*64+x)+3])
			sum += a
			moment += a * math.Hypot(float64(x)-31.5, float64(y)-31.5)
		}
	}
	const pixel = 2 * 2 * 18.0 / 50 / 64
	if r := moment / sum * pixel; math.Abs(r-0.4) > 0.012 { // nine keys: chords of an arc of half a turn are 0.6 % too near, perspective and thickness the rest
		t.Errorf("the blur's mean radius is %.4f, not 0.4", r)
	}
}

// The circle of confusion of a point at the distance D, with the lens focused at d, is A |D - d| / D f / (d - f)
// across on the sensor (photographic handbooks). The view does not breathe here: the field of view is that of
// the lens focused far away, which leaves f / d for the last factor.
func TestCircleOfConfusion(t *testing.T) {
	for _, blades := range []int{0, 5} {
		s := facing(128, 128)
		cam := s.Part("cam").Camera
		cam.FNumber, cam.Focus, cam.Blades = 0.25, 1.2, blades
		f := expose(t, s, things{ball(0.02)}, 0, Options{Quality: Exact})
		sum, moment := 0.0, 0.0
		for y := range 128 {
			for x := range 128 {
				a := float64(f.Pix[4*(y*128+x)+3])
				sum += a
				moment += a * (math.Pow(float64(x)-63.5, 2) + math.Pow(float64(y)-63.5, 2))
			}
		}
		moment /= sum
		const aperture, focal, near, far = 200.0, 50.0, 1200.0, 2000.0
		across := aperture * (far - near) / far * focal / near / 36 * 128 // pixels
		ball := 0.02 / 2 * 50 / 36 * 128                                  // its radius in pixels
		const filter = 2 * 0.17266                                        // variance of the pixel filter in both directions: Blackman-Harris, three pixels wide
		// The second moment of a disc of radius R is R^2 / 2; that of a regular pentagon in it R^2 (2 + cos 72) / 6.
		share := 0.5
		if blades == 5 {
			share = (2 + math.Cos(2*math.Pi/5)) / 6
		}
		want := share*across*across/4 + ball*ball/2 + filter
		if math.Abs(moment/want-1) > 0.02 {
			t.Errorf("%d blades: the blur's second moment is %.3f pixels^2, the formula says %.3f", blades, moment, want)
		}
	}
}

// Passes against closed forms: depth and position of a sphere and a plane, their normals, coverage; and the
// lights' parts add up to the whole.
func TestPassesAgainstClosedForms(t *testing.T) {
	s := still(material.Material{Name: "grey", BaseColor: [4]float64{0.5, 0.5, 0.5, 1}, Roughness: 0.5}, 1)
	s.Format = shot.Format{Width: 33, Height: 33}
	s.Part("cam").Rest = shot.Rest{Position: geom.Vec3{0, 0, 2}, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}}
	f := expose(t, s, things{ball(0.5)}, 0, Options{Quality: Proof, Passes: Passes})
	layer := func(p Pass) []float32 {
		for _, l := range f.Layers {
			if l.Pass == p {
				n := len(l.Channels)
				return l.Pix[(16*33+16)*n : (16*33+16)*n+n]
			}
		}
		t.Fatalf("no pass %s", p)
		return nil
	}
	near := func(what string, got float32, want, off float64) {
		t.Helper()
		if math.Abs(float64(got)-want) > off {
			t.Errorf("%s is %g, not %g", what, got, want)
		}
	}
	near("depth in the middle", layer(Depth)[0], 1.5, 2e-3)
	near("position z", layer(Position)[2], 0.5, 2e-3)
	near("normal z", layer(Normal)[2], 1, 1e-3)
	near("camera normal z", layer(CameraNormal)[2], 1, 1e-3)
	near("albedo", layer(Albedo)[0], 0.5, 1e-4)
	near("matte", layer(Matte)[0], 1, 0)
	near("matte's coverage", layer(Matte)[1], 1, 0)
	near("openness", layer(Occlusion)[0], 1, 0)
	sum := float32(0)
	for _, p := range []Pass{Emission, DirectDiffuse, DirectSpecular, IndirectDiffuse, IndirectSpecular} {
		sum += layer(p)[1]
	}
	near("the light's parts", sum, float64(f.Pix[4*(16*33+16)+1]), 1e-5)
}

// painted are things with a picture.
type painted struct {
	things
	img image.Image
}

func (p painted) Picture(string, int) (image.Image, error) { return p.img, nil }

// A checker of texels far finer than pixels is an even grey under few samples as under many, the mean of its light
// and not of its codes; seen large it is as sharp as it was drawn.
func TestTextureFilter(t *testing.T) {
	img := image.NewGray(image.Rect(0, 0, 512, 512))
	for i := range img.Pix {
		img.Pix[i] = uint8(255 * ((i + i/512) % 2))
	}
	wall := sheet(1.4)
	wall.UV = [][2]float32{{0, 0}, {0, 1}, {1, 1}, {1, 0}}
	s := still(material.Material{Name: "checker", BaseColor: [4]float64{1, 1, 1, 1}, Unlit: true, BaseColorTexture: &material.Texture{Asset: "a"}}, 1)
	s.Format = shot.Format{Width: 48, Height: 48}
	cam := s.Part("cam")
	cam.Rest = shot.Rest{Position: geom.Vec3{0, 0, 20}, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}}
	s.Part("thing").Rest.Rotation = geom.AxisAngle(geom.Vec3{1, 0, 0}, math.Pi/2)
	spread := func() (least, most float64) {
		f := expose(t, s, painted{things{wall}, img}, 0, Options{Quality: Draft})
		least = 1
		for i := 0; i < len(f.Pix); i += 4 {
			if f.Pix[i+3] > 0.999 {
				v := float64(f.Pix[i])
				least, most = math.Min(least, v), math.Max(most, v)
			}
		}
		return least, most
	}
	if least, most := spread(); least < 0.49 || most > 0.51 {
		t.Errorf("far away the checker is %.3f to %.3f, not its mean of light, 0.5", least, most)
	}
	cam.Rest.Position = geom.Vec3{0, 0, 0.02}
	if least, most := spread(); least > 0.1 || most < 0.9 { // between the middles of texels it is even
		t.Errorf("seen large the checker is %.3f to %.3f, not black and white", least, most)
	}
}

// A checker of texture stays as it is under the denoiser: the pixels of a wall under an even sky, drawn by many
// samples without it and by few with it, are the same to half a per cent of white.
func TestDenoiserKeepsTexture(t *testing.T) {
	img := image.NewGray(image.Rect(0, 0, 16, 16))
	for i := range img.Pix {
		img.Pix[i] = uint8(60 + 140*((i+i/16)%2))
	}
	wall := sheet(1.4)
	wall.UV = [][2]float32{{0, 0}, {0, 1}, {1, 1}, {1, 0}}
	s := still(material.Material{Name: "checker", BaseColor: [4]float64{1, 1, 1, 1}, Roughness: 1, BaseColorTexture: &material.Texture{Asset: "a"}}, 1)
	s.Format = shot.Format{Width: 64, Height: 64}
	s.Part("cam").Rest = shot.Rest{Position: geom.Vec3{0, 0, 2}, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}}
	s.Part("thing").Rest.Rotation = geom.AxisAngle(geom.Vec3{1, 0, 0}, math.Pi/2)
	a := painted{things{wall}, img}
	want := expose(t, s, a, 0, Options{Quality: Exact})
	got := expose(t, s, a, 0, Options{Quality: Proof, Denoise: true})
	plain := expose(t, s, a, 0, Options{Quality: Proof})
	off := func(f *Film) float64 {
		sum, n := 0.0, 0
		for i := 0; i < len(want.Pix); i += 4 {
			if want.Pix[i+3] > 0.99 {
				d := float64(f.Pix[i] - want.Pix[i])
				sum, n = sum+d*d, n+1
			}
		}
		return math.Sqrt(sum / float64(n))
	}
	if p, q := off(plain), off(got); q > p*1.05+0.001 {
		t.Errorf("texture is off by %.4f, without the denoiser by %.4f", q, p)
	}
}

// The denoiser brings a noisy picture nearer to the reference and leaves the alpha of surfaces as it is.
func TestDenoiser(t *testing.T) {
	s := still(material.Material{Name: "white", BaseColor: [4]float64{0.8, 0.8, 0.8, 1}, Roughness: 1}, 0.5)
	s.Format = shot.Format{Width: 64, Height: 64}
	s.Parts = append(s.Parts, shot.Part{ID: "l", Name: "Lamp", Kind: shot.Light, Rest: shot.Rest{Position: geom.Vec3{1, 3, 1}, Rotation: geom.LookAlong(geom.Vec3{-1, -3, -1}), Size: geom.Vec3{1, 1, 1}}, Light: &shot.LightSpec{Width: 2, Height: 2, Color: [3]float64{1, 1, 1}, Strength: 4}})
	a := things{ball(0.5)}
	want := expose(t, s, a, 0, Options{Quality: Exact})
	plain := expose(t, s, a, 0, Options{Quality: Draft})
	smooth := expose(t, s, a, 0, Options{Quality: Draft, Denoise: true})
	// A draft has no bounces; its own mean is what both are judged against.
	err := func(f *Film) float64 {
		sum := 0.0
		for i := 0; i < len(f.Pix); i += 4 {
			if f.Pix[i+3] > 0.99 {
				d := float64(f.Pix[i] - want.Pix[i])
				sum += d * d
			}
			if f.Pix[i+3] != plain.Pix[i+3] {
				t.Fatal("alpha was touched")
			}
		}
		return math.Sqrt(sum)
	}
	if p, q := err(plain), err(smooth); q > p*0.6 {
		t.Errorf("the error goes from %.4f to %.4f, by less than two fifths", p, q)
	}
}

// A picture that is too large to be denoised in one piece is the same, to the bit, with its passes.
func TestStripsMakeTheSamePicture(t *testing.T) {
	s := still(material.Material{Name: "grey", BaseColor: [4]float64{0.5, 0.5, 0.5, 1}, Roughness: 0.3}, 1)
	s.Format = shot.Format{Width: 24, Height: 260}
	s.Part("cam").Camera.Sensor = shot.FitWidth
	s.Parts = append(s.Parts, shot.Part{ID: "floor", Name: "Floor", Kind: shot.Floor, Rest: shot.Rest{Position: geom.Vec3{0, -1.2, 0}, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}}})
	o := Options{Quality: Proof, Samples: 8, Denoise: true, Passes: []Pass{Normal, Motion, PartMattes}}
	whole := expose(t, s, things{ball(1.2)}, 0, o)
	defer func(was int) { stripPixels = was }(stripPixels)
	stripPixels = 1
	strips := expose(t, s, things{ball(1.2)}, 0, o)
	if !slices.Equal(whole.Pix, strips.Pix) {
		t.Error("the pictures differ")
	}
	for k, l := range whole.Layers {
		if !slices.Equal(l.Pix, strips.Layers[k].Pix) {
			t.Errorf("the pass %s differs", l.Pass)
		}
	}
}

// What bends while the shutter is open is blurred: the picture is the mean of stills over the shutter's time.
func TestMotionBlurOfWhatBends(t *testing.T) {
	s := facing(48, 48)
	thing := s.Part("thing")
	thing.Rest.Rotation = geom.AxisAngle(geom.Vec3{1, 0, 0}, math.Pi/2)
	thing.Moves = []shot.Move{{ID: "m", Kind: "flex", Data: &move.Flex{Shape: "bend", Axis: 0, Towards: 2, Length: 0.8, Base: geom.Vec3{-0.4, 0, 0}, Angle: 12}}}
	wall := ribbon()
	blurred := func() *Film {
		s.Part("cam").Camera.Shutter = 360
		return expose(t, s, things{wall}, 4, Options{Quality: Exact})
	}()
	s.Part("cam").Camera.Shutter = 0
	mean := make([]float64, len(blurred.Pix))
	const stills = 32
	for k := range stills {
		f := expose(t, s, things{wall}, 3.5+(float64(k)+0.5)/stills, Options{Quality: Proof})
		for i, v := range f.Pix {
			mean[i] += float64(v) / stills
		}
	}
	sum, soft := 0.0, 0
	for i := 3; i < len(mean); i += 4 {
		sum += math.Abs(float64(blurred.Pix[i]) - mean[i])
		if mean[i] > 0.1 && mean[i] < 0.9 {
			soft++
		}
	}
	if off := sum / 48 / 48; soft < 60 || off > 0.01 {
		t.Errorf("%d pixels are blurred, and the picture is off the mean of stills by %.4f a pixel", soft, off)
	}
}

// ribbon is 0.8 long in x and 0.3 wide in z, and can bend.
func ribbon() *mesh.Mesh {
	m := &mesh.Mesh{}
	for i := range uint32(41) {
		x := 0.8*float32(i)/40 - 0.4
		m.Positions = append(m.Positions, [3]float32{x, 0, -0.15}, [3]float32{x, 0, 0.15})
		if i > 0 {
			m.Indices = append(m.Indices, 2*i-2, 2*i-1, 2*i, 2*i, 2*i-1, 2*i+1)
		}
	}
	m.MakeNormals(mesh.DefaultCrease)
	return m
}

// What bends has the motion of its bending: a strip bent to an arc of the angle a has a point at s along it, and r off
// its middle line, at ((L/a - r) sin(a s / L), L/a - (L/a - r) cos(a s / L)) from its base.
func TestMotionOfWhatBends(t *testing.T) {
	s := facing(48, 48)
	thing := s.Part("thing")
	thing.Rest.Rotation = geom.AxisAngle(geom.Vec3{1, 0, 0}, math.Pi/2) // z goes down in the picture
	bend := shot.Move{ID: "m", Kind: "flex", Data: &move.Flex{Shape: "bend", Axis: 0, Towards: 2, Length: 0.8, Base: geom.Vec3{-0.4, 0, 0}, Angle: 1.5}}
	thing.Moves = []shot.Move{bend}
	f := expose(t, s, things{ribbon()}, 5, Options{Quality: Exact, Samples: 16, Passes: []Pass{Position, Motion}})
	layer := map[Pass][]float32{}
	for _, l := range f.Layers {
		layer[l.Pass] = l.Pix
	}
	arc := func(at float64) float64 {
		return 0.8 / move.Bend(move.Context{Move: &bend, Time: motion.At(s, at), Own: 1}).Angle
	} // its radius
	const pixel = 2 * 2 * 18.0 / 50 / 48
	seen := 0
	for i := range 48 * 48 {
		if f.Pix[4*i+3] < 1 {
			continue
		}
		x, z := float64(layer[Position][3*i])+0.4, -float64(layer[Position][3*i+1])
		radius := arc(5)
		turn, off := math.Atan2(x, radius-z)*radius, math.Hypot(x, radius-z)-radius
		if turn < 0.02 || turn > 0.78 {
			continue // beyond its ends nothing bends
		}
		seen++
		place := func(at float64) (x, y float64) {
			r := arc(at)
			sin, cos := math.Sincos(turn / r)
			return (r + off) * sin / pixel, ((r+off)*cos - r) / pixel
		}
		x0, y0 := place(4.5)
		x1, y1 := place(5.5)
		if u, v := float64(layer[Motion][2*i]), float64(layer[Motion][2*i+1]); math.Hypot(u-(x1-x0), v-(y1-y0)) > 0.02 {
			t.Fatalf("at %.2f, %.2f the motion is %.3f, %.3f pixels a frame, not %.3f, %.3f", x, z, u, v, x1-x0, y1-y0)
		}
	}
	if seen < 100 {
		t.Fatalf("%d points were looked at", seen)
	}
}

// A sheet whose material is seen through from behind is there from the front and not from the back; one that is not is there
// from both.
func TestBacksAreSeenThroughWhereChosen(t *testing.T) {
	for _, c := range []struct {
		oneSided, behind bool
		want             float32
	}{{false, false, 1}, {false, true, 1}, {true, false, 1}, {true, true, 0}} {
		s := facing(8, 8)
		s.Materials[0].OneSided = c.oneSided
		turn := math.Pi / 2 // the sheet faces the camera
		if c.behind {
			turn = -turn
		}
		s.Part("thing").Rest.Rotation = geom.AxisAngle(geom.Vec3{1, 0, 0}, turn)
		f := expose(t, s, things{sheet(4)}, 0, Options{Quality: Exact})
		if a := f.Pix[4*(f.Width*4+4)+3]; a != c.want {
			t.Errorf("one-sided %v, from behind %v: alpha %g, want %g", c.oneSided, c.behind, a, c.want)
		}
	}
}
