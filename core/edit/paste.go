package edit

import (
	"fmt"
	"reflect"
	"slices"

	"perigyre/core/geom"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// Paste puts parts of another shot, with all in them, their moves, pins and materials, into this one. They stand in the
// room where they stand there before any move. Of copies the part that they are copies of comes along.
type Paste struct {
	From  *shot.Shot `json:"from"`
	Parts []string   `json:"parts"`
}

func init() { Register[Paste]("paste") }

// Do implements Change.
func (e *Paste) Do(into *Work) (string, error) {
	if e.From == nil {
		return "", fmt.Errorf("parts are pasted from a shot")
	}
	if err := e.From.Validate(); err != nil {
		return "", err
	}
	made, words, err := paste(into.Shot, e.From, e.Parts, into.NewID)
	into.Changed()
	into.Made = append(into.Made, made...)
	return words, err
}

// paste does it, and returns the ids of the new parts.
func paste(s, from *shot.Shot, parts []string, newID func() string) (made []string, words string, err error) {
	w := &Work{Shot: from.Clone()}
	parts = slices.Clone(parts)
	for i := 0; i < len(parts); i++ {
		for k := range from.Parts {
			root := from.Index(parts[i])
			if c := from.Parts[k].Copies; c != nil && root >= 0 && from.Within(k, root) && !inside(from, c.Of, parts) {
				parts = append(parts, c.Of)
			}
		}
	}
	list, err := w.outermost(parts)
	if err != nil {
		return nil, "", err
	}
	words = fmt.Sprintf("Paste %s from %s", w.names(list), from.Name)
	rest := atRest(from)
	ids := map[string]string{}
	materials := map[string]string{}
	for _, root := range list {
		for i := range w.Shot.Parts {
			if !w.Index().Within(i, root) {
				continue
			}
			p := w.Shot.Parts[i].Clone()
			ids[p.ID] = newID()
			p.ID = ids[p.ID]
			if i == root {
				made = append(made, p.ID)
				p.Parent, p.Locked = "", false
				if err := w.setLocal(&p, rest[i]); err != nil {
					return nil, "", err
				}
			} else {
				p.Parent = ids[p.Parent]
			}
			for k := range p.Moves {
				p.Moves[k].ID = newID()
			}
			for k, id := range p.Materials {
				p.Materials[k] = bringMaterial(s, from, id, materials, newID)
			}
			s.Parts = append(s.Parts, p)
		}
	}
	for i := len(s.Parts) - len(ids); i < len(s.Parts); i++ {
		if err := refer(&s.Parts[i], ids); err != nil {
			return nil, "", err
		}
	}
	for i := range s.Parts {
		if c := s.Parts[i].Copies; c != nil && ids[c.Of] != "" && slices.ContainsFunc(made, func(id string) bool { return s.Within(i, s.Index(id)) }) {
			c.Of = ids[c.Of]
		}
	}
	for _, src := range from.Sources {
		if id := ids[src.Root]; id != "" {
			src.Root = id
			s.Sources = append(s.Sources, src)
		}
	}
	t := &Work{Shot: s}
	t.Sort()
	return made, words, s.Validate()
}

// inside reports whether a part is one of the named or in one.
func inside(s *shot.Shot, id string, named []string) bool {
	at := s.Index(id)
	return slices.ContainsFunc(named, func(n string) bool { return at >= 0 && s.Index(n) >= 0 && s.Within(at, s.Index(n)) })
}

// bringMaterial returns the id of a material in s: the same one where s has it, else a new one.
func bringMaterial(s, from *shot.Shot, id string, known map[string]string, newID func() string) string {
	if id == "" || known[id] != "" {
		return known[id]
	}
	for _, m := range from.Materials {
		if m.ID != id {
			continue
		}
		known[id] = id
		for _, have := range s.Materials {
			if have.ID == id && reflect.DeepEqual(have, m) {
				return id
			}
			if have.ID == id {
				known[id] = newID()
			}
		}
		m.ID = known[id]
		s.Materials = append(s.Materials, m)
	}
	return known[id]
}

// atRest returns the matrix of every part in the room before any move.
func atRest(s *shot.Shot) []geom.Mat4 {
	out := make([]geom.Mat4, len(s.Parts))
	for i := range s.Parts {
		out[i] = pose.Local(&s.Parts[i], s.Parts[i].Rest)
		if up := s.Index(s.Parts[i].Parent); up >= 0 {
			out[i] = out[up].Mul(out[i])
		}
	}
	return out
}
