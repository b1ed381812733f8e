package edit

import (
	"fmt"
	"slices"
	"strings"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

// View is a place to look from, in the room.
type View struct {
	Position geom.Vec3 `json:"position"`
	Rotation geom.Quat `json:"rotation"`
}

func (v *View) check() error {
	q := v.Rotation
	if n := q[0]*q[0] + q[1]*q[1] + q[2]*q[2] + q[3]*q[3]; !(n > 0.5 && n < 2) || !v.Position.Finite() {
		return fmt.Errorf("the place to look from is none")
	}
	v.Rotation = v.Rotation.Unit()
	return nil
}

// camera returns a camera of the document by its index; the one in use where none is named.
func (w *Work) camera(id string) (int, error) {
	if id == "" {
		id = w.Shot.Camera
	}
	i := w.Index().Part(id)
	if i < 0 || w.Shot.Parts[i].Camera == nil {
		return 0, fmt.Errorf("the camera is not in this shot any more")
	}
	return i, nil
}

// AddCamera adds a camera with the lens of the one in use, from where one looks or from where that one stands, and leaves the
// one in use as it is.
type AddCamera struct {
	ID   string `json:"id,omitempty"`
	From *View  `json:"from,omitempty"`
}

func init() { Register[AddCamera]("addCamera") }

// Do implements Change.
func (e *AddCamera) Do(w *Work) (string, error) {
	p := shot.Part{ID: e.ID, Name: "Camera", Kind: shot.Camera, Rest: shot.AtRest,
		Camera: &shot.Lens{Focal: 50, SensorWidth: 36, SensorHeight: 24, Sensor: shot.FitLonger, Margin: 8}}
	lit := w.lit("")
	p.Rest.Position = lit.Middle.Add(geom.Vec3{0, 0, 5 * lit.Size})
	if i, err := w.camera(""); err == nil {
		lens := *w.Shot.Parts[i].Camera
		lens.Fitted, lens.Offset = false, geom.Vec3{}
		p.Camera = &lens
		_, turn, _, _ := w.World()[i].Decompose()
		p.Rest.Position, p.Rest.Rotation = w.World()[i].Column(3), turn
	} else {
		p.Camera.Fitted = true
	}
	if e.From != nil {
		if err := e.From.check(); err != nil {
			return "", err
		}
		p.Rest.Position, p.Rest.Rotation = e.From.Position, e.From.Rotation
	}
	words, err := w.added(p)
	if err == nil && w.Shot.Camera == "" {
		w.Shot.Camera = w.Made[len(w.Made)-1]
	}
	return words, err
}

// AimAt turns cameras or lights, where they stand, to a part's middle or to a point.
type AimAt struct {
	Part  string     `json:"part"`
	At    string     `json:"at,omitempty"`    // a part
	Point *geom.Vec3 `json:"point,omitempty"` // in the room, in place of a part
	Frame float64    `json:"frame"`
}

func init() { Register[AimAt]("aimAt") }

// Do implements Change.
func (e *AimAt) Do(w *Work) (string, error) {
	list, err := w.outermost([]string{e.Part})
	if err != nil {
		return "", err
	}
	i := list[0]
	p := &w.Shot.Parts[i]
	if p.Locked {
		return "", fmt.Errorf("%s is locked; unlock it to aim it", p.Name)
	}
	at, what := w.lit(e.At).Middle, "what is shown"
	if e.At != "" {
		k := w.Index().Part(e.At)
		if k < 0 {
			return "", ErrGone
		}
		what = w.Shot.Parts[k].Name
	}
	if e.Point != nil {
		at, what = *e.Point, "a point"
	}
	m := w.Pose().Some(e.Frame).Of(i)
	from := m.Column(3)
	if !at.Finite() || at.Sub(from).Len() < 1e-9 {
		return "", fmt.Errorf("%s stands where it would be aimed at", p.Name)
	}
	_, _, size, _ := m.Decompose()
	if p.Camera != nil && p.Camera.Fitted { // its distance follows; its direction is the designer's
		lens := *p.Camera
		lens.Fitted, p.Camera = false, &lens
	}
	facing := geom.TRS(from, geom.LookAlong(at.Sub(from)), size)
	if up := w.Index().Part(p.Parent); up >= 0 {
		inv, ok := w.Pose().Some(e.Frame).Of(up).Inverse()
		if !ok {
			return "", fmt.Errorf("%s cannot be aimed: what it is in has no size", p.Name)
		}
		_, turn, _, _ := inv.Mul(facing).Decompose()
		p.Rest.Rotation = turn
	} else {
		_, p.Rest.Rotation, _, _ = facing.Decompose()
	}
	return fmt.Sprintf("Aim %s at %s", p.Name, what), nil
}

// KeepAngle keeps a view as an angle: what a camera sees on a frame, or where one looks from, through that camera's lens.
type KeepAngle struct {
	ID     string  `json:"id,omitempty"`
	Name   string  `json:"name,omitempty"`
	Camera string  `json:"camera,omitempty"` // the one in use where it is empty
	From   *View   `json:"from,omitempty"`
	Frame  float64 `json:"frame"`
}

func init() { Register[KeepAngle]("keepAngle") }

// Do implements Change.
func (e *KeepAngle) Do(w *Work) (string, error) {
	i, err := w.camera(e.Camera)
	if err != nil {
		return "", err
	}
	m := w.Pose().Some(e.Frame).Of(i)
	_, turn, _, _ := m.Decompose()
	a := shot.Angle{ID: e.ID, Name: strings.TrimSpace(e.Name), Position: m.Column(3), Rotation: turn, Lens: *w.Shot.Parts[i].Camera, Format: w.Shot.Format}
	a.Lens.Fitted, a.Lens.Offset = false, geom.Vec3{}
	if e.From != nil {
		if err := e.From.check(); err != nil {
			return "", err
		}
		a.Position, a.Rotation = e.From.Position, e.From.Rotation
	}
	if a.ID == "" {
		a.ID = w.NewID()
	}
	taken := map[string]bool{}
	for k := range w.Shot.Angles {
		taken[w.Shot.Angles[k].Name] = true
	}
	for n := len(w.Shot.Angles) + 1; a.Name == "" || taken[a.Name]; n++ {
		a.Name = fmt.Sprintf("Angle %d", n)
	}
	w.Shot.Angles = append(slices.Clone(w.Shot.Angles), a)
	return "Keep the angle " + a.Name, nil
}

// angle returns the place of an angle in the document.
func (w *Work) angle(id string) (int, error) {
	i := slices.IndexFunc(w.Shot.Angles, func(a shot.Angle) bool { return a.ID == id })
	if i < 0 {
		return 0, fmt.Errorf("the angle is not in this shot any more")
	}
	w.Shot.Angles = slices.Clone(w.Shot.Angles)
	return i, nil
}

// SetAngle names an angle, notes something about it, or puts it elsewhere in their order.
type SetAngle struct {
	Angle string  `json:"angle"`
	Name  *string `json:"name,omitempty"`
	Note  *string `json:"note,omitempty"`
	To    *int    `json:"to,omitempty"` // its place in the order, from 0
}

func init() { Register[SetAngle]("setAngle") }

// Do implements Change.
func (e *SetAngle) Do(w *Work) (string, error) {
	i, err := w.angle(e.Angle)
	if err != nil {
		return "", err
	}
	a := &w.Shot.Angles[i]
	words := "Change the angle " + a.Name
	if e.Name != nil {
		if a.Name = strings.TrimSpace(*e.Name); a.Name == "" {
			return "", fmt.Errorf("an angle needs a name")
		}
		words = "Name the angle " + a.Name
	}
	if e.Note != nil {
		a.Note = *e.Note
	}
	if e.To != nil {
		moved := *a
		list := slices.Delete(w.Shot.Angles, i, i+1)
		w.Shot.Angles = slices.Insert(list, min(max(0, *e.To), len(list)), moved)
	}
	return words, nil
}

// RemoveAngle forgets an angle.
type RemoveAngle struct {
	Angle string `json:"angle"`
}

func init() { Register[RemoveAngle]("removeAngle") }

// Do implements Change.
func (e *RemoveAngle) Do(w *Work) (string, error) {
	i, err := w.angle(e.Angle)
	if err != nil {
		return "", err
	}
	words := "Forget the angle " + w.Shot.Angles[i].Name
	w.Shot.Angles = slices.Delete(w.Shot.Angles, i, i+1)
	return words, nil
}

// UseAngle renders from an angle: the camera in use goes there. One that is locked, moves, or is bound to something stays as it
// is, and another one takes its place in the picture.
type UseAngle struct {
	Angle string `json:"angle"`
	ID    string `json:"id,omitempty"` // of the camera, should there be need of another
}

func init() { Register[UseAngle]("useAngle") }

// Do implements Change.
func (e *UseAngle) Do(w *Work) (string, error) {
	k, err := w.angle(e.Angle)
	if err != nil {
		return "", err
	}
	s, a := w.Shot, w.Shot.Angles[k]
	lens := a.Lens
	rest := shot.Rest{Position: a.Position, Rotation: a.Rotation, Size: geom.Vec3{1, 1, 1}}
	i, err := w.camera("")
	if err == nil {
		if p := &s.Parts[i]; !p.Locked && p.Parent == "" && len(p.Moves) == 0 && len(p.Tracks) == 0 {
			p.Camera, p.Rest, p.Pivot = &lens, rest, geom.Vec3{}
			s.Format = a.Format
			return "Use the angle " + a.Name, nil
		}
	}
	for i := range s.Parts { // one that stands there already
		if p := &s.Parts[i]; p.Camera != nil && p.Parent == "" && len(p.Moves) == 0 && len(p.Tracks) == 0 && p.Rest == rest && *p.Camera == lens {
			s.Camera, s.Format = p.ID, a.Format
			return "Use the angle " + a.Name, nil
		}
	}
	if _, err := w.added(shot.Part{ID: e.ID, Name: a.Name, Kind: shot.Camera, Camera: &lens, Rest: rest}); err != nil {
		return "", err
	}
	s.Camera, s.Format = w.Made[len(w.Made)-1], a.Format
	return "Use the angle " + a.Name, nil
}
