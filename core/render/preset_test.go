package render

import (
	"testing"

	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/shot"
)

// In a white furnace, light of 1 from everywhere, nothing sends back more than it gets: no material to start from makes light,
// but for the one that glows.
func TestPresetsInAWhiteFurnace(t *testing.T) {
	if n := len(material.Presets); n < 16 {
		t.Fatalf("there are %d", n)
	}
	seen := map[string]bool{}
	for _, p := range material.Presets {
		if m := p.Material.Clone(); m.Validate() != nil || seen[p.Name] || p.Note == "" {
			t.Errorf("%s: %v", p.Name, m.Validate())
		}
		seen[p.Name] = true
		if p.Material.Emissive != [3]float64{} {
			continue
		}
		m := p.Material.Clone()
		f := picture32(t, still(m, 1), things{ball(0.5)}, Proof, 0)
		sum, n := [3]float64{}, 0.0
		for i := range f.Width * f.Height {
			if a := f.Pix[4*i+3]; a > 0.999 {
				for k := range sum {
					sum[k] += float64(f.Pix[4*i+k])
				}
				n++
			}
		}
		for k, v := range sum {
			if v/n > 1.01 || v < 0 {
				t.Errorf("%s sends back %.3f of component %d", p.Name, v/n, k)
			}
		}
		if m.Transmission == 0 && sum[0]+sum[1]+sum[2] < 0.03*n {
			t.Errorf("%s is black", p.Name)
		}
	}
}

// The floor's shadow is gone at the picture's edges, whole further in than its fade, and on the edges where there is no fade.
func TestTheFloorsShadowFadesBeforeTheEdge(t *testing.T) {
	m := material.Default()
	s := still(m, 1)
	floor := shot.Part{ID: "f", Name: "Floor", Kind: shot.Floor, Rest: shot.AtRest}
	s.Parts = append(s.Parts, floor)
	s.Part("thing").Rest.Position = geom.Vec3{0, 3, 0} // out of sight, over a picture full of its shadow
	at := func(fade float64) *Film {
		s.Part("f").Fade = &fade
		return picture32(t, s, things{sheet(40)}, Final, 0)
	}
	none, some := at(0), at(0.25)
	alpha := func(f *Film, x, y int) float64 { return float64(f.Pix[4*(y*f.Width+x)+3]) }
	for _, p := range [][2]int{{0, 16}, {31, 16}, {16, 0}, {16, 31}, {0, 0}} {
		if a, b := alpha(none, p[0], p[1]), alpha(some, p[0], p[1]); a < 0.5 || b > 0.02 {
			t.Errorf("at %v the shadow has an alpha of %.3f, faded %.3f", p, a, b)
		}
	}
	if a, b := alpha(none, 16, 16), alpha(some, 16, 16); a != b {
		t.Errorf("in the middle it is %.4f without a fade and %.4f with one", a, b)
	}
}
