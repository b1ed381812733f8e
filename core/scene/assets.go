package scene

import (
	"maps"
	"slices"
)

// Assets returns the content hashes of the stored files that a scene is drawn from, each once, in order: models that its
// bodies and cutters are made of or take pictures from, and the picture of its surroundings.
func (s *Scene) Assets() []string {
	all := map[string]bool{}
	for i := range s.Bodies {
		b := &s.Bodies[i]
		all[b.Mesh.Asset] = b.Mesh.Shape == nil
		for k := range b.Surfaces {
			for _, slot := range b.Surfaces[k].TextureSlots() {
				if *slot != nil {
					all[(*slot).Asset] = true
				}
			}
		}
	}
	for i := range s.Cutters {
		for _, of := range s.Cutters[i].Of {
			if of.Mesh.Shape == nil {
				all[of.Mesh.Asset] = true
			}
		}
	}
	all[s.Sky.Picture] = true
	delete(all, "")
	return slices.Sorted(maps.Keys(all))
}
