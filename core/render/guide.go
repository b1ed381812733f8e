package render

import (
	"math"

	"perigyre/core/render/bvh"
	"perigyre/core/scene"
)

// guideColor of lines that lead from where parts sit to where they are, scene-linear: a grey that is seen on white and on black.
var guideColor = [3]float32{0.45, 0.45, 0.45}

// guideWidth is how wide they are as a share of the picture's shorter side; at least a pixel and a quarter.
const guideWidth = 1.0 / 480

// guideLines draws the guide lines of a picture, smooth at their edges and hidden by what is solid and stands before them: into the pass of
// that name, if it is asked for, and into the picture itself, those that are to be seen there.
func (s *Scene) guideLines(f *Film) {
	var layer *Layer
	for k := range f.Layers {
		if f.Layers[k].Pass == GuideLines {
			layer = &f.Layers[k]
		}
	}
	w := new(bvh.Walker)
	for _, g := range s.guides {
		if layer == nil && !g.Drawn {
			continue
		}
		s.guideLine(&g, f.Width, f.Height, w, func(pixel int, cover float32) {
			if layer != nil {
				over(layer.Pix[4*pixel:4*pixel+4], cover)
			}
			if g.Drawn {
				over(f.Pix[4*pixel:4*pixel+4], cover)
			}
		})
	}
}

// over lays a line over a pixel whose colour is associated with its alpha.
func over(p []float32, cover float32) {
	for c := range 3 {
		p[c] = guideColor[c]*cover + p[c]*(1-cover)
	}
	p[3] = cover + p[3]*(1-cover)
}

// guideLine calls for every pixel that a line covers some of.
func (s *Scene) guideLine(g *scene.Guide, width, height int, w *bvh.Walker, put func(pixel int, cover float32)) {
	c := &s.camera
	from, to := vec(g.From), vec(g.To)
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
	reach := half + 1
	for y := max(0, int(math.Min(y0, y1)-reach)); y < min(height, int(math.Max(y0, y1)+reach)+1); y++ {
		for x := max(0, int(math.Min(x0, x1)-reach)); x < min(width, int(math.Max(x0, x1)+reach)+1); x++ {
			px, py := float64(x)+0.5-x0, float64(y)+0.5-y0
			u := math.Min(1, math.Max(0, (px*dx+py*dy)/(long*long)))
			d := math.Hypot(px-u*dx, py-u*dy)
			if cover := math.Min(1, half+0.5-d); cover > 0 && seen[int(u*float64(len(seen)-1)+0.5)] {
				put(y*width+x, float32(cover))
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
