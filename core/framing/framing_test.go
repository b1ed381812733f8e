package framing

import (
	"math"
	"math/rand/v2"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/move"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

type cloud map[string][]geom.Vec3

func (cloud) Surface(*shot.Part) ([]geom.Vec3, []uint32, error) { return nil, nil, nil }

func (cloud) Flesh(*shot.Part) (*mesh.Mesh, error) { return &mesh.Mesh{}, nil }

func (c cloud) Support(p *shot.Part) (*mesh.Support, error) { return mesh.NewSupport(c[p.ID]), nil }

// Photographic handbooks: 50 mm on a sensor 36 mm wide sees 39.6 degrees; 35 mm sees 54.4; on the
// 24 mm side 50 mm sees 27.0.
func TestFieldOfView(t *testing.T) {
	for _, c := range []struct {
		focal  float64
		sensor shot.SensorFit
		want   float64
	}{{50, shot.FitWidth, 39.6}, {35, shot.FitWidth, 54.4}} {
		h, _ := Optics(&shot.Lens{Focal: c.focal, SensorWidth: 36, SensorHeight: 24, Sensor: c.sensor}, shot.Format{Width: 3, Height: 2}).Degrees()
		if math.Abs(h-c.want) > 0.05 {
			t.Errorf("%g mm sees %.2f degrees, the handbook says %g", c.focal, h, c.want)
		}
	}
	_, v := Optics(&shot.Lens{Focal: 50, SensorWidth: 36, SensorHeight: 24, Sensor: shot.FitHeight}, shot.Format{Width: 1, Height: 1}).Degrees()
	if math.Abs(v-27) > 0.05 {
		t.Errorf("50 mm sees %.2f degrees upright, the handbook says 27.0", v)
	}
}

func testShot(rng *rand.Rand, moves string) (*shot.Shot, cloud) {
	s := shot.New("t")
	s.Frames = 24 + rng.IntN(50)
	s.Format = shot.Format{Width: 400 + rng.IntN(1600), Height: 400 + rng.IntN(1600)}
	look := geom.AxisAngle(geom.Vec3{0, 1, 0}, rng.Float64()*6).Mul(geom.AxisAngle(geom.Vec3{1, 0, 0}, rng.Float64()-0.8))
	s.Parts = []shot.Part{
		{ID: "table", Name: "Turntable", Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{{
			ID: "m", Kind: "turntable", Data: &move.Turntable{Moves: moves, Direction: shot.Clockwise, Turns: 1},
		}}},
		{ID: "thing", Name: "Thing", Parent: "table", Kind: shot.Group, Rest: shot.AtRest},
		{ID: "cam", Name: "Camera", Kind: shot.Camera, Rest: shot.Rest{Rotation: look, Size: geom.Vec3{1, 1, 1}},
			Camera: &shot.Lens{Focal: 30 + rng.Float64()*60, SensorWidth: 36, SensorHeight: 24, Sensor: shot.FitLonger, Margin: 8}},
	}
	s.Camera = "cam"
	pts := make([]geom.Vec3, 300)
	for i := range pts {
		pts[i] = geom.Vec3{rng.NormFloat64() * 0.1, rng.Float64() * 0.4, rng.NormFloat64() * 0.05}
	}
	return s, cloud{"thing": pts}
}

// The fit against brute force: every point on every frame projected through the fitted camera lies
// inside the margins, some point touches them, and no camera a little nearer, wherever it is moved
// sideways, keeps everything inside.
func TestFitAgainstBruteForce(t *testing.T) {
	rng := rand.New(rand.NewPCG(7, 8))
	for round := range 10 {
		moves := "object"
		if round%2 == 1 {
			moves = "camera"
		}
		s, g := testShot(rng, moves)
		lens := s.Part("cam").Camera
		switch {
		case round >= 8:
			lens.Across = 1 // orthographic
		case round >= 4:
			lens.ShiftX, lens.ShiftY = 20*rng.Float64()-10, 20*rng.Float64()-10
		}
		if err := s.Validate(); err != nil {
			t.Fatal(err)
		}
		u, err := NewSubject(s, g, nil)
		if err != nil {
			t.Fatal(err)
		}
		fit, err := u.Fit()
		if err != nil {
			t.Fatal(err)
		}
		at := fit.At
		if lens.Across > 0 {
			lens.Across = fit.Across
		}
		view := Optics(lens, s.Format)
		// worst returns how far the worst point is out of the margins, as a share of the half size,
		// at moments of its own choosing.
		worst := func(position geom.Vec3) float64 {
			s.Part("cam").Rest.Position = position
			e := pose.New(s)
			most := math.Inf(-1)
			for k := 0; k < 240; k++ {
				world := e.At(float64(k) / 240 * float64(s.Frames))
				inv, _ := world[2].Inverse()
				for _, p := range g["thing"] {
					q := inv.Mul(world[1]).Point(p)
					x, y, _ := view.Seen(q)
					most = math.Max(most, math.Max(math.Abs(x), math.Abs(y)))
				}
			}
			return most - (1 - 0.16)
		}
		w := worst(at)
		if math.Abs(w) > 3e-4 {
			t.Fatalf("round %d: the worst point is %+.5f from the margin", round, w)
		}
		q := s.Part("cam").Rest.Rotation
		for try := range 20 {
			nearer := at.Add(q.Rotate(geom.Vec3{rng.NormFloat64() * 0.003 * float64(try%5), rng.NormFloat64() * 0.003 * float64(try%5), -0.004}))
			if lens.Across > 0 { // its distance does not matter, its width does
				view = Optics(&shot.Lens{Across: fit.Across * 0.99}, s.Format)
			}
			if worst(nearer) < 1e-9 {
				t.Fatalf("round %d: a camera 4 mm nearer, or 1 %% narrower, also holds everything", round)
			}
		}
		s.Part("cam").Rest.Position = at
		u, _ = NewSubject(s, g, nil)
		m, ok, _ := u.Margins()
		if !ok || math.Abs(m.Tightest-8) > 0.02 {
			t.Errorf("round %d: the margin is measured as %.3f %%, the fit was asked for 8", round, m.Tightest)
		}
	}
}

// A camera that orbits and bobs, and copies that each jump at their own time: on every frame every point of
// every copy, projected by brute force, is inside the margins, and some point touches them.
func TestMovingCameraAndCopiesFit(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 4))
	s, g := testShot(rng, "object")
	s.Frames, s.Ending = 48, shot.Loop
	s.Parts[0].Moves = nil
	s.Parts[1].Hidden = true
	s.Parts[1].Kind = shot.Solid
	s.Parts[1].Mesh = &shot.MeshRef{Asset: "a"}
	s.Parts[1].Moves = []shot.Move{{ID: "f", Kind: "float", Data: &move.Float{Height: 0.4, Period: 24}}}
	s.Parts[2].Moves = []shot.Move{{ID: "o", Kind: "orbit", Data: &move.Orbit{Turns: 1, Radius: 1, Height: 0.5, Wave: 0.2, Waves: 2}}}
	s.Parts = append(s.Parts, shot.Part{ID: "row", Name: "Row", Kind: shot.Copies, Rest: shot.AtRest, Copies: &shot.Spread{
		Of: "thing", Kind: shot.Row, Count: [3]int{5, 1, 1}, Step: geom.Vec3{0.3, 0, 0}, Delay: 7,
	}})
	if err := s.Validate(); err != nil {
		t.Fatal(err)
	}
	u, err := NewSubject(s, g, nil)
	if err != nil {
		t.Fatal(err)
	}
	fit, err := u.Fit()
	if err != nil {
		t.Fatal(err)
	}
	s.Parts[2].Camera.Offset = fit.At
	e := pose.New(s)
	view := Optics(s.Part("cam").Camera, s.Format)
	most := 0.0
	for f := range s.Frames {
		world := e.At(float64(f))
		inv, _ := world[2].Inverse()
		spreads, _ := e.Spreads(float64(f), world, g)
		for _, place := range spreads[0].Places {
			m := inv.Mul(world[3]).Mul(place)
			for _, p := range g["thing"] {
				q := m.Point(p)
				most = math.Max(most, math.Max(math.Abs(q[0])/(-q[2])/view.Width, math.Abs(q[1])/(-q[2])/view.Height))
			}
		}
	}
	if out := most - (1 - 0.16); out > 1e-6 || out < -5e-3 { // the tightest moment may lie between frames
		t.Errorf("the worst point is %+.5f from the margin", out)
	}
}

// A point on the view axis is in the middle; one at the edge of the field of view at the edge of the picture.
func TestProject(t *testing.T) {
	l := &shot.Lens{Focal: 50, SensorWidth: 36, SensorHeight: 24, Sensor: shot.FitWidth}
	f := shot.Format{Width: 360, Height: 240}
	cam := geom.TRS(geom.Vec3{1, 2, 3}, geom.AxisAngle(geom.Vec3{0, 1, 0}, math.Pi/2), geom.Vec3{1, 1, 1}) // looks along -x
	x, y, d, ok := Project(cam, l, f, geom.Vec3{-1, 2, 3})
	if !ok || math.Abs(x-180) > 1e-9 || math.Abs(y-120) > 1e-9 || math.Abs(d-2) > 1e-12 {
		t.Errorf("a point straight ahead is seen at %g, %g, depth %g", x, y, d)
	}
	// To its right, which is -z, by half the sensor over the focal length, and as far up.
	x, y, _, _ = Project(cam, l, f, geom.Vec3{-1, 2 + 2*12.0/50, 3 - 2*18.0/50})
	if math.Abs(x-360) > 1e-9 || math.Abs(y) > 1e-9 {
		t.Errorf("the upper right corner is seen at %g, %g", x, y)
	}
	if _, _, _, ok = Project(cam, l, f, geom.Vec3{2, 2, 3}); ok {
		t.Error("what is behind the camera is seen")
	}
}
