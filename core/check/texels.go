package check

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"perigyre/core/framing"
	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/model"
)

// Textures tell what the textures of a shot are like.
type Textures interface {
	// Primitives are the meshes of an asset.
	Primitives(asset string, mesh int) ([]model.Primitive, error)
	// Doubt says why a texture does not look like what its slot is for, and what its file is called; nothing where it does.
	Doubt(t *material.Texture, slot material.Slot) (file, why string)
	// Sides are how many pixels wide and high a texture is; an error where it cannot be read.
	Sides(t *material.Texture) (width, height int, err error)
}

// coarse is how many pixels of the picture a pixel of a texture may cover. Twice is seen as softness. Common practice, no source.
const coarse = 2

// Textures that do not look like what their slot is for, and textures that are coarser than the picture needs where they are nearest.
func init() {
	register(41, func(f *Facts) (out []Finding) {
		if f.Textures == nil {
			return nil
		}
		s := f.Pose.Shot
		for i := range s.Materials {
			m := &s.Materials[i]
			worn := f.wearing(m.ID)
			if len(worn) == 0 {
				continue
			}
			var parts []string
			for _, w := range worn {
				parts = append(parts, s.Parts[w.part].ID)
			}
			for k, slot := range m.TextureSlots() {
				t := *slot
				if t == nil || t.Missing != "" {
					continue
				}
				file, why := f.Textures.Doubt(t, material.Slots[k])
				if why != "" {
					out = append(out, Finding{Kind: "slot", Weight: Look, Parts: slices.Compact(parts), Value: 1, Unit: "file", Title: fmt.Sprintf("%s is in the slot of the %s", file, material.Slots[k]),
						Why: fmt.Sprintf("In %s %s. Bring in moves it to another slot.", m.Name, why)})
				}
				if material.Slots[k] != material.BaseColor {
					continue
				}
				worst := softness{}
				for _, w := range worn {
					if got := f.coarsest(w, t); got.pixels > worst.pixels {
						worst = got
					}
				}
				if worst.pixels > coarse {
					out = append(out, Finding{Kind: "coarse", Weight: Look, Parts: []string{s.Parts[worst.part].ID}, Frames: frame(worst.frame), Value: worst.pixels, Unit: "px", Title: file + " is coarser than the picture",
						Why: fmt.Sprintf("On frame %.0f, where %s is nearest, one of its pixels covers %.1f of the picture: it will look soft. A finer file, or a smaller format, mends it.", worst.frame, s.Parts[worst.part].Name, worst.pixels)})
				}
			}
		}
		return out
	})
}

// worn is a primitive of a part's mesh that wears a material.
type worn struct{ part, primitive int }

// wearing returns what is seen in a material.
func (f *Facts) wearing(id string) (out []worn) {
	hidden := f.Pose.Index.Hidden()
	for i := range f.Pose.Shot.Parts {
		p := &f.Pose.Shot.Parts[i]
		for k, m := range p.Materials {
			if m == id && p.Mesh != nil && !hidden[i] {
				out = append(out, worn{i, k})
			}
		}
	}
	return out
}

// softness is how many pixels of the picture a pixel of a texture covers at the most.
type softness struct {
	part   int
	frame  float64
	pixels float64
}

// sampled is how many triangles of a mesh are looked at on a frame, and on how many frames.
const sampled = 120

// coarsest is how many pixels of the picture one of a texture covers on a part, on the frame where that is most: of triangles that face
// the camera in the picture, the square root of their area in the picture over that in the texture, a tenth of them more.
func (f *Facts) coarsest(w worn, t *material.Texture) softness {
	e, out := f.Pose, softness{part: w.part}
	s, cam := e.Shot, e.Index.Part(e.Shot.Camera)
	p := &s.Parts[w.part]
	prims, err := f.Textures.Primitives(p.Mesh.Asset, p.Mesh.Mesh)
	width, height, err2 := f.Textures.Sides(t)
	if err != nil || err2 != nil || cam < 0 || w.primitive >= len(prims) || len(prims[w.primitive].UV) < len(prims[w.primitive].Positions) {
		return out
	}
	m := prims[w.primitive].Mesh
	step := max(1, len(m.Indices)/3/sampled)
	type piece struct {
		at     [3]geom.Vec3
		texels float64
	}
	var list []piece
	for k := 0; k+2 < len(m.Indices); k += 3 * step {
		var q piece
		var uv [3][2]float64
		for c := range 3 {
			i := m.Indices[k+c]
			u, v := m.UV[i][0], m.UV[i][1]
			if t.Transform != nil {
				u, v = t.Transform.Apply(u, v)
			}
			q.at[c], uv[c] = geom.V3(m.Positions[i]), [2]float64{float64(u) * float64(width), float64(v) * float64(height)}
		}
		if q.texels = math.Abs(area(uv)); q.texels > 1e-6 {
			list = append(list, q)
		}
	}
	ratios := make([]float64, 0, len(list))
	lens, size, at := s.Parts[cam].Camera, s.Format, e.Some(0)
	for t := 0; t < s.Frames && f.ctx.Err() == nil; t += max(1, s.Frames/sampled) {
		at.Go(float64(t))
		camera, body := at.Of(cam), at.Of(w.part)
		ratios = ratios[:0]
		for _, q := range list {
			var seen [3][2]float64
			in := true
			for c := range 3 {
				x, y, _, before := framing.Project(camera, lens, size, body.Point(q.at[c]))
				seen[c], in = [2]float64{x, y}, in && before && x >= 0 && y >= 0 && x <= float64(size.Width) && y <= float64(size.Height)
			}
			if a := area(seen); in && a < -1e-9 { // counter-clockwise in the room is clockwise where y goes down
				ratios = append(ratios, math.Sqrt(-a/q.texels))
			}
		}
		if len(ratios) < max(1, len(list)/50) {
			continue
		}
		slices.SortFunc(ratios, func(a, b float64) int { return cmp.Compare(b, a) })
		if got := ratios[len(ratios)/10]; got > out.pixels {
			out.frame, out.pixels = float64(t), got
		}
	}
	return out
}

// area is that of a triangle in a plane, with its sign: more than 0 where it goes round from x to y.
func area(t [3][2]float64) float64 {
	return ((t[1][0]-t[0][0])*(t[2][1]-t[0][1]) - (t[1][1]-t[0][1])*(t[2][0]-t[0][0])) / 2
}
