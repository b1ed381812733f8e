package check

import (
	"perigyre/core/motion"
	"perigyre/core/scene"
)

// Light: nothing gives any, so that every frame is black.
func init() {
	register(25, func(f *Facts) []Finding {
		e := f.Pose
		if e.Index.Part(e.Shot.Camera) < 0 {
			return nil
		}
		n := float64(e.Shot.Frames)
		for _, t := range []float64{0, n / 4, n / 2, n * 3 / 4} {
			s, _, err := scene.Moment(e, motion.At(e.Shot, t), f.Geometry)
			if err != nil || gives(s) {
				return nil
			}
		}
		return []Finding{{Kind: "dark", Weight: Blocks, Title: "Nothing is lit", Unit: "lights",
			Why: "No light is on, the surroundings are black, and nothing glows: every frame would be black. Choose a rig in Light."}}
	})
}

// gives reports whether something in a scene gives light.
func gives(s *scene.Scene) bool {
	some := func(c [3]float64, k float64) bool { return k > 0 && (c[0] > 0 || c[1] > 0 || c[2] > 0) }
	sky := &s.Sky
	if sky.Strength > 0 && (sky.Picture != "" || some(sky.Zenith, 1) || some(sky.Horizon, 1) || some(sky.Ground, 1)) {
		return true
	}
	for i := range s.Lights {
		if some(s.Lights[i].Color, s.Lights[i].Strength) {
			return true
		}
	}
	for i := range s.Bodies {
		for k := range s.Bodies[i].Surfaces {
			if m := &s.Bodies[i].Surfaces[k]; some(m.Emissive, 1) || m.Unlit {
				return true
			}
		}
	}
	return false
}
