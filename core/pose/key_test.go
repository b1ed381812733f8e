package pose

import (
	"math"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

// round is a world in which every part looks the same after a number of turns about its upright axis.
type round struct{ turns int }

func (round) Surface(*shot.Part) ([]geom.Vec3, []uint32, error) { return nil, nil, nil }
func (r round) Turns(*shot.Shot, *shot.Part) (int, int, geom.Vec3, float64) {
	return r.turns, 1, geom.Vec3{}, 1
}

// A turntable of 96 frames shows as many pictures as there are frames between two places that look the same: by the
// turns of one thing, or by three of a kind that stand around the axis. It shows all 96 where one of them is another or
// parts have to be told apart.
func TestMomentsThatLookTheSame(t *testing.T) {
	solid := func(id string, at geom.Vec3, mesh int) shot.Part {
		p := shot.Part{ID: id, Name: id, Parent: "table", Kind: shot.Solid, Rest: shot.AtRest, Mesh: &shot.MeshRef{Mesh: mesh}}
		p.Rest.Position = at
		return p
	}
	posts := func(meshes ...int) (out []shot.Part) {
		for k, m := range meshes {
			sin, cos := math.Sincos(2 * math.Pi * float64(k) / 3)
			p := solid(string(rune('a'+k)), geom.Vec3{sin, 0, cos}, m)
			p.Rest.Rotation = geom.AxisAngle(geom.Vec3{0, 1, 0}, 2*math.Pi*float64(k)/3)
			out = append(out, p)
		}
		return out
	}
	for _, c := range []struct {
		name  string
		world Surfaces
		parts []shot.Part
		blur  bool
		asked Asked
		want  int
	}{
		{"a thing of 4 sides", round{4}, []shot.Part{solid("a", geom.Vec3{}, 0)}, false, Asked{}, 24},
		{"and blurred", round{4}, []shot.Part{solid("a", geom.Vec3{}, 0)}, true, Asked{}, 24},
		{"of one side", round{1}, []shot.Part{solid("a", geom.Vec3{}, 0)}, false, Asked{}, 96},
		{"of 4 sides, off the axis", round{4}, []shot.Part{solid("a", geom.Vec3{1, 0, 0}, 0)}, false, Asked{}, 96},
		{"three posts", nil, posts(0, 0, 0), false, Asked{}, 32},
		{"with the way of each", nil, posts(0, 0, 0), false, Asked{Near: []float64{-0.5, 0.5}}, 32},
		{"told apart", nil, posts(0, 0, 0), false, Asked{Apart: true}, 96},
		{"one of another kind", nil, posts(0, 0, 1), false, Asked{}, 96},
	} {
		s := shot.New("t")
		cam := shot.Part{ID: "cam", Name: "Camera", Kind: shot.Camera, Rest: shot.AtRest, Camera: &shot.Lens{Focal: 50, SensorWidth: 36, SensorHeight: 24, Sensor: shot.FitLonger}}
		if c.blur {
			cam.Camera.Shutter = 180
		}
		s.Parts = append([]shot.Part{group("table", "", geom.Vec3{}, spin(1))}, append(c.parts, cam)...)
		s.Camera = "cam"
		if err := s.Validate(); err != nil {
			t.Fatal(err)
		}
		e := New(s)
		seen := map[string]bool{}
		for f := range s.Frames {
			k, err := e.Key(float64(f), c.world, c.asked)
			if err != nil {
				t.Fatal(err)
			}
			seen[k] = true
		}
		if len(seen) != c.want {
			t.Errorf("%s on a turntable of %d frames: %d pictures, want %d", c.name, s.Frames, len(seen), c.want)
		}
	}
}
