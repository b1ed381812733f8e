package library

import (
	"fmt"
	"math"

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
	Warnings  []string `json:"warnings"`
}

// measure fills in counts, bounds and the warnings that follow from them.
func (r *Report) measure(m *model.Model, unit string) error {
	r.Parts, r.Triangles, r.Vertices = m.Count()
	r.Materials, r.Textures = len(m.Materials), len(m.Images)
	r.Missing, r.LeftOut = append([]string{}, m.Missing...), append([]string{}, m.LeftOut...)
	r.Bounds = m.Bounds()
	size := r.Bounds.Size()
	largest := math.Max(size[0], math.Max(size[1], size[2]))
	if !(largest > 0) || math.IsInf(largest, 0) {
		return fmt.Errorf("the model has no size: all its points are in one place, or too far apart")
	}
	switch {
	case unit != "":
		if shot.Units[unit] == 0 {
			return fmt.Errorf("the unit %q is none of m, cm, mm, in and ft", unit)
		}
		r.Unit, r.UnitWhy = unit, "as chosen"
	case m.Unit != "":
		r.Unit, r.UnitWhy = m.Unit, "the format's own"
	case largest > 10: // common practice, no source: models without a unit come from engineering, in millimetres
		r.Unit, r.UnitWhy = "mm", "guessed from its size"
	default:
		r.Unit, r.UnitWhy = "m", "guessed from its size"
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
