package library

import (
	"fmt"
	"math"
	"path"
	"strings"

	"perigyre/core/geom"
	"perigyre/core/model"
	"perigyre/core/shot"
)

// Report says what arrived.
type Report struct {
	File      string   `json:"file"`
	Parts     int      `json:"parts"`
	Triangles int      `json:"triangles"`
	Vertices  int      `json:"vertices"`
	Materials int      `json:"materials"`
	Textures  int      `json:"textures"`
	Missing   []string `json:"missing"`
	LeftOut   []string `json:"leftOut"`
	Bounds    geom.Box `json:"bounds"` // in Unit
	Unit      string   `json:"unit"`
	UnitWhy   string   `json:"unitWhy"` // where the unit comes from
	Up        string   `json:"up"`      // the file's upright axis
	UpWhy     string   `json:"upWhy"`   // where that comes from
	Warnings  []string `json:"warnings"`
	Became    []string `json:"became"` // what else the file holds, and what it became
}

// measure fills in counts, bounds and the warnings that follow from them.
func (r *Report) measure(m *model.Model, unit string) error {
	r.Parts, r.Triangles, r.Vertices = m.Count()
	r.Materials, r.Textures = len(m.Materials), len(m.Images)
	r.Missing, r.LeftOut = append([]string{}, m.Missing...), append([]string{}, m.LeftOut...)
	r.Became = became(m)
	r.Bounds = m.Bounds()
	size := r.Bounds.Size()
	largest := math.Max(size[0], math.Max(size[1], size[2]))
	if !(largest > 0) || math.IsInf(largest, 0) {
		return fmt.Errorf("the model has no size: all its points are in one place, or too far apart")
	}
	if unit != "" && shot.Units[unit] == 0 {
		return fmt.Errorf("the unit %q is none of m, cm, mm, in and ft", unit)
	}
	r.Unit, r.UnitWhy = unit, "as chosen"
	if unit == "" {
		r.Unit, r.UnitWhy = guessUnit(m, largest)
	}
	r.Up, r.UpWhy = guessUp(m, r.File)
	single := 0
	for i := range m.Materials {
		if !m.Materials[i].DoubleSided {
			single++
		}
	}
	if single > 0 {
		r.Became = append(r.Became, fmt.Sprintf("%s single-sided in the file. Backs are shown all the same, so that no light falls in; a material can be seen through from behind, under Textures.", count(single, "material is", "materials are")))
	}
	metres := largest * shot.Units[r.Unit]
	if metres > 50 {
		r.Warnings = append(r.Warnings, fmt.Sprintf("It is %.4g m large. If that is too much, choose another unit.", metres))
	}
	if metres < 0.002 {
		r.Warnings = append(r.Warnings, fmt.Sprintf("It is only %.3g mm large. If that is too little, choose another unit.", metres*1000))
	}
	if off := r.Bounds.Centre().Len(); off > 20*largest {
		r.Warnings = append(r.Warnings, fmt.Sprintf("It lies %.4g times its own size from the origin of its file. It was brought to the turntable; fine detail may have been lost to rounding.", off/largest))
	}
	r.Warnings = append(r.Warnings, m.Warnings...)
	return nil
}

// guessUnit returns what one unit of the file is, and why. Common practice, no source: models without
// a unit come from engineering in millimetres, unless that would make them smaller than a fingertip.
func guessUnit(m *model.Model, largest float64) (unit, why string) {
	switch {
	case m.Unit != "":
		return m.Unit, "the format's own"
	case largest >= 15:
		return "mm", fmt.Sprintf("guessed: %.4g units are a thing of %.4g mm rather than of %.4g m", largest, largest, largest)
	case largest < 3:
		return "m", fmt.Sprintf("guessed: %.3g units are a thing of %.3g m rather than of %.3g mm", largest, largest, largest)
	}
	return "cm", fmt.Sprintf("guessed: %.3g units are a thing of %.3g cm rather than of %.3g mm or m", largest, largest, largest)
}

// guessUp returns the upright axis, and why. Common practice, no source: STL comes from engineering
// and printing, where z is up; and a model that stands with its lowest point at 0 on one axis alone
// stands on that axis.
func guessUp(m *model.Model, file string) (up, why string) {
	if m.Up != "" {
		return m.Up, "the format's own"
	}
	box := m.Bounds()
	size := box.Size()
	stands := func(a int) bool { return math.Abs(box.Min[a]) < 1e-3*size[a] }
	switch {
	case stands(2) && !stands(1):
		return "z", "guessed: it stands on z = 0"
	case stands(1) && !stands(2):
		return "y", "guessed: it stands on y = 0"
	case strings.EqualFold(path.Ext(file), ".stl"):
		return "z", "guessed: STL files are mostly made with z upright"
	}
	return "y", "guessed: nothing says otherwise"
}

// became says in words what an animation, variants and lights turn into.
func became(m *model.Model) []string {
	out := []string{}
	for i, a := range m.Animations {
		parts := map[int]bool{}
		from, to := a.Channels[0].Times[0], float32(0)
		for _, c := range a.Channels {
			parts[c.Node] = true
			from, to = min(from, c.Times[0]), max(to, c.Times[len(c.Times)-1])
		}
		does := "can be played"
		if i == 0 {
			does = "is played"
		}
		out = append(out, fmt.Sprintf("The clip %s, %.4g s long, moves %s and %s.", a.Name, to-from, count(len(parts), "part", "parts"), does))
	}
	bones := map[int]bool{}
	for _, n := range m.Nodes {
		if n.Skin > 0 {
			for _, j := range m.Skins[n.Skin-1].Joints {
				bones[j] = true
			}
		}
	}
	if len(bones) > 0 {
		out = append(out, fmt.Sprintf("%s became parts that its meshes hang on.", count(len(bones), "bone", "bones")))
	}
	if n := len(m.Variants); n > 0 {
		out = append(out, fmt.Sprintf("Variants of its materials became %s: %s.", count(n, "finish", "finishes"), short(m.Variants)))
	}
	lamps := 0
	for _, n := range m.Nodes {
		if n.Light != nil {
			lamps++
		}
	}
	if lamps > 0 {
		out = append(out, fmt.Sprintf("%s came along, turned off: the shot has its own.", count(lamps, "light", "lights")))
	}
	return out
}
