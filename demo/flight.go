package demo

import (
	"perigyre/core/edit"
	"perigyre/core/geom"
	"perigyre/core/move"
	"perigyre/core/shot"
)

// Flown keeps three angles of the mark and lets its camera fly from one to the next: low while the letters arrive, to the
// middle, and round to the right.
type Flown struct{}

// Do implements edit.Change.
func (*Flown) Do(w *edit.Work) (string, error) {
	flight := &move.Flight{}
	for _, a := range []struct {
		name     string
		from, on geom.Vec3
		at, rest float64
	}{
		{"Low, from the left", geom.Vec3{-0.2, 0.02, 0.4}, geom.Vec3{0.002, 0.045, 0.04}, 0, 16},
		{"All of it", geom.Vec3{0.02, 0.085, 0.42}, geom.Vec3{0, 0.052, 0.03}, 52, 8},
		{"From the right", geom.Vec3{0.15, 0.1, 0.38}, geom.Vec3{0, 0.05, 0.03}, 84, 5},
	} {
		v := edit.View{Position: a.from, Rotation: geom.LookAlong(a.on.Sub(a.from))}
		if _, err := (&edit.KeepAngle{Name: a.name, From: &v}).Do(w); err != nil {
			return "", err
		}
		flight.Stops = append(flight.Stops, move.Stop{At: a.at, Rest: a.rest, Position: v.Position, Rotation: v.Rotation})
	}
	c := w.Shot.Part(w.Shot.Camera)
	c.Camera.Fitted = false
	c.Moves = append(c.Moves, shot.Move{ID: w.NewID(), Kind: "flight", After: shot.Stays, Data: flight})
	w.Changed()
	return "Fly through three angles", nil
}
