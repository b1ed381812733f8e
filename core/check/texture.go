package check

import (
	"fmt"
	"slices"
)

// Textures: a file that a material refers to did not come along.
func init() {
	register(40, func(f *Facts) (out []Finding) {
		told := map[string]bool{}
		for i := range f.Pose.Shot.Materials {
			m := &f.Pose.Shot.Materials[i]
			for _, slot := range m.TextureSlots() {
				t := *slot
				if t == nil || t.Missing == "" || told[t.Missing] {
					continue
				}
				told[t.Missing] = true
				var parts []string // that wear it
				for k := range f.Pose.Shot.Parts {
					if p := &f.Pose.Shot.Parts[k]; slices.Contains(p.Materials, m.ID) {
						parts = append(parts, p.ID)
					}
				}
				out = append(out, Finding{
					Kind: "texture", Parts: parts, Weight: Blocks, Value: 1, Unit: "file", Title: "Missing: " + t.Missing,
					Why: fmt.Sprintf("%s refers to it, and it did not come along. A bold checker stands in for a missing base colour; other textures are left out. Bring in finds it when you point to its folder.", m.Name),
				})
			}
		}
		return out
	})
}
