package shot

import (
	"fmt"

	"perigyre/core/geom"
)

// Angle is a view that was kept: where a camera stood and what it saw it through, in the room.
type Angle struct {
	ID       string    `json:"id"`
	Name     string    `json:"name"`
	Note     string    `json:"note,omitempty"`
	Position geom.Vec3 `json:"position"` // metres
	Rotation geom.Quat `json:"rotation"`
	Lens     Lens      `json:"lens"`
	Format   Format    `json:"format"`
}

// MaxAngles of a shot.
const MaxAngles = 1000

func (s *Shot) validateAngles() error {
	if len(s.Angles) > MaxAngles {
		return fmt.Errorf("the shot keeps %d angles; there may be %d", len(s.Angles), MaxAngles)
	}
	ids := map[string]bool{"": true}
	for i := range s.Angles {
		a := &s.Angles[i]
		if ids[a.ID] {
			return fmt.Errorf("the angle %q has the id %q, which is empty or taken", a.Name, a.ID)
		}
		ids[a.ID] = true
		if err := CheckName("an angle", a.Name); err != nil {
			return err
		}
		if len(a.Note) > 2000 {
			return fmt.Errorf("the note of %s has more than 2,000 letters", a.Name)
		}
		f := a.Format
		if f.Width < 1 || f.Height < 1 || f.Width > MaxSide || f.Height > MaxSide {
			return fmt.Errorf("the format of %s is not possible: each side is 1 to %d", a.Name, MaxSide)
		}
		p := Part{Kind: Camera, Rest: Rest{a.Position, a.Rotation, geom.Vec3{1, 1, 1}}, Camera: &a.Lens}
		if err := p.validate(nil); err != nil {
			return fmt.Errorf("the angle %s: %w", a.Name, err)
		}
	}
	return nil
}

// Seen returns the document as it is seen from an angle, on its own: the camera stands still there.
func (s *Shot) Seen(a *Angle) *Shot {
	c := *s
	lens := a.Lens
	lens.Fitted, lens.Offset = false, geom.Vec3{}
	c.Parts = append(append([]Part(nil), s.Parts...), Part{
		ID: "angle " + a.ID, Name: a.Name, Kind: Camera, Rest: Rest{a.Position, a.Rotation, geom.Vec3{1, 1, 1}}, Moves: []Move{}, Camera: &lens,
	})
	c.Camera, c.Format = "angle "+a.ID, a.Format
	return &c
}
