package library

import (
	"fmt"
	"math"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/core/pose"
	"perigyre/core/shot"
	"perigyre/core/stage"
	"perigyre/formats/gltf"
)

// messy is a shot with a bracket of two boxes in one mesh, a ball that is placed twice on top of
// itself, an equal box written twice, a speck, a helper disc, something far off, and a box inside out.
func messy(t *testing.T) (*shot.Shot, *Assets, map[string][]byte) {
	t.Helper()
	two := mesh.Box(geom.Vec3{1, 1, 1})
	other := mesh.Box(geom.Vec3{1, 1, 1})
	other.Transform(geom.Translation(geom.Vec3{3, 0, 0}))
	two.Append(other)
	turned := mesh.Box(geom.Vec3{0.5, 0.7, 0.9})
	turned.Transform(geom.TRS(geom.Vec3{1, 2, 0}, geom.AxisAngle(geom.Vec3{1, 1, 0}, 1), geom.Vec3{1, 1, 1}))
	inside := mesh.Box(geom.Vec3{1, 1, 2})
	for k := 0; k < len(inside.Indices); k += 3 {
		inside.Indices[k+1], inside.Indices[k+2] = inside.Indices[k+2], inside.Indices[k+1]
	}
	disc := mesh.Shape{Kind: mesh.PlaneShape, Size: geom.Vec3{4, 0, 4}}.Build()
	list := []struct {
		name string
		m    *mesh.Mesh
		at   geom.Vec3
	}{
		{"Pair", two, geom.Vec3{}}, {"Ball", mesh.Shape{Kind: mesh.SphereShape, Radius: 0.5}.Build(), geom.Vec3{0, 1, 0}},
		{"Ball again", nil, geom.Vec3{0, 1, 0}}, {"Block", mesh.Box(geom.Vec3{0.5, 0.7, 0.9}), geom.Vec3{1, 1, 0}}, {"Block turned", turned, geom.Vec3{}},
		{"Inside out", inside, geom.Vec3{-1, 0, 0}}, {"Speck", mesh.Box(geom.Vec3{0.001, 0.001, 0.001}), geom.Vec3{}},
		{"Helper", disc, geom.Vec3{0, -0.6, 0}}, {"Lost", mesh.Box(geom.Vec3{1, 1, 1}), geom.Vec3{90, 0, 0}},
	}
	m := &model.Model{Unit: "m", Up: "y"}
	for _, p := range list {
		at := len(m.Meshes)
		if p.m == nil {
			at--
		} else {
			m.Meshes = append(m.Meshes, model.Mesh{Name: p.name, Primitives: []model.Primitive{{Mesh: p.m, Material: -1}}})
		}
		m.Nodes = append(m.Nodes, model.Node{Name: p.name, Parent: -1, Position: p.at, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}, Mesh: at})
	}
	blobs := map[string][]byte{}
	a := &Assets{Limits: model.DefaultLimits, Open: func(hash string) ([]byte, error) { return blobs[hash], nil }}
	blobs["raw"], _ = gltf.Write(m)
	d := shot.New("t")
	o := stage.Defaults()
	n := 0
	o.File, o.Asset, o.Name, o.Unit, o.NewID = "m.glb", "raw", "m", "m", func() string { n++; return fmt.Sprint(n) }
	if err := stage.Put(d, m, o, a); err != nil {
		t.Fatal(err)
	}
	return d, a, blobs
}

func named(d *shot.Shot, name string) *shot.Part {
	for i := range d.Parts {
		if d.Parts[i].Name == name {
			return &d.Parts[i]
		}
	}
	return nil
}

func TestTriageFindsWhatIsOutOfOrder(t *testing.T) {
	d, a, _ := messy(t)
	got, err := Examine(d, a)
	if err != nil {
		t.Fatal(err)
	}
	kinds := map[string]string{}
	for _, s := range got.Strays {
		kinds[s.Name] = s.Kind
	}
	want := map[string]string{"Ball again": "twice", "Speck": "tiny", "Helper": "flat", "Lost": "far"}
	if fmt.Sprint(kinds) != fmt.Sprint(want) {
		t.Errorf("strays %v, want %v", kinds, want)
	}
	if len(got.Inside) != 1 || got.Inside[0] != named(d, "Inside out").ID || len(got.Loose) != 1 || got.Loose[0].Pieces != 2 || got.Equal != 1 {
		t.Errorf("inside out %v, loose %v, equal %d", got.Inside, got.Loose, got.Equal)
	}
}

// Cleaning changes meshes and leaves every point of what it keeps where it was in the room.
func TestCleaningKeepsThingsWhereTheyAre(t *testing.T) {
	d, a, blobs := messy(t)
	a.Keep = func(data []byte) (string, error) {
		hash := fmt.Sprint("new", len(blobs))
		blobs[hash] = data
		return hash, nil
	}
	n := 0
	cleaned := func(c Clean) string {
		t.Helper()
		words, err := clean(d, &c, a, func() string { n++; return fmt.Sprint("n", n) })
		if err != nil {
			t.Fatal(err)
		}
		if err := d.Validate(); err != nil {
			t.Fatal(err)
		}
		return words
	}
	box := func(name string) geom.Box {
		p := named(d, name)
		points, _, err := a.Surface(p)
		if err != nil {
			t.Fatal(err)
		}
		out := geom.EmptyBox()
		for _, v := range points {
			out = out.With(pose.New(d).At(0)[d.Index(p.ID)].Point(v))
		}
		return out
	}
	root := d.Sources[0].Root
	before := box("Block turned")
	if words := cleaned(Clean{Parts: []string{root}, Share: true}); words != "Share the meshes of 1 equal parts" {
		t.Error(words)
	}
	after := box("Block turned")
	if d := after.Min.Sub(before.Min).Len() + after.Max.Sub(before.Max).Len(); d > 1e-4 {
		t.Errorf("the block moved by %g", d)
	}
	if *named(d, "Block").Mesh != *named(d, "Block turned").Mesh {
		t.Error("the two blocks do not share a mesh")
	}
	cleaned(Clean{Parts: []string{named(d, "Inside out").ID}, Outside: true})
	f, err := a.Facts(*named(d, "Inside out").Mesh)
	if err != nil || math.Abs(f.Volume-2) > 1e-5 {
		t.Errorf("turned outside it encloses %g, %v", f.Volume, err)
	}
	pair := box("Pair")
	cleaned(Clean{Parts: []string{named(d, "Pair").ID}, Split: true})
	one, two := box("Pair 1"), box("Pair 2")
	if both := one.Union(two); both.Min.Sub(pair.Min).Len()+both.Max.Sub(pair.Max).Len() > 1e-6 || named(d, "Pair").Kind != shot.Group {
		t.Errorf("split, the pieces lie at %v", both)
	}
	ball := named(d, "Ball").Mesh
	was, _ := a.Facts(*ball)
	cleaned(Clean{Parts: []string{named(d, "Ball").ID}, Subdivide: true, Crease: math.Pi})
	now, _ := a.Facts(*named(d, "Ball").Mesh)
	if now.Triangles != 4*was.Triangles || math.Abs(now.Volume/was.Volume-1) > 0.01 {
		t.Errorf("subdivided: %d triangles of %d, volume %g of %g", now.Triangles, was.Triangles, now.Volume, was.Volume)
	}
}
