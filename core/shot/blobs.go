package shot

import "sort"

// Blobs returns the content hashes of all stored files that the document refers to: models, pictures,
// drawings and fonts, sorted. A name that is no hash, of a font that ships along, is left out.
func (s *Shot) Blobs() []string {
	found := map[string]bool{}
	add := func(hash string) {
		if len(hash) == 64 {
			found[hash] = true
		}
	}
	add(s.Environment.Picture)
	for _, src := range s.Sources {
		add(src.Asset)
	}
	for i := range s.Materials {
		for _, slot := range s.Materials[i].TextureSlots() {
			if *slot != nil {
				add((*slot).Asset)
			}
		}
	}
	for i := range s.Parts {
		p := &s.Parts[i]
		if p.Mesh != nil {
			add(p.Mesh.Asset)
		}
		if p.Mark != nil {
			add(p.Mark.Drawing)
			if p.Mark.Word != nil {
				add(p.Mark.Word.Font)
			}
		}
	}
	out := make([]string, 0, len(found))
	for h := range found {
		out = append(out, h)
	}
	sort.Strings(out)
	return out
}
