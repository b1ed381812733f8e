package demo

import (
	"fmt"
	"math"

	"perigyre/core/edit"
	"perigyre/core/geom"
	"perigyre/core/shot"
)

// Inside opens the base of the lantern with a rounded box that slides in, and out again, and shows the cells in it.
type Inside struct{}

// Do implements edit.Change.
func (*Inside) Do(w *edit.Work) (string, error) {
	w.Shot.Name, w.Shot.Frames = "Inside", 120
	base, table := named(w.Shot, "Base"), named(w.Shot, "Turntable")
	if base == nil || table == nil {
		return "", fmt.Errorf("the lantern has not got the parts that it is known by")
	}
	table.Moves = []shot.Move{}
	if c := w.Shot.Part(w.Shot.Camera); c != nil {
		c.Rest.Rotation = geom.AxisAngle(geom.Vec3{0, 1, 0}, 32*math.Pi/180).Mul(geom.AxisAngle(geom.Vec3{1, 0, 0}, -22*math.Pi/180))
	}
	opening := &edit.AddCutter{Of: base.ID, Opens: true, ID: w.NewID()}
	if _, err := opening.Do(w); err != nil {
		return "", err
	}
	cutter := w.Shot.Part(opening.ID)
	cutter.Cut.Radius = 0.006
	for _, name := range []string{"Winding", "Collar"} {
		if p := named(w.Shot, name); p != nil {
			cutter.Cut.Parts = append(cutter.Cut.Parts, p.ID)
		}
	}
	w.Changed()
	return "Open the base", nil
}
