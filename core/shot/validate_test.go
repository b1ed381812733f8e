package shot

import (
	"errors"
	"math"
	"strings"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/material"
)

// What cannot be is refused, and the refusal says which field of which part it is about, in a sentence. Light that does not
// exist is among it: one accepted sky of -93 ended the process.
func TestWrongFieldsAreNamed(t *testing.T) {
	for name, c := range map[string]struct {
		field  string // with "l " before it if it is the light's
		change func(s *Shot)
	}{
		"sky below 0":         {"environment", func(s *Shot) { s.Environment.Horizon[1] = -93 }},
		"sky no number":       {"environment", func(s *Shot) { s.Environment.Zenith[0] = math.NaN() }},
		"sky endless":         {"environment", func(s *Shot) { s.Environment.Ground[2] = math.Inf(1) }},
		"strength":            {"environment", func(s *Shot) { s.Environment.Strength = 1e30 }},
		"backdrop":            {"backdrop", func(s *Shot) { s.Backdrop = &[3]float64{0, 2, 0} }},
		"backdrop's low end":  {"backdrop", func(s *Shot) { s.BackdropLow = &[3]float64{0, 0, -1} }},
		"light":               {"l light", func(s *Shot) { s.Parts[0].Light.Strength = -1 }},
		"roughness":           {"materials", func(s *Shot) { s.Materials[0].Roughness = 1.5 }},
		"glow":                {"materials", func(s *Shot) { s.Materials[0].Emissive[0] = -1 }},
		"index of refraction": {"materials", func(s *Shot) { s.Materials[0].IOR = 0.2 }},
		"no frames":           {"frames", func(s *Shot) { s.Frames = 0 }},
		"rate":                {"rate", func(s *Shot) { s.Rate.Den = 0 }},
		"huge picture":        {"format", func(s *Shot) { s.Format.Width = MaxSide + 1 }},
		"place":               {"l rest", func(s *Shot) { s.Parts[0].Rest.Position[1] = math.Inf(-1) }},
		"size 0":              {"l rest.size", func(s *Shot) { s.Parts[0].Rest.Size[2] = 0 }},
		"turn":                {"l rest.rotation", func(s *Shot) { s.Parts[0].Rest.Rotation = geom.Quat{} }},
		"no kind":             {"l kind", func(s *Shot) { s.Parts[0].Kind = "thing" }},
		"material gone":       {"l materials", func(s *Shot) { s.Parts[0].Materials = []string{"gone"} }},
		"two tracks": {"l tracks", func(s *Shot) {
			s.Parts[0].Tracks = []Track{{Value: TrackX, Pins: []Pin{{}}}, {Value: TrackX, Pins: []Pin{{}}}}
		}},
		"pin no number": {"l tracks", func(s *Shot) { s.Parts[0].Tracks = []Track{{Value: TrackX, Pins: []Pin{{Value: math.NaN()}}}} }},
		"camera gone":   {"camera", func(s *Shot) { s.Camera = "gone" }},
		"floor's side":  {"l ground", func(s *Shot) { s.Parts[0].Ground = 1 }},
	} {
		s := New("light")
		s.Materials = []material.Material{{ID: "m", Name: "Plain", BaseColor: [4]float64{1, 1, 1, 1}}}
		s.Parts = []Part{{ID: "l", Name: "Lamp", Kind: Light, Rest: AtRest, Light: &LightSpec{Width: 1, Height: 1, Strength: 1}}}
		if err := s.Validate(); err != nil {
			t.Fatal(err)
		}
		c.change(s)
		var wrong *FieldError
		err := s.Validate()
		if !errors.As(err, &wrong) {
			t.Errorf("%s: %v", name, err)
			continue
		}
		if got := strings.TrimSpace(wrong.Part + " " + wrong.Field); got != c.field {
			t.Errorf("%s: the field is %q, want %q: %v", name, got, c.field, err)
		}
		if named := strings.HasPrefix(err.Error(), `part "Lamp": `); named != (wrong.Part != "") {
			t.Errorf("%s: %v", name, err)
		}
		s.Materials[0].Limit()
		if err := s.Materials[0].Validate(); err != nil {
			t.Error(err)
		}
	}
}
