package render

import (
	"math"
	"testing"

	"perigyre/core/framing"
	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/move"
	"perigyre/core/shot"
)

// middle returns the centre of what covers the picture, in pixels.
func middle(f *Film) (x, y float64) {
	sum := 0.0
	for i := 3; i < len(f.Pix); i += 4 {
		a := float64(f.Pix[i])
		sum += a
		x += a * (float64(i/4%f.Width) + 0.5)
		y += a * (float64(i/4/f.Width) + 0.5)
	}
	return x / sum, y / sum
}

// What the renderer shows is where the optics say: with perspective, a shifted lens and an orthographic camera.
func TestLensesAgainstOptics(t *testing.T) {
	for what, change := range map[string]func(l *shot.Lens){
		"perspective":  func(*shot.Lens) {},
		"shifted":      func(l *shot.Lens) { l.ShiftX, l.ShiftY = 4, -6 },
		"orthographic": func(l *shot.Lens) { l.Across = 1.3 },
	} {
		s := facing(64, 48)
		lens := s.Part("cam").Camera
		change(lens)
		at := geom.Vec3{0.15, -0.1, 0.3}
		s.Part("thing").Rest.Position = at
		x, y := middle(expose(t, s, things{ball(0.01)}, 0, Options{Quality: Exact}))
		u, v, _, _ := framing.Project(geom.TRS(s.Part("cam").Rest.Position, geom.NoTurn, geom.Vec3{1, 1, 1}), lens, s.Format, at)
		if math.Hypot(x-u, y-v) > 0.03 {
			t.Errorf("%s: seen at %.3f, %.3f, the optics say %.3f, %.3f", what, x, y, u, v)
		}
	}
}

// Motion is in pixels a frame, to the right and up: a slide across the view, and a camera that comes nearer, which
// moves a point away from the middle by its distance from it times its speed over the depth.
func TestMotionPass(t *testing.T) {
	s := facing(64, 64)
	s.Part("thing").Rest.Position = geom.Vec3{0.2, 0.1, 0}
	s.Part("thing").Moves = []shot.Move{{ID: "m", Kind: "slide", Data: &move.Slide{By: geom.Vec3{0.09, 0.18, 0}, Frame: shot.ParentFrame}}}
	s.Part("cam").Moves = []shot.Move{{ID: "n", Kind: "slide", Data: &move.Slide{By: geom.Vec3{0, 0, -0.45}, Frame: shot.ParentFrame}}}
	f := expose(t, s, things{ball(0.02)}, 5, Options{Quality: Proof, Passes: []Pass{Motion, PartMattes}})
	// On frame 5 the ball is at 0.25, 0.2 and goes 0.01, 0.02 a frame; the camera is 1.75 away (1.73 from its face)
	// and comes 0.05 nearer. A pixel is 2 x 18 / 50 / 64 at distance 1.
	const pixel = 2 * 18.0 / 50 / 64
	depth := 1.73
	want := [2]float64{(0.01 + 0.25*0.05/depth) / depth / pixel, (0.02 + 0.2*0.05/depth) / depth / pixel}
	x, y := middle(f)
	i := int(y)*64 + int(x)
	for k, w := range want {
		got, cover := 0.0, 0.0
		for j := range 64 * 64 {
			got += float64(f.Layers[0].Pix[2*j+k] * f.Pix[4*j+3])
			cover += float64(f.Pix[4*j+3])
		}
		if got /= cover; math.Abs(got-w) > 0.01*w {
			t.Errorf("component %d is %.4f pixels a frame, not %.4f", k, got, w)
		}
	}
	if l := f.Layers[1]; len(l.Channels) != 1 || l.Channels[0] != "Thing" || math.Abs(float64(l.Pix[i]-f.Pix[4*i+3])) > 1e-6 {
		t.Errorf("the part mattes are %v, %g where the ball covers %g", l.Channels, l.Pix[i], f.Pix[4*i+3])
	}
}

// The sky that is seen lies behind everything: alpha is 1, the corner has its radiance, and the shadow floor darkens
// it by as much as it would cover.
func TestSkySeen(t *testing.T) {
	s := still(material.Default(), 0.7)
	s.Parts = append(s.Parts, shot.Part{ID: "f", Name: "Floor", Kind: shot.Floor, Rest: shot.AtRest})
	s.Part("thing").Rest.Position = geom.Vec3{0, 0.3, 0}
	s.Format = shot.Format{Width: 32, Height: 32}
	bare := expose(t, s, things{ball(0.25)}, 0, Options{Quality: Proof})
	s.Environment.Seen = true
	f := expose(t, s, things{ball(0.25)}, 0, Options{Quality: Proof})
	for i := 0; i < len(f.Pix); i += 4 {
		if want := bare.Pix[i] + 0.7*(1-bare.Pix[i+3]); f.Pix[i+3] != 1 || math.Abs(float64(f.Pix[i]-want)) > 1e-3 {
			t.Fatalf("pixel %d is %g with an alpha of %g; over the sky it would be %g", i/4, f.Pix[i], f.Pix[i+3], want)
		}
	}
}

// A sequence with alpha laid over a colour in linear light is the sequence rendered over it, to 1/65535 of the
// display's range.
func TestOverBlackAndWhite(t *testing.T) {
	s := still(material.Default(), 0.7)
	s.Format = shot.Format{Width: 24, Height: 24}
	f := expose(t, s, things{ball(0.4)}, 0, Options{Quality: Proof})
	for _, behind := range []float64{0, 1} {
		for i := range 24 * 24 {
			straight, alpha := f.pixel(i, s.View, nil)
			whole, one := f.pixel(i, s.View, &Backdrop{High: [3]float64{behind, behind, behind}, Low: [3]float64{behind, behind, behind}})
			if one != 1 {
				t.Fatal("what has a backdrop has an alpha")
			}
			for k := range whole {
				linear := fromDisplay(straight[k])*alpha + behind*(1-alpha)
				if off := math.Abs(fromDisplay(whole[k]) - linear); off > 1.0/65535 {
					t.Fatalf("pixel %d over %g is off by %g of 65535", i, behind, off*65535)
				}
			}
		}
	}
}

// fromDisplay is the sRGB transfer function's inverse (IEC 61966-2-1), by itself.
func fromDisplay(v float64) float64 {
	if v <= 0.04045 {
		return v / 12.92
	}
	return math.Pow((v+0.055)/1.055, 2.4)
}

// A region that stands still stays still under the denoiser: the seeds of frames are those of the pixels, so that the
// same scene gives the same noise, and a thing that moves elsewhere in the picture does not make it flicker.
func TestDenoiserIsSteady(t *testing.T) {
	s := still(material.Material{Name: "wall", BaseColor: [4]float64{0.8, 0.8, 0.8, 1}, Roughness: 1}, 0.3)
	s.Format = shot.Format{Width: 48, Height: 48}
	s.Frames = 24
	s.Parts = append(s.Parts,
		shot.Part{ID: "l", Name: "Lamp", Kind: shot.Light, Rest: shot.Rest{Position: geom.Vec3{-2, 3, 1}, Rotation: geom.LookAlong(geom.Vec3{2, -3, -1}), Size: geom.Vec3{1, 1, 1}}, Light: &shot.LightSpec{Width: 1, Height: 1, Color: [3]float64{1, 1, 1}, Strength: 6}},
		shot.Part{ID: "mover", Name: "Mover", Kind: shot.Solid, Mesh: &shot.MeshRef{Mesh: 1}, Materials: []string{"m"}, Rest: shot.Rest{Position: geom.Vec3{0.45, 0, -0.3}, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}},
			Moves: []shot.Move{{ID: "t", Kind: "turn", Data: &move.Turn{Axis: geom.Vec3{0, 1, 0}, Frame: shot.ParentFrame, Turns: 1, Direction: shot.Clockwise}}}},
	)
	a := things{ball(0.3), sheet(0.1)}
	s.Part("thing").Rest.Position = geom.Vec3{-0.25, 0, 0}
	var sum, squares [48 * 48]float64
	for frame := range 24 {
		f := expose(t, s, a, float64(frame), Options{Quality: Proof, Denoise: true})
		for i := range sum {
			v := math.Sqrt(math.Max(0, float64(f.Pix[4*i+1])))
			sum[i], squares[i] = sum[i]+v, squares[i]+v*v
		}
	}
	worst, mean, n := 0.0, 0.0, 0
	for i := range sum {
		if i%48 > 20 { // the left of the picture, with the ball alone
			continue
		}
		d := math.Sqrt(math.Max(0, squares[i]/24-sum[i]*sum[i]/24/24))
		worst, mean, n = math.Max(worst, d), mean+d, n+1
	}
	t.Logf("flicker over 24 frames, of display white: mean %.5f, most %.5f", mean/float64(n), worst)
	if mean/float64(n) > 0.001 || worst > 0.01 {
		t.Errorf("what stands still flickers by %.4f of white on average, %.4f at most", mean/float64(n), worst)
	}
}

// An edge covers each pixel by the integral of the filter over its half of the plane, at any angle: the Blackman-Harris
// window three pixels wide (Harris 1978), integrated here on a grid.
func TestCoverageOfAHalfPlane(t *testing.T) {
	window := func(x float64) float64 {
		if math.Abs(x) > 1.5 {
			return 0
		}
		p := 2 * math.Pi * (x + 1.5) / 3
		return 0.35875 - 0.48829*math.Cos(p) + 0.14128*math.Cos(2*p) - 0.01168*math.Cos(3*p)
	}
	const steps = 300
	var at, weight [steps]float64
	for i := range steps {
		at[i] = (float64(i)+0.5)/steps*3 - 1.5
		weight[i] = window(at[i])
	}
	for _, degrees := range []float64{0, 17, 45, 80, 131} {
		sin, cos := math.Sincos(degrees * math.Pi / 180)
		s := facing(16, 16)
		// The sheet is 20 wide and stands upright; its edge goes through 0.03, 0.02 with the normal cos, sin.
		const pixel = 2 * 2 * 18.0 / 50 / 16
		thing := s.Part("thing")
		thing.Rest.Rotation = geom.AxisAngle(geom.Vec3{0, 0, 1}, degrees*math.Pi/180).Mul(geom.AxisAngle(geom.Vec3{1, 0, 0}, math.Pi/2))
		thing.Rest.Position = geom.Vec3{0.03 - 10*cos, 0.02 - 10*sin, 0}
		f := expose(t, s, things{sheet(20)}, 0, Options{Quality: Exact})
		worst := 0.0
		for y := range 16 {
			for x := range 16 {
				sum, all := 0.0, 0.0
				for i := range steps {
					for j := range steps {
						u, v := at[i], at[j]
						w := weight[i] * weight[j]
						all += w
						px, py := (float64(x)+0.5+u-8)*pixel, (8-float64(y)-0.5-v)*pixel
						if (px-0.03)*cos+(py-0.02)*sin < 0 {
							sum += w
						}
					}
				}
				worst = math.Max(worst, math.Abs(float64(f.Pix[4*(y*16+x)+3])-sum/all))
			}
		}
		if worst > 0.01 { // 1,024 samples without order would be off by 0.016 on average
			t.Errorf("at %g degrees a pixel's coverage is off by %.4f", degrees, worst)
		}
	}
}
