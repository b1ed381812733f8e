package render

import (
	"context"
	"math/bits"
	"sync/atomic"

	"perigyre/core/render/bvh"
)

// canvas gathers the samples of all pixels of a picture, or a strip of one, in several passes.
type canvas struct {
	scene         *Scene
	width, height int
	top, of       int // as a film has them
	q             settings
	pixels        []gathered
}

func (s *Scene) gather(width, height int, q *settings) *canvas {
	p := &canvas{scene: s, width: width, height: height, of: height, q: *q, pixels: make([]gathered, width*height)}
	p.q.pixel = s.camera.pixel(width)
	return p
}

// even wants so many samples of every pixel.
func even(samples int) func(int) int { return func(int) int { return samples } }

// pass brings each pixel to as many samples as are wanted of it. It ends with the context's error when it is given up.
// Done is told the share of the rows that are; it may be nil.
func (p *canvas) pass(ctx context.Context, threads int, wanted func(i int) int, done func(float64)) error {
	var rows atomic.Int64
	shareOut(ctx, threads, p.height, func() func(int) {
		w := new(bvh.Walker)
		return func(y int) {
			for x := range p.width {
				if ctx.Err() != nil {
					return
				}
				i := y*p.width + x
				p.scene.expose(&p.pixels[i], x, p.top+y, wanted(i)-p.pixels[i].n, p.width, p.of, &p.q, w)
			}
			if n := rows.Add(1); done != nil {
				done(float64(n) / float64(p.height))
			}
		}
	})
	return ctx.Err()
}

// develop puts what has been gathered on a film.
func (p *canvas) develop(f *Film) {
	for i := range p.pixels {
		one := p.pixels[i] // put changes it
		f.put(i, &one, &p.scene.camera)
	}
}

// smoothed is the share of the noise of a shadow on the floor that smoothing leaves, at most: of the demo lantern's it leaves a fifth.
const smoothed = 0.5

// settle samples a picture until, denoised, it is as near to what it converges to as the settings ask for: each pixel
// that is not gets as many samples again as it has. The shadow on the floor is left as it was sampled.
func (s *Scene) settle(ctx context.Context, f *Film, q *settings, threads int, progress func(float64)) error {
	p := s.gather(f.Width, f.Height, q)
	p.top, p.of = f.top, f.of
	sharp := !s.moving && s.camera.radius == 0
	wanted := make([]int, len(p.pixels))
	for i := range wanted {
		wanted[i] = q.samples
	}
	rounds := bits.Len(uint(q.most / q.samples))
	for round := range rounds {
		told := func(share float64) {
			if progress != nil {
				progress((float64(round) + share) / float64(rounds))
			}
		}
		if err := p.pass(ctx, threads, func(i int) int { return wanted[i] }, told); err != nil {
			return err
		}
		p.develop(f)
		off := f.denoiseLight(ctx, threads)
		if off == nil {
			return ctx.Err()
		}
		some := false
		for y := range f.Height {
			for x := range f.Width {
				i := y*f.Width + x
				one := &p.pixels[i]
				if one.n >= q.most || q.done(one, off[i], smoothed*one.shadow.off(one.n), sharp) {
					continue
				}
				some = true
				wanted[i] = min(q.most, 2*one.n)
				for v := max(0, y-1); v <= min(f.Height-1, y+1); v++ {
					for u := max(0, x-1); u <= min(f.Width-1, x+1); u++ {
						j := v*f.Width + u
						wanted[j] = max(wanted[j], one.n)
					}
				}
			}
		}
		if !some {
			return nil
		}
	}
	return nil
}
