package render

import (
	"math"
	"sync"

	"perigyre/core/render/bvh"
)

// denoise smooths the light of surfaces where it is noisy, and only there: an edge-avoiding wavelet filter
// (Dammertz et al. 2010) whose tolerance follows the variance of each pixel (Schied et al. 2017). The base
// colour is taken out first and put back, so that texture stays as it is, and what glows is left alone. Alpha
// and passes are not touched.
func (f *Film) denoise(threads int) {
	g := f.guides
	n := f.Width * f.Height
	light, next := make([]bvh.Vec, n), make([]bvh.Vec, n)
	variance, nextVariance := make([]float32, n), make([]float32, n)
	base := func(i int) bvh.Vec {
		a := g.albedo[i]
		return bvh.Vec{X: max(0.02, a.X), Y: max(0.02, a.Y), Z: max(0.02, a.Z)}
	}
	for i := range n {
		if g.cover[i] <= 0 {
			continue
		}
		c, b := g.cover[i], base(i)
		l := bvh.Vec{X: f.Pix[4*i], Y: f.Pix[4*i+1], Z: f.Pix[4*i+2]}.Sub(g.emission[i])
		light[i] = bvh.Vec{X: l.X / (c * b.X), Y: l.Y / (c * b.Y), Z: l.Z / (c * b.Z)}
		k := c * luminance(b)
		variance[i] = g.variance[i] / (k * k)
	}
	f.each(threads, func(i, x, y int) { nextVariance[i] = f.blurred(variance, x, y) })
	variance, nextVariance = nextVariance, variance
	for pass := range 5 {
		step := 1 << pass
		f.each(threads, func(i, x, y int) {
			next[i], nextVariance[i] = f.smoothed(light, variance, i, x, y, step)
		})
		light, next = next, light
		variance, nextVariance = nextVariance, variance
	}
	for i := range n {
		if c := g.cover[i]; c > 0 {
			l := mul(light[i], base(i)).Mul(c).Add(g.emission[i])
			f.Pix[4*i], f.Pix[4*i+1], f.Pix[4*i+2] = l.X, l.Y, l.Z
		}
	}
}

// each calls for every pixel that a surface covers, rows shared out over threads.
func (f *Film) each(threads int, do func(i, x, y int)) {
	var wg sync.WaitGroup
	for t := range threads {
		wg.Go(func() {
			for y := t; y < f.Height; y += threads {
				for x := range f.Width {
					if i := y*f.Width + x; f.guides.cover[i] > 0 {
						do(i, x, y)
					}
				}
			}
		})
	}
	wg.Wait()
}

// blurred averages the variance over the neighbours, since that of few samples is noisy itself.
func (f *Film) blurred(v []float32, x, y int) float32 {
	sum, weight := float32(0), float32(0)
	for dy := -2; dy <= 2; dy++ {
		for dx := -2; dx <= 2; dx++ {
			u, w := x+dx, y+dy
			if u < 0 || w < 0 || u >= f.Width || w >= f.Height || f.guides.cover[w*f.Width+u] <= 0 {
				continue
			}
			k := float32(1) / float32(1+dx*dx+dy*dy)
			sum, weight = sum+k*v[w*f.Width+u], weight+k
		}
	}
	return sum / weight
}

// kernel is a B3 spline.
var kernel = [5]float32{1.0 / 16, 1.0 / 4, 3.0 / 8, 1.0 / 4, 1.0 / 16}

func (f *Film) smoothed(light []bvh.Vec, variance []float32, i, x, y, step int) (bvh.Vec, float32) {
	g := f.guides
	const tolerance = 1.5 // standard deviations
	own := luminance(light[i])
	spread := tolerance*sqrt(variance[i]) + 1e-5
	reach := 1 / (g.depth[i]*g.footprint*float32(step)*2 + 1e-12)
	var sum bvh.Vec
	total, sum2 := float32(0), float32(0)
	for dy := -2; dy <= 2; dy++ {
		w := y + dy*step
		if w < 0 || w >= f.Height {
			continue
		}
		for dx := -2; dx <= 2; dx++ {
			u := x + dx*step
			if u < 0 || u >= f.Width {
				continue
			}
			j := w*f.Width + u
			if g.cover[j] <= 0 {
				continue
			}
			k := kernel[dx+2] * kernel[dy+2] * g.cover[j]
			if j != i {
				a, c := &g.doubt[i], &g.doubt[j]
				along := max(0, g.normal[i].Dot(g.normal[j]))
				along *= along
				along *= along
				along *= along
				along *= along // to the sixteenth
				off := max(0, abs(g.normal[i].Dot(g.position[j].Sub(g.position[i])))-(a.depth+c.depth)) * reach
				b := g.albedo[i].Sub(g.albedo[j])
				differs := max(0, sqrt(b.Dot(b))-(a.albedo+c.albedo))
				away := off + 40*differs*differs + abs(luminance(light[j])-own)/spread
				k *= along * along * float32(math.Exp(-float64(away)))
			}
			sum = sum.Add(light[j].Mul(k))
			sum2 += k * k * variance[j]
			total += k
		}
	}
	return sum.Mul(1 / total), sum2 / (total * total)
}
