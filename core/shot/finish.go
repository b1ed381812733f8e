package shot

import (
	"fmt"
	"slices"
)

// Finish is a colourway: what wears other materials in it than else.
type Finish struct {
	ID    string `json:"id"`
	Name  string `json:"name"`
	Swaps []Swap `json:"swaps"`
}

// Swap gives one primitive of a part another material.
type Swap struct {
	Part      string `json:"part"`
	Primitive int    `json:"primitive"`
	Material  string `json:"material"`
}

// Swap has primitives of parts wear other materials in the finish, or their own again where none is named.
func (f *Finish) Swap(list []Swap) {
	type place struct {
		part      string
		primitive int
	}
	again := map[place]bool{}
	for _, w := range list {
		again[place{w.Part, w.Primitive}] = true
	}
	f.Swaps = slices.DeleteFunc(f.Swaps, func(w Swap) bool { return again[place{w.Part, w.Primitive}] })
	for _, w := range list {
		if w.Material != "" {
			f.Swaps = append(f.Swaps, w)
		}
	}
}

// Dressed returns the document with every part in the materials of the finish that is shown, or without any where all are shown
// in clay: those that name none are plain grey. Without either it is s itself.
func (s *Shot) Dressed() *Shot {
	if s.Clay {
		c := *s
		c.Parts = slices.Clone(s.Parts)
		for i := range c.Parts {
			if n := len(c.Parts[i].Materials); n > 0 {
				c.Parts[i].Materials = make([]string, n)
			}
		}
		return &c
	}
	at := slices.IndexFunc(s.Finishes, func(f Finish) bool { return f.ID == s.Finish })
	if at < 0 || s.Finish == "" {
		return s
	}
	c := *s
	c.Parts = slices.Clone(s.Parts)
	own := map[int]bool{}
	for _, w := range s.Finishes[at].Swaps {
		i := s.Index(w.Part)
		if i < 0 || w.Primitive >= len(c.Parts[i].Materials) {
			continue
		}
		if !own[i] {
			c.Parts[i].Materials, own[i] = slices.Clone(c.Parts[i].Materials), true
		}
		c.Parts[i].Materials[w.Primitive] = w.Material
	}
	return &c
}

func (s *Shot) validateFinishes(materials map[string]bool) error {
	ids := map[string]bool{"": true}
	for _, f := range s.Finishes {
		if ids[f.ID] {
			return fmt.Errorf("the finish %q has the id %q, which is empty or taken", f.Name, f.ID)
		}
		ids[f.ID] = true
		for _, w := range f.Swaps {
			if w.Primitive < 0 || !materials[w.Material] {
				return fmt.Errorf("the finish %q uses the material %q, which is not in the shot", f.Name, w.Material)
			}
		}
	}
	if !ids[s.Finish] {
		return fmt.Errorf("there is no finish %q", s.Finish)
	}
	return nil
}
