package edit

import (
	"encoding/json"
	"fmt"
	"strings"
)

// SetMaterial changes a material by a merge patch: anything of it but its id and its textures, which have an edit of their
// own.
type SetMaterial struct {
	Material string `json:"material"`
	Patch    Patch  `json:"patch"`
}

func init() { Register[SetMaterial]("setMaterial") }

// Do implements Change.
func (e *SetMaterial) Do(w *Work) (string, error) {
	for i := range w.Shot.Materials {
		m := &w.Shot.Materials[i]
		if m.ID != e.Material {
			continue
		}
		var fields map[string]json.RawMessage
		if json.Unmarshal([]byte(e.Patch), &fields) == nil {
			for name := range fields {
				if name == "id" || strings.HasSuffix(name, "Texture") {
					return "", fmt.Errorf("the %s of a material is not set so", name)
				}
			}
		}
		now := m.Clone()
		if err := e.Patch.merge(&now, "material"); err != nil {
			return "", err
		}
		if now.Name = strings.TrimSpace(now.Name); now.Name == "" {
			return "", fmt.Errorf("a material needs a name")
		}
		words := "Change " + m.Name
		if now.OneSided != m.OneSided {
			words = map[bool]string{true: "See through the backs of ", false: "Show the backs of "}[now.OneSided] + m.Name
		}
		*m = now
		return words, nil
	}
	return "", fmt.Errorf("the material is not in this shot any more")
}
