package edit

import (
	"encoding/json"

	"perigyre/core/shot"
)

// refer lets what a copied part's moves, bones, clips and cut name, and what was copied along with it, be the copies: in a copy of an exploded view the
// copies of its parts leave, and a copied wheel is driven by the copy of its driver.
func refer(p *shot.Part, ids map[string]string) error {
	for k := range p.Moves {
		text, err := json.Marshal(p.Moves[k])
		if err != nil {
			return err
		}
		var tree any
		if err := json.Unmarshal(text, &tree); err != nil {
			return err
		}
		changed := false
		var visit func(v any) any
		visit = func(v any) any {
			switch v := v.(type) {
			case string:
				if id, ok := ids[v]; ok {
					changed = true
					return id
				}
			case []any:
				for i := range v {
					v[i] = visit(v[i])
				}
			case map[string]any:
				for name := range v {
					v[name] = visit(v[name])
				}
			}
			return v
		}
		if tree = visit(tree); !changed {
			continue
		}
		if text, err = json.Marshal(tree); err != nil {
			return err
		}
		one := shot.Move{}
		if err := json.Unmarshal(text, &one); err != nil {
			return err
		}
		p.Moves[k] = one
	}
	if p.Skin != nil {
		for k, id := range p.Skin.Joints {
			if to, ok := ids[id]; ok {
				p.Skin.Joints[k] = to
			}
		}
	}
	for k := range p.Clips {
		for n := range p.Clips[k].Tracks {
			t := &p.Clips[k].Tracks[n]
			if to, ok := ids[t.Part]; ok {
				t.Part = to
			}
		}
	}
	if p.Cut != nil {
		for k, id := range p.Cut.Parts {
			if to, ok := ids[id]; ok {
				p.Cut.Parts[k] = to
			}
		}
		if to, ok := ids[p.Cut.Of]; ok {
			p.Cut.Of = to
		}
	}
	return nil
}
