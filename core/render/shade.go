package render

import (
	"context"
)

// The floor's shadow is measured by rays that meet something on their way to a light or none, and is noise of its own: it is smoothed by how
// alike the patches about two pixels are, given their noise (Rousselle et al., "Adaptive Rendering with Non-Local Means Filtering",
// 2012), each half of the samples by the other half. What is lit or dark for certain has no noise, and stays as it is: the edge of a hard
// shadow as well.
const (
	shadeReach  = 5    // of the window, pixels
	shadePatch  = 1    // of the means that are compared
	shadeStrict = 0.6  // standard deviations that patches may differ by
	shadeAlike  = 2e-4 // square of a difference that is none
)

// shades are what the shadow on the floor is smoothed by, each of a pixel.
type shades struct {
	floor  []float32    // the share of its samples that see the floor
	bare   []float32    // alpha without the shadow
	half   [2][]float32 // the shadow by each half of the samples
	spread []float32    // variance of one of them
}

func newShades(n int) *shades {
	list := func() []float32 { return make([]float32, n) }
	return &shades{list(), list(), [2][]float32{list(), list()}, list()}
}

// put takes a pixel's samples over.
func (s *shades) put(i int, p *gathered) {
	n := float32(p.n)
	s.floor[i], s.bare[i] = p.floors/n, p.alpha/n
	shadow := func(shaded, unshaded float32) float32 {
		if unshaded <= 0 {
			return 0
		}
		return min(1, max(0, 1-shaded/unshaded))
	}
	all := shadow(p.shaded, p.unshaded)
	s.half[0][i], s.half[1][i] = all, all
	if p.oddUnshaded > 0 && p.oddUnshaded < p.unshaded {
		s.half[0][i], s.half[1][i] = shadow(p.shaded-p.oddShaded, p.unshaded-p.oddUnshaded), shadow(p.oddShaded, p.oddUnshaded)
	}
	off := p.shadow.off(p.n)
	s.spread[i] = 2 * off * off
}

// smoothShadow puts the shadow on the floor, smoothed, into alpha. It ends with the context.
func (f *Film) smoothShadow(ctx context.Context, threads int) {
	s := f.shades
	if s == nil || ctx.Err() != nil {
		return
	}
	w, h := f.Width, f.Height
	var clean [2][]float32
	spread := make([]float32, w*h)
	for k := range clean {
		clean[k] = make([]float32, w*h)
	}
	eachRow(ctx, threads, h, func(y int) {
		for x := range w {
			i := y*w + x
			if s.floor[i] <= 0 {
				continue
			}
			// What stands out alone is chance, and few samples that are alike are not free of it.
			var sum, n float32
			for v := max(0, y-2); v <= min(h-1, y+2); v++ {
				for u := max(0, x-2); u <= min(w-1, x+2); u++ {
					if j := v*w + u; s.floor[j] > 0 {
						sum, n = sum+s.spread[j], n+1
					}
				}
			}
			spread[i] = max(s.spread[i], sum/n)
			for k := range clean {
				clean[k][i] = s.within(s.half[k], x, y, w, h)
			}
		}
	})
	var patch [2][]float32
	for k := range patch {
		patch[k] = make([]float32, w*h)
	}
	eachRow(ctx, threads, h, func(y int) {
		for x := range w {
			for k := range patch {
				if s.floor[y*w+x] > 0 {
					patch[k][y*w+x] = s.about(clean[k], x, y, w, h)
				}
			}
		}
	})
	eachRow(ctx, threads, h, func(y int) {
		for x := range w {
			i := y*w + x
			if s.floor[i] <= 0 {
				continue
			}
			shadow := (clean[0][i] + clean[1][i]) / 2
			if spread[i] > 0 {
				shadow = s.mean(&clean, &patch, spread, x, y, w, h)
			}
			f.Pix[4*i+3] = min(1, max(0, s.bare[i]+s.floor[i]*shadow*f.inside(i)))
		}
	})
}

// within is a value that is no more and no less than those about it.
func (s *shades) within(of []float32, x, y, w, h int) float32 {
	low, high, n := float32(1), float32(0), 0
	for v := max(0, y-2); v <= min(h-1, y+2); v++ {
		for u := max(0, x-2); u <= min(w-1, x+2); u++ {
			if j := v*w + u; (u != x || v != y) && s.floor[j] > 0 {
				low, high, n = min(low, of[j]), max(high, of[j]), n+1
			}
		}
	}
	if n < 3 {
		return of[y*w+x]
	}
	return min(high, max(low, of[y*w+x]))
}

// about is the mean of a value over a pixel and those about it.
func (s *shades) about(of []float32, x, y, w, h int) float32 {
	var sum, n float32
	for v := max(0, y-shadePatch); v <= min(h-1, y+shadePatch); v++ {
		for u := max(0, x-shadePatch); u <= min(w-1, x+shadePatch); u++ {
			if j := v*w + u; s.floor[j] > 0 {
				sum, n = sum+of[j], n+1
			}
		}
	}
	return sum / n
}

// mean is what pixels that are alike say of one: whose patches have nearly the same mean, given the noise of that.
func (s *shades) mean(half, patch *[2][]float32, spread []float32, x, y, w, h int) float32 {
	const share = 1.0 / ((2*shadePatch + 1) * (2*shadePatch + 1)) // of a pixel's variance that a patch has
	i := y*w + x
	var sum, weight [2]float32
	for v := max(0, y-shadeReach); v <= min(h-1, y+shadeReach); v++ {
		for u := max(0, x-shadeReach); u <= min(w-1, x+shadeReach); u++ {
			j := v*w + u
			if s.floor[j] <= 0 {
				continue
			}
			p, q := spread[i]*share, spread[j]*share
			scale := 1 / (shadeAlike + shadeStrict*shadeStrict*(p+q))
			for k := range half { // each half by the other
				d := patch[1-k][i] - patch[1-k][j]
				if g := (d*d - p - min(p, q)) * scale; g < 8 {
					c := s.floor[j]
					if g > 0 {
						c *= decay(g)
					}
					sum[k], weight[k] = sum[k]+half[k][j]*c, weight[k]+c
				}
			}
		}
	}
	return (sum[0]/weight[0] + sum[1]/weight[1]) / 2
}
