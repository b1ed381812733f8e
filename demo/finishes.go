package demo

import (
	"fmt"
	"slices"

	"perigyre/core/edit"
	"perigyre/core/geom"
	"perigyre/core/material"
)

// Finishes dresses the lantern in four colourways and keeps two angles of it.
type Finishes struct{}

// Do implements edit.Change.
func (*Finishes) Do(w *edit.Work) (string, error) {
	w.Shot.Name = "Four finishes"
	of := func(name string) string {
		i := slices.IndexFunc(w.Shot.Materials, func(m material.Material) bool { return m.Name == name })
		if i < 0 {
			return ""
		}
		return w.Shot.Materials[i].ID
	}
	paint, brass := of("Harbour blue"), of("Brass")
	if paint == "" || brass == "" {
		return "", fmt.Errorf("the lantern has not got the materials that it is known by")
	}
	steps := []edit.Change{&edit.KeepAngle{Name: "Three-quarter"}}
	for _, f := range []struct {
		name  string
		paint edit.Dress
		metal edit.Dress
	}{
		{"Harbour", edit.Dress{}, edit.Dress{}},
		{"Oat", edit.Dress{Preset: "chalk paint"}, edit.Dress{}},
		{"Signal", edit.Dress{Preset: "satin paint"}, edit.Dress{Preset: "polished metal"}},
		{"Night", edit.Dress{Preset: "dark metal"}, edit.Dress{Preset: "polished metal"}},
	} {
		id := w.NewID()
		steps = append(steps, &edit.SetFinish{}, &edit.AddFinish{ID: id, Name: f.name})
		if f.paint != (edit.Dress{}) {
			steps = append(steps, &edit.Swap{Finish: id, Of: paint, Dress: f.paint})
		}
		if f.metal != (edit.Dress{}) {
			steps = append(steps, &edit.Swap{Finish: id, Of: brass, Dress: f.metal})
		}
		if f.name == "Signal" {
			at, on := geom.Vec3{-0.42, 0.06, 0.62}, geom.Vec3{0, 0.13, 0}
			steps = append(steps, &edit.KeepAngle{Name: "Low, from the left", From: &edit.View{Position: at, Rotation: geom.LookAlong(on.Sub(at))}})
		}
	}
	for _, c := range steps {
		if _, err := c.Do(w); err != nil {
			return "", err
		}
	}
	return "Dress it in four finishes", nil
}
