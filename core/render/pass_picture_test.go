package render

import (
	"testing"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/move"
	"perigyre/core/shot"
)

// Passes that are asked for change nothing of the picture: it is the same to the bit, with each of them.
func TestPassesLeaveThePictureAsItIs(t *testing.T) {
	s := facing(16, 16)
	s.Part("thing").Moves = []shot.Move{{ID: "m", Kind: "slide", Data: &move.Slide{By: geom.Vec3{2, 0, 0}, Frame: shot.ParentFrame}}}
	s.Part("cam").Camera.Shutter = 180
	s.Environment.Strength, s.Format.Height = 0.5, 16
	s.Parts = append(s.Parts, shot.Part{ID: "l", Name: "Light", Kind: shot.Light, Rest: shot.Rest{Position: geom.Vec3{2, 3, 2}, Rotation: geom.LookAlong(geom.Vec3{-2, -3, -2}), Size: geom.Vec3{1, 1, 1}}, Moves: []shot.Move{},
		Light: &shot.LightSpec{Kind: shot.Softbox, Width: 0.5, Height: 0.5, Color: [3]float64{1, 1, 1}, Strength: 20}})
	under := shot.Part{ID: "under", Name: "Under", Kind: shot.Made, Rest: shot.AtRest, Moves: []shot.Move{}, Materials: []string{"m"}, Shape: &mesh.Shape{Kind: mesh.SphereShape, Radius: 0.4, Sides: 24}}
	under.Rest.Position = geom.Vec3{0, -0.8, 0}
	s.Parts = append(s.Parts, under)
	s.Materials[0].Unlit = false
	s.Materials[0].Roughness = 0.4
	s.Materials[0].Metallic = 0.3
	for _, denoise := range []bool{false, true} {
		for _, q := range []Quality{Proof} {
			want := expose(t, s, things{ball(0.5)}, 0, Options{Quality: q, Denoise: denoise})
			for _, p := range Passes {
				got := expose(t, s, things{ball(0.5)}, 0, Options{Quality: q, Denoise: denoise, Passes: []Pass{p}})
				worst := float32(0)
				for i, v := range got.Pix {
					worst = max(worst, abs(v-want.Pix[i]))
				}
				if worst != 0 {
					t.Errorf("%s at %s, denoised %v: the picture differs by up to %g", p, q, denoise, worst)
				}
			}
		}
	}
}
