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

// Dressed returns the document with every part in the materials of the finish that is shown. Without a
// finish it is s itself.
func (s *Shot) Dressed() *Shot {
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
