package edit

import (
	"fmt"
	"math"

	"perigyre/core/geom"
	"perigyre/core/move"
	"perigyre/core/shot"
)

// cutFace is the colour of what a new cutter cuts, scene-linear: a red that no product is mistaken for.
var cutFace = [3]float64{0.55, 0.09, 0.05}

// AddCutter adds a cutter that opens a part, with all in it, or everything: a box over the quarter of it that faces the camera, with
// rounded edges. It stands in the room, so that what turns under it is opened where one looks. As an opening it slides in, and out again; else it stands where it cuts.
type AddCutter struct {
	Of    string `json:"of,omitempty"`    // the part that is opened; everything where it is empty
	Opens bool   `json:"opens,omitempty"` // it slides in, and out again
	ID    string `json:"id,omitempty"`
}

func init() { Register[AddCutter]("addCutter") }

// Do implements Change.
func (e *AddCutter) Do(w *Work) (string, error) {
	box, parts := w.shownBox(), []string{}
	if e.Of != "" {
		if _, err := w.part(e.Of); err != nil {
			return "", err
		}
		var err error
		if box, err = w.bounds(w.Index().Part(e.Of)); err != nil {
			return "", err
		}
		parts = []string{e.Of}
	}
	if box.Empty() || !(box.Size().Len() > 0) {
		return "", fmt.Errorf("there is nothing to be cut open")
	}
	size, middle := box.Size(), box.Centre()
	eye := geom.Vec3{1, 0, 1}
	if i := w.Index().Part(w.Shot.Camera); i >= 0 {
		eye = w.World()[i].Column(3).Sub(middle)
	}
	// Over the quarter, and so far out of it on all other sides that nothing is left standing there.
	const out = 0.1
	var half, at geom.Vec3
	for k, side := range [3]float64{math.Copysign(1, eye[0]), 0, math.Copysign(1, eye[2])} {
		half[k] = size[k] * (0.5 + out)
		if side != 0 {
			half[k] = size[k] * (0.5 + out) / 2
		}
		at[k] = middle[k] + side*half[k]
		half[k] = math.Max(half[k], 1e-4)
	}
	way := geom.Vec3{eye[0], 0, eye[2]}
	if way.Len() == 0 {
		way = geom.Vec3{0, 0, 1}
	}
	way = way.Unit().Mul(digits(1.3*size.Len(), 3))
	name, of := "Cutter", "everything"
	if e.Of != "" {
		of = w.Shot.Part(e.Of).Name
		name = "Cutter of " + of
	}
	radius := digits(0.12*math.Min(half[0], math.Min(half[1], half[2])), 2)
	color := cutFace
	p := shot.Part{ID: e.ID, Name: name, Kind: shot.Cutter, Rest: shot.AtRest,
		Cut: &shot.Cut{Shape: "box", Size: geom.Vec3{digits(2*half[0], 3), digits(2*half[1], 3), digits(2*half[2], 3)}, Radius: radius, Parts: parts, Color: &color}}
	if !e.Opens {
		way = geom.Vec3{}
	}
	p.Rest.Position = at.Add(way)
	if p.ID == "" {
		p.ID = w.NewID()
	}
	words, err := w.added(p)
	if err != nil || !e.Opens {
		return words, err
	}
	part := w.Shot.Part(p.ID)
	part.Moves = append(part.Moves, shot.Move{ID: w.NewID(), Kind: "slide", Pace: shot.Pace{Kind: shot.Sine, Way: "both"}, Laps: 2, After: shot.Mirrored, Data: &move.Slide{By: way.Mul(-1), Frame: shot.ParentFrame}})
	return "Open up " + of, nil
}
