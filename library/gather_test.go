package library

import (
	"fmt"
	"strings"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/model"
)

// Boxes in a row, by the gaps between them: the first two stand side by side, the next two are a pin
// through a plate whose corners are far from it, the last stands alone.
func TestGather(t *testing.T) {
	m := &model.Model{Materials: []material.Material{material.Default(), material.Default()}}
	m.Materials[0].Name, m.Materials[1].Name = "Steel", "Felt"
	for i, b := range []struct {
		name     string
		size, at geom.Vec3
		material int
	}{
		{"Bolt_1", geom.Vec3{1, 1, 1}, geom.Vec3{0, 0, 0}, 0},
		{"bolt 2", geom.Vec3{1, 3, 3}, geom.Vec3{1, 0.3, 0}, 1},
		{"Plate", geom.Vec3{0.1, 9, 9}, geom.Vec3{5, 0, 0}, 0},
		{"Pin", geom.Vec3{1, 0.1, 0.1}, geom.Vec3{5, 0.2, 0}, 0},
		{"Knob", geom.Vec3{1, 1, 1}, geom.Vec3{9, 0, 0}, 1},
	} {
		box := (&mesh.Shape{Kind: mesh.BoxShape, Size: b.size}).Build()
		m.Meshes = append(m.Meshes, model.Mesh{Primitives: []model.Primitive{{Mesh: box, Material: b.material}}})
		m.Nodes = append(m.Nodes, model.Node{Name: b.name, Parent: -1, Position: b.at, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}, Mesh: i})
	}
	for by, want := range map[string]string{
		"touching": "Bolt_1, group(Bolt_1 bolt 2) Plate, group(Plate Pin)",
		"name":     "Bolt(Bolt_1 bolt 2)",
		"material": "Steel(Bolt_1 Plate Pin) Felt(bolt 2 Knob)",
	} {
		d, a := placed(t, m)
		n := 0
		_, err := clean(d, &Clean{Parts: []string{d.Sources[0].Root}, Gather: by}, a, func() string { n++; return fmt.Sprint("g", n) })
		if err != nil {
			t.Fatal(by, err)
		}
		if err := d.Validate(); err != nil {
			t.Fatal(by, err)
		}
		var groups []string
		for _, g := range d.Parts {
			if !strings.HasPrefix(g.ID, "g") {
				continue
			}
			var in []string
			for _, p := range d.Parts {
				if p.Parent == g.ID {
					in = append(in, p.Name)
				}
			}
			groups = append(groups, fmt.Sprintf("%s(%s)", g.Name, strings.Join(in, " ")))
		}
		if got := strings.Join(groups, " "); got != want {
			t.Errorf("by %s: %s, want %s", by, got, want)
		}
	}
}
