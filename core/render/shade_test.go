package render

import (
	"math"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/shot"
)

// The shadow of a ball on the floor, of a few samples, is less than half as far from what many say once it is smoothed, under a sky that
// throws a soft one and under a sun that throws a hard one; and it is no lighter or darker on the whole.
func TestShadowsAreSmoothed(t *testing.T) {
	for name, sun := range map[string]float64{"soft": 0, "hard": 3e4} {
		s := still(material.Material{Name: "white", BaseColor: [4]float64{1, 1, 1, 1}, Roughness: 1}, 1)
		s.Format = shot.Format{Width: 80, Height: 80}
		s.Part("thing").Rest.Position = geom.Vec3{0, 0.3, 0}
		s.Parts = append(s.Parts, shot.Part{ID: "floor", Name: "Floor", Kind: shot.Floor, Rest: shot.AtRest, Fade: new(float64)})
		if sun > 0 {
			s.Parts = append(s.Parts, shot.Part{ID: "sun", Name: "Sun", Kind: shot.Light, Rest: shot.Rest{Rotation: geom.LookAlong(geom.Vec3{1, -1, 0.3}), Size: geom.Vec3{1, 1, 1}},
				Light: &shot.LightSpec{Kind: shot.Sun, Angle: 0.01, Color: [3]float64{1, 1, 1}, Strength: sun}})
		}
		a := things{ball(0.3)}
		want := expose(t, s, a, 0, Options{Quality: Draft, Samples: 800, Random: true})
		off := func(denoise bool) (rms, bias float64) {
			got := expose(t, s, a, 0, Options{Quality: Draft, Samples: 12, Denoise: denoise})
			n := 0.0
			for i := range 80 * 80 {
				if want.Pix[4*i] > 0 || got.Pix[4*i] > 0 { // the ball
					continue
				}
				d := float64(got.Pix[4*i+3] - want.Pix[4*i+3])
				rms, bias, n = rms+d*d, bias+d, n+1
			}
			return math.Sqrt(rms / n), bias / n
		}
		rough, _ := off(false)
		smooth, bias := off(true)
		if !(smooth < 0.45*rough) || math.Abs(bias) > 0.004 {
			t.Errorf("%s: off by %.4f, smoothed by %.4f, on the whole by %.5f", name, rough, smooth, bias)
		}
	}
}
