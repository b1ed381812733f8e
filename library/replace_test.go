package library

import (
	"fmt"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/core/move"
	"perigyre/core/shot"
)

// A newer file with one part renamed in case, one gone, one new and one moved: what was done by hand stays,
// what nobody touched follows the file.
func TestReplaceKeepsWhatWasDoneByHand(t *testing.T) {
	file := func(names []string, x float64) *model.Model {
		m := &model.Model{Materials: []material.Material{material.Default()}}
		m.Nodes = append(m.Nodes, model.Node{Name: "Body", Parent: -1, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}, Mesh: -1})
		for i, n := range names {
			tri := &mesh.Mesh{Positions: [][3]float32{{0, 0, 0}, {1, 0, 0}, {0, float32(x), float32(i)}}, Indices: []uint32{0, 1, 2}}
			m.Meshes = append(m.Meshes, model.Mesh{Name: n, Primitives: []model.Primitive{{Mesh: tri}}})
			m.Nodes = append(m.Nodes, model.Node{Name: n, Parent: 0, Position: geom.Vec3{x, float64(i), 0}, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}, Mesh: i})
		}
		return m
	}
	older := file([]string{"Lid", "Bolt_1", "Spring", "Foot"}, 1)
	d, a := placed(t, older)
	part := func(name string) *shot.Part {
		for i := range d.Parts {
			if d.Parts[i].Name == name {
				return &d.Parts[i]
			}
		}
		t.Fatalf("there is no part %s", name)
		return nil
	}
	lid := part("Lid")
	lid.Name = "Cover" // renamed, moved and moving
	lid.Rest.Position = geom.Vec3{7, 7, 7}
	lid.Moves = []shot.Move{{ID: "m", Kind: "float", Data: &move.Float{Height: 1, Period: 24}}}
	d.Materials = append(d.Materials, material.Material{ID: "gold", Name: "Gold"})
	part("Foot").Materials = []string{"gold"}
	root := d.Sources[0].Root

	newer := file([]string{"Foot", "bolt 1", "Lid", "Washer"}, 2)
	n := 0
	got, err := Replace(d, root, newer, "newer", "two.glb", a, func() string { n++; return fmt.Sprint("new", n) })
	if err != nil {
		t.Fatal(err)
	}
	if err := d.Validate(); err != nil {
		t.Fatal(err)
	}
	names := func(ids []string) (out []string) {
		for _, id := range ids {
			out = append(out, d.Part(id).Name)
		}
		return out
	}
	if got.Matched != 3 || fmt.Sprint(names(got.Gone)) != "[Spring]" || fmt.Sprint(names(got.New)) != "[Washer]" {
		t.Errorf("matched %d, gone %v, new %v", got.Matched, names(got.Gone), names(got.New))
	}
	if p := part("Cover"); p.Mesh.Mesh != 2 || p.Mesh.Asset != "newer" || p.Rest.Position != (geom.Vec3{7, 7, 7}) || len(p.Moves) != 1 {
		t.Errorf("the cover is %+v", p)
	}
	if p := part("Foot"); p.Mesh.Mesh != 0 || p.Rest.Position != (geom.Vec3{2, 0, 0}) || p.Materials[0] != "gold" {
		t.Errorf("the foot is %+v", p)
	}
	if p := part("Bolt_1"); p.Mesh.Mesh != 1 || p.Rest.Position != (geom.Vec3{2, 1, 0}) {
		t.Errorf("the bolt is %+v", p)
	}
	if p := part("Spring"); p.Mesh.Asset == "newer" {
		t.Error("the spring shows a mesh of the newer file")
	}
	if p := part("Washer"); p.Parent != root || d.Sources[0].Asset != "newer" {
		t.Errorf("the washer is in %s", p.Parent)
	}
	if _, err := Replace(d, root, file([]string{"Sail"}, 1), "x", "boat.glb", a, func() string { return "y" }); err == nil {
		t.Error("a file with nothing in common took its place")
	}
}
