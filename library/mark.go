package library

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"image/png"
	"math"

	"perigyre/core/color"
	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/core/outline"
	"perigyre/core/planar"
	"perigyre/core/shot"
	"perigyre/formats/font"
	"perigyre/formats/svg"
)

// Mark makes a model of a mark: a part for each painted area or letter, with faces and sides as meshes
// of their own. Blob gives drawings and font files by their content hash. The model is in metres,
// upright, facing +z, its lower edge at y = 0. Errors are sentences, or that of the context where it ends first.
func Mark(ctx context.Context, m *shot.Mark, blob func(hash string) ([]byte, error)) (*model.Model, error) {
	if m.Word != nil {
		return word(ctx, m, blob)
	}
	data, err := blob(m.Drawing)
	if err != nil {
		return nil, err
	}
	d, err := svg.Open(data)
	if err != nil {
		return nil, err
	}
	return drawing(ctx, m, d)
}

const millimetre = 0.001

// drawing makes a model of a drawing: a part of what is seen of each area.
func drawing(ctx context.Context, m *shot.Mark, d *svg.Document) (*model.Model, error) {
	drawn, err := d.Draw(ctx, m.Tolerance/millimetre)
	if err != nil {
		return nil, err
	}
	areas, hides := make([]outline.Area, len(drawn.Areas)), make([]int, len(drawn.Areas))
	gradients := 0
	for i, a := range drawn.Areas {
		areas[i], hides[i] = a.Shape.Transform(outline.Scaled(millimetre, millimetre)), a.Hides
		if a.Paint.Gradient != nil {
			gradients++
		}
	}
	regions, err := outline.Visible(ctx, areas, hides)
	if err != nil {
		return nil, err
	}
	lo, hi := geom.Vec2{math.Inf(1), math.Inf(1)}, geom.Vec2{math.Inf(-1), math.Inf(-1)}
	for i, r := range regions {
		if r.Size() < m.Tolerance*m.Tolerance { // nothing that would be seen
			regions[i] = outline.Region{}
			continue
		}
		a, b := r.Bounds()
		lo = geom.Vec2{math.Min(lo[0], a[0]), math.Min(lo[1], a[1])}
		hi = geom.Vec2{math.Max(hi[0], b[0]), math.Max(hi[1], b[1])}
	}
	out := &model.Model{Unit: "m", Up: "y", LeftOut: drawn.LeftOut}
	at := geom.Vec3{-(lo[0] + hi[0]) / 2, -lo[1], 0}
	known := map[[4]uint8]int{}
	for i, a := range drawn.Areas {
		if regions[i].Empty() {
			continue
		}
		name := a.Name
		if name == "" {
			name = fmt.Sprintf("Area %d", i+1)
		}
		c := a.Paint.Color
		key := [4]uint8{c.R, c.G, c.B, c.A}
		mat, ok := known[key]
		if g := a.Paint.Gradient; g != nil {
			mat = len(out.Materials)
			out.Materials = append(out.Materials, shaded(out, name, g, regions[i], a.Paint.Opaque(), gradients))
		} else if !ok {
			mat = len(out.Materials)
			known[key] = mat
			out.Materials = append(out.Materials, painted(key))
		}
		if err := addSolid(ctx, out, name, m, regions[i], at, mat); err != nil {
			return nil, err
		}
	}
	if len(out.Nodes) == 0 {
		return nil, errors.New("it paints nothing that can be made solid")
	}
	return out, nil
}

// shaded is the material of a gradient: a picture of it over the box of the region, as finely as the number of gradients
// in the drawing lets it be.
func shaded(out *model.Model, name string, g *svg.Gradient, r outline.Region, opaque bool, gradients int) material.Material {
	side := 256
	if gradients > 64 {
		side = 64
	}
	lo, hi := r.Bounds()
	img := image.NewNRGBA(image.Rect(0, 0, side, side))
	for y := range side {
		for x := range side {
			u, v := (float64(x)+0.5)/float64(side), 1-(float64(y)+0.5)/float64(side)
			img.SetNRGBA(x, y, g.At(geom.Vec2{(lo[0] + (hi[0]-lo[0])*u) / millimetre, (lo[1] + (hi[1]-lo[1])*v) / millimetre}))
		}
	}
	var buf bytes.Buffer
	_ = png.Encode(&buf, img) // a picture in memory always encodes
	m := painted([4]uint8{255, 255, 255, 255})
	m.Name = "Gradient of " + name
	m.BaseColorTexture = &material.Texture{Image: len(out.Images), WrapS: material.Clamp, WrapT: material.Clamp}
	if !opaque {
		m.Alpha = material.Blend
	}
	out.Images = append(out.Images, model.Image{Name: m.Name + ".png", MIME: "image/png", Data: buf.Bytes()})
	return m
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

// addSolid adds a region as a solid. Its texture coordinates go over the region's box.
func addSolid(ctx context.Context, out *model.Model, name string, m *shot.Mark, r outline.Region, at geom.Vec3, mat int) error {
	faces, sides, err := outline.Extrude(ctx, m.Solid, r, m.Tolerance)
	if err != nil {
		return err
	}
	if out.Materials[mat].BaseColorTexture != nil {
		lo, hi := r.Bounds()
		for _, part := range []*mesh.Mesh{faces, sides} {
			part.UV = make([][2]float32, len(part.Positions))
			for i, p := range part.Positions {
				part.UV[i] = [2]float32{float32((float64(p[0]) - lo[0]) / (hi[0] - lo[0])), float32(1 - (float64(p[1])-lo[1])/(hi[1]-lo[1]))}
			}
		}
	}
	out.Nodes = append(out.Nodes, model.Node{Name: name, Parent: -1, Position: at, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}, Mesh: len(out.Meshes)})
	out.Meshes = append(out.Meshes, model.Mesh{Name: name, Primitives: []model.Primitive{{Mesh: faces, Material: mat}, {Mesh: sides, Material: mat}}})
	return nil
}

func word(ctx context.Context, m *shot.Mark, blob func(hash string) ([]byte, error)) (*model.Model, error) {
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
		lo, hi, _ := l.Path.Bounds()
		foot := (lo[0] + hi[0]) / 2
		r, err := outline.Fill(l.Path.Transform(outline.Scaled(w.Size, w.Size).Mul(outline.Moved(-foot, 0))), planar.NonZero, m.Tolerance).Resolve(ctx)
		if err != nil {
			return nil, fmt.Errorf("the letter %q: %w", l.Rune, err)
		}
		if r.Empty() {
			continue
		}
		if err := addSolid(ctx, out, string(l.Rune), m, r, geom.Vec3{(l.X + foot) * w.Size, l.Y*w.Size - lowest, 0}, 0); err != nil {
			return nil, fmt.Errorf("the letter %q: %w", l.Rune, err)
		}
	}
	return out, nil
}

// FirstMark returns the mark of a drawing as it is made at first: as deep as an eighth of its height,
// with a fine chamfer, its curves true to a two-thousandth of its size.
func FirstMark(hash string, d *svg.Document) *shot.Mark {
	size := math.Max(d.Size[0], d.Size[1]) / 1000
	return &shot.Mark{
		Drawing: hash, Tolerance: size / 2000,
		Solid: mesh.Extrusion{Depth: size / 8, Bevel: mesh.Chamfer, Width: size / 150, Steps: 4},
	}
}
