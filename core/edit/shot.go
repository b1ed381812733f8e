package edit

import (
	"fmt"
	"slices"
	"strings"

	"perigyre/core/color"
	"perigyre/core/shot"
)

// Rename names the shot.
type Rename struct {
	Name string `json:"name"`
}

func init() { Register[Rename]("rename") }

// Touches implements Toucher.
func (e *Rename) Touches() []Touch { return []Touch{{Field: "name"}} }

// Do implements Change.
func (e *Rename) Do(w *Work) (string, error) {
	name := strings.TrimSpace(e.Name)
	if name == "" {
		return "", fmt.Errorf("a shot needs a name")
	}
	w.Shot.Name = name
	return "Name the shot " + name, nil
}

// SetTiming sets length, rate and ending, as far as they are given. Moves over the whole shot stretch along.
type SetTiming struct {
	Frames *int         `json:"frames,omitempty"`
	Rate   *shot.Rate   `json:"rate,omitempty"`
	Ending *shot.Ending `json:"ending,omitempty"`
}

func init() { Register[SetTiming]("setTiming") }

// Touches implements Toucher.
func (e *SetTiming) Touches() (out []Touch) {
	for field, set := range map[string]bool{"frames": e.Frames != nil, "rate": e.Rate != nil, "ending": e.Ending != nil} {
		if set {
			out = append(out, Touch{Field: field})
		}
	}
	return out
}

// Do implements Change.
func (e *SetTiming) Do(w *Work) (string, error) {
	s := w.Shot
	if e.Frames != nil {
		s.Frames = *e.Frames
	}
	if e.Rate != nil {
		s.Rate = *e.Rate
	}
	if e.Ending != nil {
		s.Ending = *e.Ending
	}
	return fmt.Sprintf("Set the length to %d frames at %.4g per second, %s", s.Frames, s.Rate.PerSecond(), s.Ending), nil
}

// SetPicture changes format, view transform, environment, backdrop and camera by a merge patch of them.
type SetPicture struct {
	Patch Patch `json:"patch"`
}

func init() { Register[SetPicture]("setPicture") }

// picture is what SetPicture can change.
type picture struct {
	Format      shot.Format      `json:"format"`
	View        color.View       `json:"view"`
	Environment shot.Environment `json:"environment"`
	Backdrop    *[3]float64      `json:"backdrop"`
	BackdropLow *[3]float64      `json:"backdropLow,omitempty"`
	Camera      string           `json:"camera"`
	Clay        bool             `json:"clay,omitempty"`
	Vignette    float64          `json:"vignette,omitempty"`
}

// Touches implements Toucher.
func (e *SetPicture) Touches() (out []Touch) {
	for _, path := range leaves([]byte(e.Patch), "") {
		out = append(out, Touch{Field: path})
	}
	return out
}

// Do implements Change.
func (e *SetPicture) Do(w *Work) (string, error) {
	s := w.Shot
	p := picture{s.Format, s.View, s.Environment, s.Backdrop, s.BackdropLow, s.Camera, s.Clay, s.Vignette}
	if err := e.Patch.merge(&p, "picture"); err != nil {
		return "", err
	}
	if p.Backdrop == nil {
		p.BackdropLow = nil
	}
	words := "Change the picture"
	switch {
	case p.Format != s.Format:
		words = fmt.Sprintf("Set the format to %d x %d", p.Format.Width, p.Format.Height)
	case p.View != s.View:
		words = fmt.Sprintf("Set the view transform to %s", p.View)
	case p.Environment != s.Environment:
		words = "Change the environment"
	case p.Clay != s.Clay:
		words = map[bool]string{true: "Show everything in clay", false: "Show the materials"}[p.Clay]
	case p.Camera != s.Camera:
		words = "Render through another camera"
	case p.Backdrop == nil && s.Backdrop != nil:
		words = "Make the backdrop transparent"
	case p.BackdropLow == nil && s.BackdropLow != nil:
		words = "Make the backdrop one colour"
	default:
		words = "Change the backdrop"
	}
	s.Format, s.View, s.Environment, s.Backdrop, s.BackdropLow, s.Camera, s.Clay, s.Vignette = p.Format, p.View, p.Environment, p.Backdrop, p.BackdropLow, p.Camera, p.Clay, p.Vignette
	return words, nil
}

// SetFinish shows a finish, or none where it is empty.
type SetFinish struct {
	Finish string `json:"finish"`
}

func init() { Register[SetFinish]("setFinish") }

// Touches implements Toucher.
func (e *SetFinish) Touches() []Touch { return []Touch{{Field: "finish"}} }

// Do implements Change.
func (e *SetFinish) Do(w *Work) (string, error) {
	w.Shot.Finish = e.Finish
	if i := slices.IndexFunc(w.Shot.Finishes, func(f shot.Finish) bool { return f.ID == e.Finish }); i >= 0 {
		return "Show the finish " + w.Shot.Finishes[i].Name, nil
	}
	return "Show no finish", nil
}
