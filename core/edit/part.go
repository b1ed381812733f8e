package edit

import (
	"encoding/json"
	"fmt"
	"reflect"
	"slices"
	"strings"

	"perigyre/core/move"
	"perigyre/core/shot"
)

// SetPart changes a part by a merge patch: anything of it but its id, its kind, what it is in, its mesh, its moves and
// its pins, for which there are edits of their own.
type SetPart struct {
	Part  string `json:"part"`
	Patch Patch  `json:"patch"`
}

func init() { Register[SetPart]("setPart") }

// fixed fields of a part are not for SetPart.
var fixed = []string{"id", "kind", "parent", "mesh", "moves", "tracks"}

// Touches implements Toucher.
func (e *SetPart) Touches() (out []Touch) {
	for _, path := range leaves([]byte(e.Patch), "") {
		out = append(out, Touch{Part: e.Part, Field: path})
	}
	return out
}

// Do implements Change.
func (e *SetPart) Do(w *Work) (string, error) {
	p, err := w.part(e.Part)
	if err != nil {
		return "", err
	}
	var fields map[string]json.RawMessage
	if json.Unmarshal([]byte(e.Patch), &fields) == nil {
		for _, name := range fixed {
			if _, ok := fields[name]; ok {
				return "", fmt.Errorf("the %s of a part is not set so; there are edits of their own for that", name)
			}
		}
	}
	now := *p
	now.Moves, now.Tracks = nil, nil
	if p.Camera != nil { // what is merged into a pointer changes what it points to
		lens := *p.Camera
		now.Camera = &lens
	}
	if err := e.Patch.merge(&now, "part"); err != nil {
		return "", err
	}
	now.Moves, now.Tracks = p.Moves, p.Tracks
	if now.Name = strings.TrimSpace(now.Name); now.Name == "" {
		return "", fmt.Errorf("a part needs a name")
	}
	if now.Light != nil {
		now.Light.Settle()
	}
	if p.Locked && now.Locked && (now.Rest != p.Rest || now.Pivot != p.Pivot || !reflect.DeepEqual(now.Camera, p.Camera)) {
		return "", fmt.Errorf("%s is locked; unlock it to change its place or its lens", p.Name)
	}
	words := "Change " + p.Name
	if now.Name != p.Name {
		words = fmt.Sprintf("Rename %s to %s", p.Name, now.Name)
	} else if now.Hidden != p.Hidden {
		words = map[bool]string{true: "Hide ", false: "Show "}[now.Hidden] + p.Name
	}
	*p = now
	return words, nil
}

// AddPart adds a part at the end of its parent's children.
type AddPart struct {
	Part shot.Part `json:"part"`
}

func init() { Register[AddPart]("add") }

// Do implements Change.
func (e *AddPart) Do(w *Work) (string, error) {
	p := e.Part
	if p.Moves == nil {
		p.Moves = []shot.Move{}
	}
	if p.Light != nil {
		p.Light.Settle()
	}
	w.Shot.Parts = append(w.Shot.Parts, p)
	w.Made = append(w.Made, p.ID)
	w.Sort()
	return "Add " + p.Name, nil
}

// RemoveParts removes parts with all in them.
type RemoveParts struct {
	Parts []string `json:"parts"`
}

func init() { Register[RemoveParts]("remove") }

// Do implements Change.
func (e *RemoveParts) Do(w *Work) (string, error) {
	list, err := w.outermost(e.Parts)
	if err != nil {
		return "", err
	}
	words := "Remove " + w.names(list)
	s := w.Shot
	gone := map[string]bool{}
	for _, i := range list {
		if s.Parts[i].Locked {
			return "", fmt.Errorf("%s is locked; unlock it to remove it", s.Parts[i].Name)
		}
		gone[s.Parts[i].ID] = true
	}
	for i := range s.Parts {
		if p := &s.Parts[i]; gone[p.Parent] {
			gone[p.ID] = true
		}
	}
	s.Parts = slices.DeleteFunc(s.Parts, func(p shot.Part) bool { return gone[p.ID] })
	s.Sources = slices.DeleteFunc(s.Sources, func(src shot.Source) bool { return gone[src.Root] })
	for i := range s.Finishes {
		f := &s.Finishes[i]
		f.Swaps = slices.DeleteFunc(f.Swaps, func(v shot.Swap) bool { return gone[v.Part] })
	}
	if gone[s.Environment.Bound] {
		s.Environment.Bound = ""
	}
	for i := range s.Parts {
		if l := s.Parts[i].Light; l != nil && gone[l.Aim] {
			spec := *l
			spec.Aim, s.Parts[i].Light = "", &spec
		}
	}
	if gone[s.Camera] {
		s.Camera = ""
	}
	w.Changed()
	return words, nil
}

// SetReading says how an imported file is to be read: what one of its units is, and which of its axes is upright, as far
// as they are given. The model is resized, turned and placed anew.
type SetReading struct {
	Root string `json:"root"` // the source's root part
	Unit string `json:"unit,omitempty"`
	Up   string `json:"up,omitempty"`
}

func init() { Register[SetReading]("setReading") }

// Do implements Change.
func (e *SetReading) Do(w *Work) (string, error) {
	s := w.Shot
	at := slices.IndexFunc(s.Sources, func(src shot.Source) bool { return src.Root == e.Root })
	root, err := w.part(e.Root)
	if at < 0 || err != nil {
		return "", fmt.Errorf("no import has the part %q", e.Root)
	}
	src := &s.Sources[at]
	words := "Read " + src.File
	if e.Unit != "" {
		was, now := shot.Units[src.Unit], shot.Units[e.Unit]
		if now == 0 {
			return "", fmt.Errorf("the unit %q is none of m, cm, mm, in and ft", e.Unit)
		}
		root.Rest.Size = root.Rest.Size.Mul(now / was)
		// What is in it keeps to the size that it has now.
		for i := range s.Parts {
			switch p := &s.Parts[i]; {
			case p.ID == e.Root:
				move.ScaleLengths(p, 1, now/was)
			case w.Index().Within(i, w.Index().Part(e.Root)):
				move.ScaleLengths(p, now/was, now/was)
			}
		}
		src.Unit = e.Unit
		words += " in " + e.Unit
	}
	if e.Up != "" && e.Up != src.Up {
		turn, ok := shot.Uprights[e.Up]
		if !ok {
			return "", fmt.Errorf("the upright axis is y or z, not %q", e.Up)
		}
		root.Rest.Rotation = root.Rest.Rotation.Mul(shot.Uprights[src.Up].Inverse()).Mul(turn).Unit()
		src.Up = e.Up
		words += fmt.Sprintf(" with %s upright", e.Up)
	}
	w.Changed()
	return words, w.restage(e.Root)
}
