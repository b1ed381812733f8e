package library

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"math"
	"strings"
	"testing"

	"perigyre/core/edit"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/core/shot"
	"perigyre/core/stage"
)

// painted makes a picture of 64 x 64 pixels.
func paintedWith(at func(x, y float64) color.NRGBA) []byte {
	img := image.NewNRGBA(image.Rect(0, 0, 64, 64))
	for y := range 64 {
		for x := range 64 {
			img.SetNRGBA(x, y, at(float64(x)/64, float64(y)/64))
		}
	}
	var b bytes.Buffer
	_ = png.Encode(&b, img)
	return b.Bytes()
}

func grey(v float64) color.NRGBA {
	return color.NRGBA{uint8(v * 255), uint8(v * 255), uint8(v * 255), 255}
}

// The normals of a wavy sheet.
func waves(x, y float64) color.NRGBA {
	nx, ny := 0.5*math.Cos(20*x), 0.4*math.Sin(17*y)
	nz := math.Sqrt(1 - nx*nx - ny*ny)
	c := func(v float64) uint8 { return uint8(127.5 + 127.5*v + 0.5) }
	return color.NRGBA{c(nx), c(ny), c(nz), 255}
}

func stripes(x, y float64) color.NRGBA {
	return color.NRGBA{uint8(120 + 100*math.Sin(9*x)), uint8(90 * y), 60, 255}
}

func TestRolesByNameAndPixels(t *testing.T) {
	for _, c := range []struct {
		name  string
		paint func(x, y float64) color.NRGBA
		want  string
	}{
		{"Brass_BaseColor.png", stripes, "base colour"},
		{"brass-diffuse-2k.jpg", stripes, "base colour"},
		{"IMG_0012.png", stripes, "base colour"},
		{"IMG_0013.png", waves, "normal"},
		{"wood_Normal_DX.png", waves, "normal flipped"},
		{"wood_albedo.png", waves, "normal doubted"},
		{"wood_normal.png", stripes, "base colour doubted"},
		{"wood_normal.png", func(x, _ float64) color.NRGBA { return grey(x) }, "left out doubted"},
		{"scan.tif", func(x, _ float64) color.NRGBA { return grey(x) }, "roughness"},
		{"metal_roughness.png", func(x, _ float64) color.NRGBA { return grey(x) }, "roughness"},
		{"plate_Metallic.png", func(x, _ float64) color.NRGBA { return grey(x) }, "metal"},
		{"plate_metallicRoughness.png", stripes, "roughness and metal"},
		{"plate_AO.png", func(x, _ float64) color.NRGBA { return grey(x) }, "occlusion"},
		{"plate_height.png", func(x, _ float64) color.NRGBA { return grey(x) }, "left out"},
		{"lamp-emissive.png", stripes, "emission"},
	} {
		img, _, err := image.Decode(bytes.NewReader(paintedWith(c.paint)))
		if err != nil {
			t.Fatal(err)
		}
		g := GuessRole(c.name, img)
		got := string(g.Slot)
		if g.LeftOut {
			got = "left out"
		}
		if g.Doubt {
			got += " doubted"
		}
		if g.FlipGreen {
			got += " flipped"
		}
		if got != c.want {
			t.Errorf("%s is %s (%s), want %s", c.name, got, g.Why, c.want)
		}
	}
}

// dressedModel is a shot of two parts with the materials Brass and Oak Wood, the second with two missing
// pictures.
func dressedModel(t *testing.T) (*shot.Shot, *Assets) {
	t.Helper()
	brass, oak := material.Default(), material.Default()
	brass.Name, oak.Name = "Brass", "Oak Wood"
	oak.BaseColorTexture, oak.Normal = &material.Texture{Image: 0}, &material.Texture{Image: 1}
	part := func(m int) model.Mesh {
		box := &mesh.Mesh{Positions: [][3]float32{{0, 0, 0}, {1, 0, 0}, {0, 1, 0}}, UV: [][2]float32{{0, 0}, {1, 0}, {0, 1}}, Indices: []uint32{0, 1, 2}}
		return model.Mesh{Primitives: []model.Primitive{{Mesh: box, Material: m}}}
	}
	m := &model.Model{Materials: []material.Material{brass, oak}, Meshes: []model.Mesh{part(0), part(1)}, Images: []model.Image{{Name: `tex\oak.tga`}, {Name: "oak_n.png"}}}
	for i := range m.Meshes {
		m.Nodes = append(m.Nodes, model.Node{Name: fmt.Sprint("Part ", i), Parent: -1, Rotation: [4]float64{0, 0, 0, 1}, Size: [3]float64{1, 1, 1}, Mesh: i})
	}
	return placed(t, m)
}

// placed is a shot with a model on its turntable.
func placed(t *testing.T, m *model.Model) (*shot.Shot, *Assets) {
	t.Helper()
	a := InMemory(model.DefaultLimits)
	hash, err := a.KeepModel(m)
	if err != nil {
		t.Fatal(err)
	}
	d := shot.New("t")
	o := stage.Defaults()
	n := 0
	o.Asset, o.Unit, o.Up, o.NewID = hash, "m", "y", func() string { n++; return fmt.Sprint(n) }
	if err := stage.Put(d, m, o, a); err != nil {
		t.Fatal(err)
	}
	return d, a
}

func TestPicturesFindTheirSlots(t *testing.T) {
	d, a := dressedModel(t)
	half := func(float64, float64) color.NRGBA { return grey(0.5) }
	folder := zipOf(t,
		File{"set/brass_roughness.png", paintedWith(half)}, File{"set/brass_metallic.png", paintedWith(func(x, _ float64) color.NRGBA { return grey(math.Round(x)) })},
		File{"set/oak.png", paintedWith(stripes)}, File{"set/OAK_N.jpg", paintedWith(waves)}, File{"set/oak_wood_ao.png", paintedWith(half)},
		File{"set/stray.png", paintedWith(stripes)}, File{"set/readme.txt", []byte("hello")})
	got, err := Place(d, []File{{"set.zip", folder}}, nil, a)
	if err != nil {
		t.Fatal(err)
	}
	var lines []string
	for _, p := range got.Placed {
		lines = append(lines, fmt.Sprintf("%s > %s of %s", p.File, p.Slot, p.Material))
	}
	for _, l := range got.Left {
		lines = append(lines, l.File+" left")
	}
	const want = `oak.png > base colour of Oak Wood
OAK_N.jpg > normal of Oak Wood
brass_roughness.png > roughness of Brass
brass_metallic.png > metal of Brass
oak_wood_ao.png > occlusion of Oak Wood
set/readme.txt left
stray.png left`
	if s := strings.Join(lines, "\n"); s != want {
		t.Errorf("got\n%s\nwant\n%s", s, want)
	}
	var brass, oak *material.Material
	for i := range d.Materials {
		switch d.Materials[i].Name {
		case "Brass":
			brass = &d.Materials[i]
		case "Oak Wood":
			oak = &d.Materials[i]
		}
	}
	img, err := a.Picture(brass.MetallicRoughness.Asset, brass.MetallicRoughness.Image)
	if err != nil {
		t.Fatal(err)
	}
	for _, x := range []int{4, 60} { // green is the one picture's half, blue the other's nothing and all
		if c := color.NRGBAModel.Convert(img.At(x, 9)).(color.NRGBA); c.G != 127 || c.B != map[int]uint8{4: 0, 60: 255}[x] {
			t.Errorf("at %d the joined picture is %v", x, c)
		}
	}
	if oak.BaseColorTexture.Missing != "" || oak.Normal.Missing != "" || len(Doubts(d, a)) != 0 {
		t.Errorf("still missing or doubted: %+v %+v %+v", oak.BaseColorTexture, oak.Normal, Doubts(d, a))
	}

	// Swapped by hand, both are doubted; swapped back, neither.
	swap := &MoveTexture{Material: oak.ID, Slot: material.BaseColor, To: oak.ID, ToSlot: material.Normal}
	for _, doubts := range []int{2, 0} {
		r, err := edit.Apply(d, []edit.Edit{{Change: swap}}, edit.Env{Assets: a, NewID: func() string { return "made" }})
		if err != nil {
			t.Fatal(err)
		}
		d = r.Shot
		if got := Doubts(d, a); len(got) != doubts {
			t.Errorf("%d doubts, want %d: %+v", len(got), doubts, got)
		}
	}
}
