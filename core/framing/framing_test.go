package framing

import (
	"math"
	"math/rand/v2"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

type cloud map[string][]geom.Vec3

func (c cloud) Points(p *shot.Part) ([]geom.Vec3, error) { return c[p.ID], nil }

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

func testShot(rng *rand.Rand, moves shot.TurntableMoves) (*shot.Shot, cloud) {
	s := shot.New("t")
	s.Frames = 24 + rng.IntN(50)
	s.Format = shot.Format{Width: 400 + rng.IntN(1600), Height: 400 + rng.IntN(1600)}
	look := geom.AxisAngle(geom.Vec3{0, 1, 0}, rng.Float64()*6).Mul(geom.AxisAngle(geom.Vec3{1, 0, 0}, rng.Float64()-0.8))
	s.Parts = []shot.Part{
		{ID: "table", Name: "Turntable", Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{{
			ID: "m", Kind: shot.KindTurntable, Turntable: &shot.Turntable{Moves: moves, Direction: shot.Clockwise, Turns: 1},
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
	for round := range 6 {
		moves := shot.ObjectMoves
		if round%2 == 1 {
			moves = shot.CameraMoves
		}
		s, g := testShot(rng, moves)
		if err := s.Validate(); err != nil {
			t.Fatal(err)
		}
		e := pose.New(s)
		bodies, _ := Bodies(e, g, nil)
		at, err := Fit(e, bodies)
		if err != nil {
			t.Fatal(err)
		}
		view := Optics(s.Part("cam").Camera, s.Format)
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
					most = math.Max(most, math.Abs(q[0])/(-q[2])/view.Width)
					most = math.Max(most, math.Abs(q[1])/(-q[2])/view.Height)
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
			if worst(nearer) < 1e-9 {
				t.Fatalf("round %d: a camera 4 mm nearer also holds everything", round)
			}
		}
		s.Part("cam").Rest.Position = at
		e = pose.New(s)
		m, ok := Measure(e, bodies)
		if !ok || math.Abs(m.Tightest-8) > 0.02 {
			t.Errorf("round %d: the margin is measured as %.3f %%, the fit was asked for 8", round, m.Tightest)
		}
	}
}
