package edit

import (
	"fmt"

	"perigyre/core/geom"
	"perigyre/core/stage"
)

// SetPivot moves a part's pivot and leaves the part where it is.
type SetPivot struct {
	Part  string    `json:"part"`
	To    string    `json:"to"`    // base, top, middle, origin, parent or point
	Point geom.Vec3 `json:"point"` // in the room, for point
}

func init() { Register[SetPivot]("pivot") }

// Do implements Change.
func (e *SetPivot) Do(w *Work) (string, error) {
	list, err := w.outermost([]string{e.Part})
	if err != nil {
		return "", err
	}
	i := list[0]
	p := &w.Shot.Parts[i]
	if p.Locked {
		return "", fmt.Errorf("%s is locked; unlock it to move its pivot", p.Name)
	}
	inv, ok := w.World()[i].Inverse()
	if !ok {
		return "", fmt.Errorf("%s has no size, so that its pivot cannot be placed", p.Name)
	}
	box, err := w.bounds(i)
	if err != nil {
		return "", err
	}
	at := geom.Vec3{} // in the room
	switch e.To {
	case "base":
		c, err := w.footprint(i)
		if err != nil {
			return "", err
		}
		at = geom.Vec3{c[0], box.Min[1], c[1]}
	case "top":
		c, err := w.footprint(i)
		if err != nil {
			return "", err
		}
		at = geom.Vec3{c[0], box.Max[1], c[1]}
	case "middle":
		at = box.Centre()
	case "origin":
		at = w.World()[i].Column(3)
	case "parent":
		if up := w.Index().Part(p.Parent); up >= 0 {
			at = w.World()[up].Point(w.Shot.Parts[up].Pivot)
		}
	case "point":
		at = e.Point
	default:
		return "", fmt.Errorf("a pivot is put at the base, the top, the middle, the origin, the parent's or a point, not %q", e.To)
	}
	if !at.Finite() {
		return "", fmt.Errorf("the place of the pivot is not a number")
	}
	stage.TurnAbout(p, inv.Point(at))
	return "Move the pivot of " + p.Name, nil
}
