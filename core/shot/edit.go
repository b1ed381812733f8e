package shot

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"perigyre/core/color"
)

// Edit is one change to a document. Exactly one of its fields is set. An edit replaces what it
// names as a whole, so that applying it needs nothing but the document.
type Edit struct {
	Rename     *Rename       `json:"rename,omitempty"`
	SetTiming  *SetTiming    `json:"setTiming,omitempty"`
	SetPicture *SetPicture   `json:"setPicture,omitempty"`
	SetPart    *SetPart      `json:"setPart,omitempty"`
	RemovePart *RemovePart   `json:"removePart,omitempty"`
	AddMove    *AddMove      `json:"addMove,omitempty"`
	AddMoves   *AddMoves     `json:"addMoves,omitempty"`
	SetMove    *SetMove      `json:"setMove,omitempty"`
	RemoveMove *RemoveMove   `json:"removeMove,omitempty"`
	SetReading *SetReading   `json:"setReading,omitempty"`
	MoveMove   *MoveMove     `json:"moveMove,omitempty"`
	Retime     *Retime       `json:"retime,omitempty"`
	Reverse    *Reverse      `json:"reverse,omitempty"`
	Shift      *Shift        `json:"shift,omitempty"`
	SetTracks  *SetTracks    `json:"setTracks,omitempty"`
	SetPins    []SetTracks   `json:"setPins,omitempty"` // of several parts at once
	MovePins   *MovePins     `json:"movePins,omitempty"`
	RemovePins *RemovePins   `json:"removePins,omitempty"`
	Stretch    *Stretch      `json:"stretch,omitempty"`
	SetFinish  *SetFinish    `json:"setFinish,omitempty"`
	Texture    *PlaceTexture `json:"texture,omitempty"` // carried out by the library, which has the pictures
	Clean      *Clean        `json:"clean,omitempty"`   // carried out by the library, which has the meshes
	Arrange    *Arrange      `json:"arrange,omitempty"` // carried out by core/arrange, which knows poses and surfaces
}

type (
	// Rename names the shot.
	Rename struct {
		Name string `json:"name"`
	}
	// SetTiming sets length, rate and ending. Moves over the whole shot stretch along.
	SetTiming struct {
		Frames int    `json:"frames"`
		Rate   Rate   `json:"rate"`
		Ending Ending `json:"ending"`
	}
	// SetTracks replaces the pins of a part.
	SetTracks struct {
		Part   string  `json:"part"`
		Tracks []Track `json:"tracks"`
	}
	// SetFinish shows a finish, or none where it is empty.
	SetFinish struct {
		Finish string `json:"finish"`
	}
	// SetPicture sets format, backdrop, environment and view transform. Null leaves as it is.
	SetPicture struct {
		Format      *Format      `json:"format,omitempty"`
		Environment *Environment `json:"environment,omitempty"`
		View        string       `json:"view,omitempty"`
		Backdrop    *[3]float64  `json:"backdrop,omitempty"`
		BackdropLow *[3]float64  `json:"backdropLow,omitempty"` // makes it a gradient
		OneColour   bool         `json:"oneColour,omitempty"`   // ends the gradient
		Transparent bool         `json:"transparent,omitempty"` // takes the backdrop away
		Camera      string       `json:"camera,omitempty"`
	}
	// SetPart replaces a part, but for its moves, pins, kind, parent and mesh.
	SetPart struct {
		Part Part `json:"part"`
	}
	// RemovePart removes a part and all in it.
	RemovePart struct {
		Part string `json:"part"`
	}
	// AddMove puts a move at the end of a part's stack.
	AddMove struct {
		Part string `json:"part"`
		Move Move   `json:"move"`
	}
	// AddMoves adds several moves at once, under a name for the history.
	AddMoves struct {
		Name string    `json:"name"`
		List []AddMove `json:"list"`
	}
	// SetMove replaces the move with the same id.
	SetMove struct {
		Move Move `json:"move"`
	}
	// MoveMove puts a move at another place of its part's stack, or a copy of it on other parts.
	MoveMove struct {
		Move string   `json:"move"`
		To   int      `json:"to"`             // place in the stack
		Onto []string `json:"onto,omitempty"` // parts that get a copy of it at the end of theirs
		ID   string   `json:"id,omitempty"`   // beginning of the copies' ids
	}
	// RemoveMove removes a move.
	RemoveMove struct {
		Move string `json:"move"`
	}
	// SetReading says how an imported file is to be read: what one of its units is, and which of its
	// axes is upright. The model is resized, turned and placed anew.
	SetReading struct {
		Root string `json:"root"` // the source's root part
		Unit string `json:"unit"`
		Up   string `json:"up"`
	}
)

// Clone returns a deep copy.
func (s *Shot) Clone() *Shot {
	b, err := json.Marshal(s)
	if err != nil {
		panic(err) // a validated document always encodes
	}
	c := new(Shot)
	if err := json.Unmarshal(b, c); err != nil {
		panic(err)
	}
	return c
}

// Apply returns a changed copy of s and words for the history. The document it returns is valid; s
// is left as it was.
func (e Edit) Apply(s *Shot) (*Shot, string, error) {
	c := s.Clone()
	words, err := e.change(c)
	if err != nil {
		return nil, "", err
	}
	if err := c.Validate(); err != nil {
		return nil, "", err
	}
	return c, words, nil
}

func (e Edit) change(s *Shot) (string, error) {
	switch {
	case e.Rename != nil:
		name := strings.TrimSpace(e.Rename.Name)
		if name == "" {
			return "", fmt.Errorf("a shot needs a name")
		}
		s.Name = name
		return "Name the shot " + name, nil
	case e.SetTiming != nil:
		return e.SetTiming.change(s)
	case e.SetPicture != nil:
		return e.SetPicture.change(s)
	case e.SetPart != nil:
		return e.SetPart.change(s)
	case e.RemovePart != nil:
		return s.remove(e.RemovePart.Part)
	case e.AddMove != nil:
		p := s.Part(e.AddMove.Part)
		if p == nil {
			return "", fmt.Errorf("there is no part %q to move", e.AddMove.Part)
		}
		p.Moves = append(p.Moves, e.AddMove.Move)
		return fmt.Sprintf("Add %s to %s", e.AddMove.Move.Kind, p.Name), nil
	case e.AddMoves != nil:
		for _, a := range e.AddMoves.List {
			p := s.Part(a.Part)
			if p == nil {
				return "", fmt.Errorf("a part that was chosen is not in this shot any more")
			}
			p.Moves = append(p.Moves, a.Move)
		}
		if len(e.AddMoves.List) == 0 {
			return "", fmt.Errorf("there is nothing to add")
		}
		return "Add " + e.AddMoves.Name, nil
	case e.SetMove != nil:
		p, m := s.Move(e.SetMove.Move.ID)
		if m == nil {
			return "", fmt.Errorf("the move is not in this shot any more")
		}
		*m = e.SetMove.Move
		return fmt.Sprintf("Change %s of %s", m.Kind, p.Name), nil
	case e.RemoveMove != nil:
		for i := range s.Parts {
			p := &s.Parts[i]
			for j, m := range p.Moves {
				if m.ID == e.RemoveMove.Move {
					p.Moves = append(p.Moves[:j], p.Moves[j+1:]...)
					return fmt.Sprintf("Remove %s from %s", m.Kind, p.Name), nil
				}
			}
		}
		return "", fmt.Errorf("the move is not in this shot any more")
	case e.MoveMove != nil:
		return e.MoveMove.change(s)
	case e.Retime != nil:
		return e.Retime.change(s)
	case e.Reverse != nil:
		return e.Reverse.change(s)
	case e.Shift != nil:
		return e.Shift.change(s)
	case e.Stretch != nil:
		return e.Stretch.change(s)
	case e.MovePins != nil:
		return e.MovePins.change(s)
	case e.RemovePins != nil:
		return e.RemovePins.change(s)
	case len(e.SetPins) > 0:
		for _, set := range e.SetPins {
			p := s.Part(set.Part)
			if p == nil {
				return "", fmt.Errorf("a part that was to be pinned is not in this shot any more")
			}
			p.Tracks = set.Tracks
		}
		return fmt.Sprintf("Pin %d parts", len(e.SetPins)), nil
	case e.SetReading != nil:
		return e.SetReading.change(s)
	case e.SetTracks != nil:
		p := s.Part(e.SetTracks.Part)
		if p == nil {
			return "", fmt.Errorf("the part is not in this shot any more")
		}
		p.Tracks = e.SetTracks.Tracks
		if len(p.Tracks) == 0 {
			return "Remove the pins of " + p.Name, nil
		}
		return "Change the pins of " + p.Name, nil
	case e.SetFinish != nil:
		s.Finish = e.SetFinish.Finish
		for _, f := range s.Finishes {
			if f.ID == s.Finish {
				return "Show the finish " + f.Name, nil
			}
		}
		return "Show no finish", nil
	}
	return "", fmt.Errorf("the edit says nothing to change")
}

func (e *MoveMove) change(s *Shot) (string, error) {
	p, m := s.Move(e.Move)
	if m == nil {
		return "", fmt.Errorf("the move is not in this shot any more")
	}
	if len(e.Onto) > 0 {
		if e.ID == "" {
			return "", fmt.Errorf("the copies need ids")
		}
		moved := *m
		for i, id := range e.Onto {
			to := s.Part(id)
			if to == nil {
				return "", fmt.Errorf("a part that was chosen is not in this shot any more")
			}
			c := moved.Copy()
			c.ID = fmt.Sprintf("%s-%d", e.ID, i+1)
			to.Moves = append(to.Moves, *c)
		}
		return fmt.Sprintf("Copy %s of %s to %d parts", moved.Kind, p.Name, len(e.Onto)), nil
	}
	at := slices.IndexFunc(p.Moves, func(o Move) bool { return o.ID == e.Move })
	moved := p.Moves[at]
	rest := slices.Delete(slices.Clone(p.Moves), at, at+1)
	p.Moves = slices.Insert(rest, max(0, min(e.To, len(rest))), moved)
	return fmt.Sprintf("Reorder the moves of %s", p.Name), nil
}

func (e *SetReading) change(s *Shot) (string, error) {
	for i := range s.Sources {
		src := &s.Sources[i]
		if src.Root != e.Root {
			continue
		}
		was, now := Units[src.Unit], Units[e.Unit]
		root := s.Part(src.Root)
		if now == 0 || root == nil {
			return "", fmt.Errorf("the unit %q is none of m, cm, mm, in and ft", e.Unit)
		}
		turn, ok := Uprights[e.Up]
		if !ok {
			return "", fmt.Errorf("the upright axis is y or z, not %q", e.Up)
		}
		words := fmt.Sprintf("Read %s in %s", src.File, e.Unit)
		if src.Up != e.Up {
			words = fmt.Sprintf("Read %s with %s upright", src.File, e.Up)
			root.Rest.Rotation = root.Rest.Rotation.Mul(Uprights[src.Up].Inverse()).Mul(turn).Unit()
		}
		root.Rest.Size = root.Rest.Size.Mul(now / was)
		src.Unit, src.Up = e.Unit, e.Up
		return words, nil
	}
	return "", fmt.Errorf("no import has the part %q", e.Root)
}

func (e *SetTiming) change(s *Shot) (string, error) {
	s.Frames, s.Rate, s.Ending = e.Frames, e.Rate, e.Ending
	return fmt.Sprintf("Set the length to %d frames at %.4g per second, %s", s.Frames, s.Rate.PerSecond(), s.Ending), nil
}

func (e *SetPicture) change(s *Shot) (string, error) {
	words := "Change the picture"
	if e.Format != nil {
		s.Format = *e.Format
		words = fmt.Sprintf("Set the format to %d x %d", s.Format.Width, s.Format.Height)
	}
	if e.Environment != nil {
		s.Environment = *e.Environment
		words = "Change the environment"
	}
	if e.View != "" {
		s.View = color.View(e.View)
		words = "Set the view transform to " + e.View
	}
	if e.Transparent {
		s.Backdrop, s.BackdropLow = nil, nil
		words = "Make the backdrop transparent"
	} else if e.Backdrop != nil {
		s.Backdrop = e.Backdrop
		words = "Change the backdrop"
	}
	if e.BackdropLow != nil && s.Backdrop != nil {
		s.BackdropLow = e.BackdropLow
		words = "Change the backdrop's gradient"
	}
	if e.OneColour {
		s.BackdropLow = nil
		words = "Make the backdrop one colour"
	}
	if e.Camera != "" {
		s.Camera = e.Camera
		words = "Render through another camera"
	}
	return words, nil
}

func (e *SetPart) change(s *Shot) (string, error) {
	if e.Part.Light != nil {
		e.Part.Light.settle()
	}
	p := s.Part(e.Part.ID)
	if p == nil {
		return "", fmt.Errorf("the part %q is not in this shot any more", e.Part.Name)
	}
	words := "Change " + p.Name
	if p.Name != e.Part.Name {
		words = fmt.Sprintf("Rename %s to %s", p.Name, e.Part.Name)
	} else if p.Hidden != e.Part.Hidden {
		words = map[bool]string{true: "Hide ", false: "Show "}[e.Part.Hidden] + p.Name
	}
	if strings.TrimSpace(e.Part.Name) == "" {
		return "", fmt.Errorf("a part needs a name")
	}
	kept := *p
	*p = e.Part
	p.Moves, p.Tracks, p.Kind, p.Parent, p.Mesh = kept.Moves, kept.Tracks, kept.Kind, kept.Parent, kept.Mesh
	return words, nil
}

func (s *Shot) remove(id string) (string, error) {
	root := s.Index(id)
	if root < 0 {
		return "", fmt.Errorf("the part is not in this shot any more")
	}
	name := s.Parts[root].Name
	gone := map[string]bool{}
	kept := s.Parts[:0:0]
	for i := range s.Parts {
		if p := s.Parts[i]; p.ID == id || gone[p.Parent] {
			gone[p.ID] = true
		} else {
			kept = append(kept, p)
		}
	}
	s.Parts = kept
	sources := s.Sources[:0:0]
	for _, src := range s.Sources {
		if !gone[src.Root] {
			sources = append(sources, src)
		}
	}
	s.Sources = sources
	if gone[s.Camera] {
		s.Camera = ""
	}
	return "Remove " + name, nil
}
