package library

import (
	"fmt"
	"math"

	"github.com/tdewolff/canvas"

	"perigyre/core/color"
	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/core/outline"
	"perigyre/core/shot"
	"perigyre/formats/font"
	"perigyre/formats/svg"
)

// Mark makes a model of a mark: a part for each painted area or letter, with faces and sides as meshes
// of their own. Blob gives drawings and font files by their content hash. The model is in metres,
// upright, facing +z, its lower edge at y = 0.
func Mark(m *shot.Mark, blob func(hash string) ([]byte, error)) (*model.Model, error) {
	if m.Word != nil {
		return word(m, blob)
	}
	data, err := blob(m.Drawing)
	if err != nil {
		return nil, err
	}
	d, err := svg.Read(data)
	if err != nil {
		return nil, err
	}
	out := &model.Model{Unit: "m", Up: "y", LeftOut: d.LeftOut}
	regions := make([]outline.Region, len(d.Areas))
	var over outline.Region // what is painted later covers what is below
	for i := len(d.Areas) - 1; i >= 0; i-- {
		a := d.Areas[i]
		whole := outline.New(a.Path.Transform(canvas.Identity.Scale(0.001, 0.001)), a.EvenOdd, m.Tolerance)
		regions[i] = whole.Minus(over)
		if a.Color.A == 255 {
			over = over.Plus(whole)
		}
	}
	lo, hi := outline.Region{}.Bounds()
	first := true
	for _, r := range regions {
		if a, b := r.Bounds(); !r.Empty() {
			if first {
				lo, hi, first = a, b, false
			}
			lo = geom.Vec2{math.Min(lo[0], a[0]), math.Min(lo[1], a[1])}
			hi = geom.Vec2{math.Max(hi[0], b[0]), math.Max(hi[1], b[1])}
		}
	}
	at := geom.Vec3{-(lo[0] + hi[0]) / 2, -lo[1], 0}
	known := map[[4]uint8]int{}
	for i, a := range d.Areas {
		if regions[i].Empty() || regions[i].Area() < m.Tolerance*m.Tolerance {
			continue
		}
		key := [4]uint8{a.Color.R, a.Color.G, a.Color.B, a.Color.A}
		mat, ok := known[key]
		if !ok {
			mat = len(out.Materials)
			known[key] = mat
			out.Materials = append(out.Materials, painted(key))
		}
		name := a.Name
		if name == "" {
			name = fmt.Sprintf("Area %d", i+1)
		}
		addSolid(out, name, m, regions[i], at, mat)
	}
	if len(out.Nodes) == 0 {
		return nil, fmt.Errorf("it paints nothing that can be made solid")
	}
	return out, nil
}

// painted is the material of a colour: flat, so that it comes out as it was drawn.
func painted(c [4]uint8) material.Material {
	m := material.Default()
	m.Name = fmt.Sprintf("#%02x%02x%02x", c[0], c[1], c[2])
	for k := range 3 {
		m.BaseColor[k] = color.FromSRGB(float64(c[k]) / 255)
	}
	m.Roughness = 0.55
	if m.BaseColor[3] = float64(c[3]) / 255; c[3] < 255 {
		m.Alpha = material.Blend
	}
	return m
}

func addSolid(out *model.Model, name string, m *shot.Mark, r outline.Region, at geom.Vec3, mat int) {
	faces, sides := outline.Extrude(m.Solid, r, m.Tolerance)
	out.Nodes = append(out.Nodes, model.Node{Name: name, Parent: -1, Position: at, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}, Mesh: len(out.Meshes)})
	out.Meshes = append(out.Meshes, model.Mesh{Name: name, Primitives: []model.Primitive{{Mesh: faces, Material: mat}, {Mesh: sides, Material: mat}}})
}

func word(m *shot.Mark, blob func(hash string) ([]byte, error)) (*model.Model, error) {
	w := m.Word
	data, ok := font.Shipped[w.Font]
	if !ok {
		var err error
		if data, err = blob(w.Font); err != nil {
			return nil, fmt.Errorf("the font of the word is not here: %w", err)
		}
	}
	letters, err := font.Set(data, w.Text, font.Setting{Spacing: w.Spacing, Leading: w.Leading, Align: w.Align})
	if err != nil {
		return nil, err
	}
	out := &model.Model{Unit: "m", Up: "y", Materials: []material.Material{painted([4]uint8{210, 208, 200, 255})}}
	out.Materials[0].Name = "Letters"
	lowest := 0.0
	for _, l := range letters {
		lowest = math.Min(lowest, l.Y*w.Size)
	}
	for _, l := range letters {
		// The origin of a letter is the middle of its foot, about which it turns and grows.
		b := l.Path.Bounds()
		foot := (b.X0 + b.X1) / 2
		p := l.Path.Translate(-foot, 0).Transform(canvas.Identity.Scale(w.Size, w.Size))
		addSolid(out, string(l.Rune), m, outline.New(p, false, m.Tolerance), geom.Vec3{(l.X + foot) * w.Size, l.Y*w.Size - lowest, 0}, 0)
	}
	return out, nil
}

// FirstMark returns the mark of a drawing as it is made at first: as deep as an eighth of its height,
// with a fine chamfer, its curves true to a two-thousandth of its size.
func FirstMark(hash string, d *svg.Drawing) *shot.Mark {
	size := math.Max(d.Size[0], d.Size[1]) / 1000
	return &shot.Mark{
		Drawing: hash, Tolerance: size / 2000,
		Solid: mesh.Extrusion{Depth: size / 8, Bevel: mesh.Chamfer, Width: size / 150, Steps: 4},
	}
}
