package material

import (
	"embed"
	"encoding/json"
	"fmt"
	"path"
	"slices"
	"strings"
)

// Preset is a material to start from: a file in presets. Its colours are scene-linear, as everywhere.
type Preset struct {
	Name     string   `json:"name"`
	Note     string   `json:"note"` // what it is for, in a line
	Order    int      `json:"order"`
	Material Material `json:"material"`
}

//go:embed presets/*.json
var presetFiles embed.FS

// Presets are all of them in the order in which they are offered. They are shared and must not be changed.
var Presets = readPresets()

func readPresets() (out []Preset) {
	names, err := presetFiles.ReadDir("presets")
	if err != nil {
		panic(err)
	}
	for _, n := range names {
		data, err := presetFiles.ReadFile(path.Join("presets", n.Name()))
		if err != nil {
			panic(err)
		}
		p := Preset{Material: Material{Alpha: Opaque, DoubleSided: true}}
		d := json.NewDecoder(strings.NewReader(string(data)))
		d.DisallowUnknownFields()
		if err := d.Decode(&p); err != nil {
			panic(fmt.Sprintf("%s: %v", n.Name(), err)) // it came with the program
		}
		p.Material.Name = p.Name
		out = append(out, p)
	}
	slices.SortFunc(out, func(a, b Preset) int { return a.Order - b.Order })
	return out
}

// FindPreset returns a copy of the material of a preset.
func FindPreset(name string) (Material, error) {
	for i := range Presets {
		if Presets[i].Name == name {
			return Presets[i].Material.Clone(), nil
		}
	}
	return Material{}, fmt.Errorf("there is no material to start from called %q", name)
}
