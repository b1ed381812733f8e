package edit

import (
	"fmt"
	"reflect"
	"slices"
	"strings"

	"perigyre/core/material"
	"perigyre/core/shot"
)

// Dress is the material that something is to wear: one of the shot, or one to start from, which comes into the shot with it.
type Dress struct {
	Material string `json:"material,omitempty"` // of the shot
	Preset   string `json:"preset,omitempty"`   // the name of one to start from
	Own      bool   `json:"own,omitempty"`      // a copy of it, which can be changed without changing others that wear it

	Color *[3]float64 `json:"color,omitempty"` // scene-linear, of the copy
}

// material returns the id of what is worn, which is put into the shot if it is not there. A preset that is there unchanged is
// used again.
func (w *Work) material(d Dress) (id string, err error) {
	s := w.Shot
	var m material.Material
	if d.Preset != "" {
		if m, err = material.FindPreset(d.Preset); err != nil {
			return "", err
		}
		for i := range s.Materials {
			have := s.Materials[i].Clone()
			have.ID = ""
			if d.Color == nil && !d.Own && reflect.DeepEqual(have, m) {
				return s.Materials[i].ID, nil
			}
		}
	} else {
		i := slices.IndexFunc(s.Materials, func(m material.Material) bool { return m.ID == d.Material })
		if i < 0 {
			return "", fmt.Errorf("the material is not in this shot any more")
		}
		if !d.Own && d.Color == nil {
			return d.Material, nil
		}
		m = s.Materials[i].Clone()
	}
	if d.Color != nil {
		copy(m.BaseColor[:], d.Color[:])
	}
	m.ID = w.NewID()
	taken := map[string]bool{}
	for i := range s.Materials {
		taken[s.Materials[i].Name] = true
	}
	for name, n := m.Name, 2; taken[m.Name]; n++ {
		m.Name = fmt.Sprintf("%s %d", name, n)
	}
	s.Materials = append(s.Materials, m)
	return m.ID, nil
}

// Wear gives parts, with all in them, a material. Where a finish is shown it is the finish that has them wear it.
type Wear struct {
	Parts     []string `json:"parts"`
	Primitive *int     `json:"primitive,omitempty"` // the one that wears it; all where it is null
	Dress
}

func init() { Register[Wear]("wear") }

// Do implements Change.
func (e *Wear) Do(w *Work) (string, error) {
	list, err := w.outermost(e.Parts)
	if err != nil {
		return "", err
	}
	id, err := w.material(e.Dress)
	if err != nil {
		return "", err
	}
	s, x := w.Shot, w.Index()
	f := slices.IndexFunc(s.Finishes, func(f shot.Finish) bool { return f.ID == s.Finish && f.ID != "" })
	wearing, swaps := 0, []shot.Swap{}
	for i := range s.Parts {
		p := &s.Parts[i]
		if !slices.ContainsFunc(list, func(root int) bool { return x.Within(i, root) }) || p.Mesh == nil && p.Shaped() == nil {
			continue
		}
		if len(p.Materials) == 0 {
			p.Materials = []string{""}
		}
		for k := range p.Materials {
			if e.Primitive != nil && *e.Primitive != k {
				continue
			}
			wearing++
			if f >= 0 {
				swaps = append(swaps, shot.Swap{Part: p.ID, Primitive: k, Material: id})
			} else {
				p.Materials[k] = id
			}
		}
	}
	if wearing == 0 {
		return "", fmt.Errorf("nothing in %s has a surface that could wear it", w.names(list))
	}
	words := fmt.Sprintf("%s wears %s", w.names(list), w.materialName(id))
	if f >= 0 {
		s.Finishes[f].Swap(swaps)
		words += " in " + s.Finishes[f].Name
	}
	return words, nil
}

func (w *Work) materialName(id string) string {
	for i := range w.Shot.Materials {
		if w.Shot.Materials[i].ID == id {
			return w.Shot.Materials[i].Name
		}
	}
	return "no material"
}

// RemoveMaterial takes a material out of the shot that nothing wears.
type RemoveMaterial struct {
	Material string `json:"material"`
}

func init() { Register[RemoveMaterial]("removeMaterial") }

// Do implements Change.
func (e *RemoveMaterial) Do(w *Work) (string, error) {
	s := w.Shot
	name := w.materialName(e.Material)
	for i := range s.Parts {
		if slices.Contains(s.Parts[i].Materials, e.Material) {
			return "", fmt.Errorf("%s wears %s; give it another material first", s.Parts[i].Name, name)
		}
	}
	for _, f := range s.Finishes {
		if slices.ContainsFunc(f.Swaps, func(v shot.Swap) bool { return v.Material == e.Material }) {
			return "", fmt.Errorf("the finish %s uses %s; change that first", f.Name, name)
		}
	}
	s.Materials = slices.DeleteFunc(s.Materials, func(m material.Material) bool { return m.ID == e.Material })
	return "Remove the material " + name, nil
}

// finish returns a finish that is to be changed.
func (w *Work) finish(id string) (*shot.Finish, error) {
	for i := range w.Shot.Finishes {
		if w.Shot.Finishes[i].ID == id {
			return &w.Shot.Finishes[i], nil
		}
	}
	return nil, fmt.Errorf("the finish is not in this shot any more")
}

// AddFinish keeps what is shown as a finish, and shows it.
type AddFinish struct {
	ID   string `json:"id,omitempty"` // of the new finish; a new one if empty
	Name string `json:"name"`
}

func init() { Register[AddFinish]("addFinish") }

// Do implements Change.
func (e *AddFinish) Do(w *Work) (string, error) {
	s := w.Shot
	f := shot.Finish{ID: e.ID, Name: strings.TrimSpace(e.Name), Swaps: []shot.Swap{}}
	if f.Name == "" {
		return "", fmt.Errorf("a finish needs a name")
	}
	if f.ID == "" {
		f.ID = w.NewID()
	}
	if now, err := w.finish(s.Finish); err == nil {
		f.Swaps = slices.Clone(now.Swaps)
	}
	s.Finishes = append(s.Finishes, f)
	s.Finish = f.ID
	return "Keep the finish " + f.Name, nil
}

// RenameFinish names a finish.
type RenameFinish struct {
	Finish string `json:"finish"`
	Name   string `json:"name"`
}

func init() { Register[RenameFinish]("renameFinish") }

// Do implements Change.
func (e *RenameFinish) Do(w *Work) (string, error) {
	f, err := w.finish(e.Finish)
	if err != nil {
		return "", err
	}
	name := strings.TrimSpace(e.Name)
	if name == "" {
		return "", fmt.Errorf("a finish needs a name")
	}
	words := fmt.Sprintf("Rename the finish %s to %s", f.Name, name)
	f.Name = name
	return words, nil
}

// RemoveFinish takes a finish out of the shot.
type RemoveFinish struct {
	Finish string `json:"finish"`
}

func init() { Register[RemoveFinish]("removeFinish") }

// Do implements Change.
func (e *RemoveFinish) Do(w *Work) (string, error) {
	f, err := w.finish(e.Finish)
	if err != nil {
		return "", err
	}
	words, s := "Remove the finish "+f.Name, w.Shot
	s.Finishes = slices.DeleteFunc(s.Finishes, func(f shot.Finish) bool { return f.ID == e.Finish })
	if s.Finish == e.Finish {
		s.Finish = ""
	}
	return words, nil
}

// Swap has everything that wears a material by itself wear another in a finish, or again its own where no other is named.
type Swap struct {
	Finish string `json:"finish"`
	Of     string `json:"of"` // the material that is worn without a finish
	Dress
}

func init() { Register[Swap]("swap") }

// Do implements Change.
func (e *Swap) Do(w *Work) (string, error) {
	f, err := w.finish(e.Finish)
	if err != nil {
		return "", err
	}
	id := ""
	if e.Material != "" || e.Preset != "" {
		if id, err = w.material(e.Dress); err != nil {
			return "", err
		}
		f, _ = w.finish(e.Finish)
	}
	var swaps []shot.Swap
	for i := range w.Shot.Parts {
		p := &w.Shot.Parts[i]
		for k, m := range p.Materials {
			if m == e.Of {
				swaps = append(swaps, shot.Swap{Part: p.ID, Primitive: k, Material: id})
			}
		}
	}
	if len(swaps) == 0 {
		return "", fmt.Errorf("nothing wears that material")
	}
	f.Swap(swaps)
	if id == "" {
		return fmt.Sprintf("%s stays itself in %s", w.materialName(e.Of), f.Name), nil
	}
	return fmt.Sprintf("%s is %s in %s", w.materialName(e.Of), w.materialName(id), f.Name), nil
}
