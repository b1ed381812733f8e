package shot

import (
	"math"
	"testing"

	"perigyre/core/material"
)

// Light that does not exist, and surfaces that do not, are refused: one accepted sky of -93 ended the process.
func TestNumbersOfLightAndSurfaces(t *testing.T) {
	for name, change := range map[string]func(*Shot){
		"sky below 0":         func(s *Shot) { s.Environment.Horizon[1] = -93 },
		"sky no number":       func(s *Shot) { s.Environment.Zenith[0] = math.NaN() },
		"sky endless":         func(s *Shot) { s.Environment.Ground[2] = math.Inf(1) },
		"strength":            func(s *Shot) { s.Environment.Strength = 1e30 },
		"backdrop":            func(s *Shot) { s.Backdrop = &[3]float64{0, 2, 0} },
		"backdrop's low end":  func(s *Shot) { s.BackdropLow = &[3]float64{0, 0, -1} },
		"light":               func(s *Shot) { s.Parts[0].Light.Strength = -1 },
		"roughness":           func(s *Shot) { s.Materials[0].Roughness = 1.5 },
		"glow":                func(s *Shot) { s.Materials[0].Emissive[0] = -1 },
		"index of refraction": func(s *Shot) { s.Materials[0].IOR = 0.2 },
	} {
		s := New("light")
		s.Materials = []material.Material{{ID: "m", Name: "Plain", BaseColor: [4]float64{1, 1, 1, 1}}}
		s.Parts = []Part{{ID: "l", Name: "L", Kind: Light, Rest: AtRest, Light: &LightSpec{Width: 1, Height: 1, Strength: 1}}}
		if err := s.Validate(); err != nil {
			t.Fatal(err)
		}
		if change(s); s.Validate() == nil {
			t.Errorf("%s: the document is valid", name)
		}
		s.Materials[0].Limit()
		if err := s.Materials[0].Validate(); err != nil {
			t.Error(err)
		}
	}
}
