package render

import (
	"context"

	"perigyre/core/render/bvh"
	"perigyre/core/scene"
)

// What a picture's neighbours in a run saw of a place is used before the picture is denoised by itself (denoise.go). A pixel was
// in a neighbour where its surface was, by the placement of its body and the cameras of both, and where the pixel itself is, for
// what stands still in the picture though the surface moves: a highlight on what turns. Both count only where they are of the same
// surface at the depth and with the normal that they should have, and by how alike the patches about them are, given their
// noise, as in the denoiser; each half of the samples by the other. The halves stay independent of each other.

// exposure is a strip of a picture as it was sampled, not yet denoised.
type exposure struct {
	film   *Film
	from   *scene.Scene
	camera camera
	phase  int
	spread []float32 // as the denoiser has it
	anchors
}

const (
	slack      = 1 // that patches may differ by besides
	slackStill = 2 // and of what stands still before a camera that does: so that it is wholly the same in all pictures
	patchStill = 5 // for that too patches are larger,
	wildStill  = 6 // and no pixel of them says more than that
)

// likeness weighs what a course leads to. Differ tells how much two pixels differ, more than their noise, for each half.
func likeness(ctx context.Context, threads, width, height int, c course, differ func(i, j int) (float32, float32)) (weights [2][]float32) {
	var apiece [2][]float32
	for h := range weights {
		apiece[h], weights[h] = make([]float32, len(c.to)), make([]float32, len(c.to))
	}
	eachRow(ctx, threads, height, func(y int) {
		for i := y * width; i < (y+1)*width; i++ {
			if c.to[i] >= 0 {
				apiece[0][i], apiece[1][i] = differ(i, int(c.to[i]))
			}
		}
	})
	eachRow(ctx, threads, height, func(y int) {
		for x := range width {
			i := y*width + x
			if c.to[i] < 0 {
				continue
			}
			less, most, r := float32(slack), float32(wildest), patch
			if c.still[i] {
				less, most, r = slackStill, wildStill, patchStill
			}
			var sum [2]float32
			n := float32(0)
			for v := max(0, y-r); v <= min(height-1, y+r); v++ {
				for u := max(0, x-r); u <= min(width-1, x+r); u++ {
					if j := v*width + u; c.to[j] >= 0 {
						sum[0], sum[1], n = sum[0]+min(most, apiece[0][j]), sum[1]+min(most, apiece[1][j]), n+1
					}
				}
			}
			for h := range sum { // each half by the other
				weights[h][i] = decay(max(0, sum[1-h]/n-less))
			}
		}
	})
	return weights
}

// beside is a neighbour that has been looked up.
type beside struct {
	e       *exposure
	course  course
	weights [2][]float32
	stays   bool
	share   float32
}

// along makes a film of an exposure whose light is that of its neighbours too, where they are alike. The exposures stay as they are.
func (e *exposure) along(ctx context.Context, others []*exposure, threads int) *Film {
	f := *e.film
	f.Pix = append([]float32(nil), f.Pix...)
	g := *f.guides
	f.guides = &g
	phases := map[int]float32{}
	for _, n := range others {
		phases[n.phase]++
	}
	var list []beside
	for _, n := range others {
		follow, stay := e.courses(ctx, n, threads)
		differ := func(i, j int) (float32, float32) {
			return difference(e.film.guides, n.film.guides, i, j, e.spread[i], n.spread[j])
		}
		going, staying := likeness(ctx, threads, f.Width, f.Height, follow, differ), likeness(ctx, threads, f.Width, f.Height, stay, differ)
		for h := range going { // what stands still in the picture is taken where it stands: it is the same for the frames beside
			for i, w := range staying[h] {
				going[h][i] *= 1 - w
			}
		}
		list = append(list, beside{n, follow, going, false, 1}, beside{n, stay, staying, true, 1 / phases[n.phase]})
	}
	n := f.Width * f.Height
	g.half = [2][]bvh.Vec{make([]bvh.Vec, n), make([]bvh.Vec, n)}
	g.variance = make([]float32, n)
	own := e.film.guides
	eachRow(ctx, threads, f.Height, func(y int) {
		for i := y * f.Width; i < (y+1)*f.Width; i++ {
			if g.cover[i] <= 0 {
				continue
			}
			for h := range g.half {
				sum, weight := own.half[h][i], float32(1)
				for k := range list {
					b := &list[k]
					if j := b.course.to[i]; j >= 0 {
						w := b.weights[h][i] * b.share
						sum, weight = sum.Add(b.e.film.guides.half[h][j].Mul(w)), weight+w
					}
				}
				g.half[h][i] = sum.Mul(1 / weight)
			}
			g.variance[i] = varianceOf(own.variance[i], list, i, func(e *exposure, j int32) float32 { return e.film.guides.variance[j] })
		}
	})
	e.doubted(ctx, &f, list, threads)
	if f.shades != nil {
		f.shades = e.shadesAlong(ctx, others, phases, threads)
	}
	return &f
}

// doubted goes back to a picture's own samples where those of its neighbours turn out to be other: where they are further from
// the other half of its own samples than the noise of both.
func (e *exposure) doubted(ctx context.Context, f *Film, list []beside, threads int) {
	own, g := e.film.guides, f.guides
	mixed := [2][]bvh.Vec{make([]bvh.Vec, len(g.cover)), make([]bvh.Vec, len(g.cover))}
	variance := make([]float32, len(g.cover))
	eachRow(ctx, threads, f.Height, func(y int) {
		for x := range f.Width {
			i := y*f.Width + x
			if g.cover[i] <= 0 {
				continue
			}
			near, lets := patch, float32(0.8) // a third where all is alike, and chance
			for k := range list {
				if list[k].course.still[i] {
					near, lets = patchStill, 2
				}
			}
			var off, spread float32
			for v := max(0, y-near); v <= min(f.Height-1, y+near); v++ {
				for u := max(0, x-near); u <= min(f.Width-1, x+near); u++ {
					if j := v*f.Width + u; g.cover[j] > 0 {
						p, q := g.half[0][j].Sub(own.half[1][j]), g.half[1][j].Sub(own.half[0][j])
						off += (p.Dot(p)+q.Dot(q))/2 - e.spread[j]
						spread += e.spread[j]
					}
				}
			}
			share := float32(0)
			if spread > 0 {
				share = min(1, max(0, (off/spread-lets)/0.6))
			}
			for h := range mixed {
				mixed[h][i] = g.half[h][i].Mul(1 - share).Add(own.half[h][i].Mul(share))
			}
			off = (1-share)*sqrt(g.variance[i]) + share*sqrt(own.variance[i])
			variance[i] = off * off
		}
	})
	g.half, g.variance = mixed, variance
}

// varianceOf is the variance of a pixel's mixture with its neighbours, of that of its own and of each of them.
func varianceOf(own float32, list []beside, i int, of func(e *exposure, j int32) float32) float32 {
	variance, all := own, float32(1)
	var same [8]float32 // of the neighbours of each phase that stay, whose noise is the same
	for k := range list {
		b := &list[k]
		if j := b.course.to[i]; j >= 0 {
			w := (b.weights[0][i] + b.weights[1][i]) / 2 * b.share
			all += w
			if v := of(b.e, j); b.stays {
				same[b.e.phase&7] += w * sqrt(v)
			} else {
				variance += w * w * v
			}
		}
	}
	for _, v := range same {
		variance += v * v
	}
	return variance / (all * all)
}

// shadesAlong is along for the shadow on the floor.
func (e *exposure) shadesAlong(ctx context.Context, others []*exposure, phases map[int]float32, threads int) *shades {
	f, s := e.film, e.film.shades
	var list []beside
	for _, n := range others {
		c := e.floorCourse(ctx, n, threads)
		t := n.film.shades
		list = append(list, beside{e: n, course: c, stays: true, share: 1 / phases[n.phase], weights: likeness(ctx, threads, f.Width, f.Height, c, func(i, j int) (float32, float32) {
			p, q := s.spread[i], t.spread[j]
			scale := 1 / (shadeAlike + shadeStrict*shadeStrict*(p+q))
			v, w := s.half[0][i]-t.half[0][j], s.half[1][i]-t.half[1][j]
			return min(wildest, (v*v-2*min(p, q))*scale), min(wildest, (w*w-2*min(p, q))*scale)
		})})
	}
	out := *s
	out.half, out.spread = [2][]float32{make([]float32, len(s.floor)), make([]float32, len(s.floor))}, make([]float32, len(s.floor))
	eachRow(ctx, threads, f.Height, func(y int) {
		for i := y * f.Width; i < (y+1)*f.Width; i++ {
			for h := range out.half {
				sum, weight := s.half[h][i], float32(1)
				for k := range list {
					b := &list[k]
					if j := b.course.to[i]; j >= 0 {
						w := b.weights[h][i] * b.share
						sum, weight = sum+w*b.e.film.shades.half[h][j], weight+w
					}
				}
				out.half[h][i] = sum / weight
			}
			out.spread[i] = varianceOf(s.spread[i], list, i, func(e *exposure, j int32) float32 { return e.film.shades.spread[j] })
		}
	})
	return &out
}
