package render

import (
	"math"

	"perigyre/core/geom"
	"perigyre/core/render/bvh"
)

// guideColor of lines that lead from where parts sit to where they are, scene-linear: a grey that is seen on white and on black.
var guideColor = [3]float32{0.45, 0.45, 0.45}

// guideWidth is how wide they are as a share of the picture's shorter side; at least a pixel and a quarter.
const guideWidth = 1.0 / 480

// annotate draws what is no light into a picture and its passes: guide lines, and labels over them.
func (s *Scene) annotate(f *Film) {
	w := new(bvh.Walker)
	lines, labels := f.layer(GuideLines), f.layer(Labels)
	for _, g := range s.guides {
		for _, pix := range f.where(lines, g.Drawn) {
			for k := range g.Points[1:] {
				s.guideLine(g.Points[k], g.Points[k+1], f.Width, f.Height, w, func(pixel int, cover float32) {
					over(pix[4*pixel:4*pixel+4], guideColor, cover)
				})
			}
		}
	}
	for k := range s.labels {
		for _, pix := range f.where(labels, s.labels[k].Drawn) {
			label(&s.labels[k], pix, f.Width, f.Height)
		}
	}
}

// layer is that of a pass, or nil.
func (f *Film) layer(p Pass) []float32 {
	for k := range f.Layers {
		if f.Layers[k].Pass == p {
			return f.Layers[k].Pix
		}
	}
	return nil
}

// where are the pixels that something is drawn to: those of a pass, if it is asked for, and those of the picture.
func (f *Film) where(layer []float32, drawn bool) (out [][]float32) {
	if layer != nil {
		out = append(out, layer)
	}
	if drawn {
		out = append(out, f.Pix)
	}
	return out
}

// over lays a colour over a pixel whose own is associated with its alpha.
func over(p []float32, color [3]float32, cover float32) {
	for c := range 3 {
		p[c] = color[c]*cover + p[c]*(1-cover)
	}
	p[3] = cover + p[3]*(1-cover)
}

// guideLine calls for every pixel that a line in the room covers some of, and where it is not hidden by what is solid before it.
func (s *Scene) guideLine(a, b geom.Vec3, width, height int, w *bvh.Walker, put func(pixel int, cover float32)) {
	c := &s.camera
	from, to := vec(a), vec(b)
	near, far := float32(1), float32(1)
	if !c.flat {
		near, far = c.depth(from), c.depth(to)
		if near <= 0 || far <= 0 {
			return // an end is behind the camera
		}
	}
	pixel := func(p bvh.Vec) (x, y float64) {
		u, v := c.place(p)
		return float64(u+1) / 2 * float64(width), float64(1-v) / 2 * float64(height)
	}
	x0, y0 := pixel(from)
	x1, y1 := pixel(to)
	dx, dy := x1-x0, y1-y0
	long := math.Hypot(dx, dy)
	if !(long > 0.5) || long > 1e5 {
		return
	}
	half := math.Max(1.25, guideWidth*float64(min(width, height))) / 2
	// Whether it is hidden, at points half a pixel apart: even steps of the picture are steps of 1 / depth in the room.
	seen := make([]bool, int(2*long)+2)
	for k := range seen {
		u := float32(k) / float32(len(seen)-1)
		t := u * near / (far + u*(near-far))
		seen[k] = !s.hides(from.Add(to.Sub(from).Mul(t)), w)
	}
	stroke([2]float64{x0, y0}, [2]float64{x1, y1}, half, width, height, func(pixel int, along float64, cover float32) {
		if seen[int(along*float64(len(seen)-1)+0.5)] {
			put(pixel, cover)
		}
	})
}

// stroke calls for every pixel that a line in the picture covers some of, from end to end in pixels, with where along it that is.
func stroke(from, to [2]float64, half float64, width, height int, put func(pixel int, along float64, cover float32)) {
	dx, dy := to[0]-from[0], to[1]-from[1]
	square := dx*dx + dy*dy
	if !(square > 1e-12) {
		return
	}
	reach := half + 1
	for y := max(0, int(math.Min(from[1], to[1])-reach)); y < min(height, int(math.Max(from[1], to[1])+reach)+1); y++ {
		for x := max(0, int(math.Min(from[0], to[0])-reach)); x < min(width, int(math.Max(from[0], to[0])+reach)+1); x++ {
			px, py := float64(x)+0.5-from[0], float64(y)+0.5-from[1]
			u := math.Min(1, math.Max(0, (px*dx+py*dy)/square))
			if cover := math.Min(1, half+0.5-math.Hypot(px-u*dx, py-u*dy)); cover > 0 {
				put(y*width+x, u, float32(cover))
			}
		}
	}
}

// hides reports whether something solid stands between the camera and a point.
func (s *Scene) hides(p bvh.Vec, w *bvh.Walker) bool {
	c := &s.camera
	d := p.Sub(c.position)
	if c.flat {
		d = c.ahead.Mul(d.Dot(c.ahead))
	}
	r := bvh.Ray{Origin: p.Sub(d), Direction: d, Far: 1 - 1e-4, Mask: solid, Time: 0.5}
	if len(s.cutters) > 0 && s.cutNear(&r, w) {
		var hit point
		return s.find(&r, w, &hit)
	}
	return s.tree.Occluded(&r, w)
}
