package render

import (
	"context"
	"fmt"
	"runtime"
	"sync"
	"sync/atomic"

	"perigyre/core/render/bvh"
)

// Refine renders a proof that sharpens: first a small picture of a quarter of the size, then whole ones of 1, 2,
// 4 ... samples a pixel, up to most, each handed to show with how many samples it has. It ends with the context's
// error when it is given up.
func (s *Scene) Refine(ctx context.Context, width, height, most int, show func(f *Film, samples int) error) error {
	if s.camera.ahead == (bvh.Vec{}) {
		return fmt.Errorf("the shot has no camera to render through")
	}
	q := qualities[Proof]
	small := progressive{scene: s, width: max(1, width/4), height: max(1, height/4), q: q}
	if err := small.pass(ctx, 4); err != nil {
		return err
	}
	if err := show(small.film(), 0); err != nil {
		return err
	}
	whole := progressive{scene: s, width: width, height: height, q: q}
	for n := 1; n <= most; n *= 2 {
		if err := whole.pass(ctx, n); err != nil {
			return err
		}
		if err := show(whole.film(), n); err != nil {
			return err
		}
	}
	return nil
}

// progressive gathers samples of a picture in several passes.
type progressive struct {
	scene         *Scene
	width, height int
	q             settings
	pixels        []gathered
}

// pass brings every pixel to so many samples.
func (p *progressive) pass(ctx context.Context, samples int) error {
	if p.pixels == nil {
		p.pixels = make([]gathered, p.width*p.height)
		p.q.layers, p.q.pixel = true, p.scene.camera.pixel(p.width) // the denoiser wants what glows apart
	}
	var next atomic.Int64
	var all sync.WaitGroup
	s := p.scene
	for range runtime.GOMAXPROCS(0) {
		all.Go(func() {
			w := new(bvh.Walker)
			for ctx.Err() == nil {
				y := int(next.Add(1)) - 1
				if y >= p.height {
					return
				}
				for x := range p.width {
					i := y*p.width + x
					for g := &p.pixels[i]; g.n < samples; {
						r := newSampler(uint32(i), uint32(g.n), w)
						u, v := r.next2()
						if s.moving {
							r.time = r.next1()
						}
						o, d := s.camera.ray((float32(x)+0.5+filterOffset(u))/float32(p.width), (float32(y)+0.5+filterOffset(v))/float32(p.height), &r)
						one := s.trace(o, d, &r, &p.q)
						g.add(&one, s.camera.depth(one.first.position))
					}
				}
			}
		})
	}
	all.Wait()
	return ctx.Err()
}

// film develops what has been gathered, denoised.
func (p *progressive) film() *Film {
	f := &Film{Width: p.width, Height: p.height, Pix: make([]float32, 4*p.width*p.height), full: p.scene.seen}
	_, _ = f.prepare(Options{Denoise: true}, p.scene)
	for i := range p.pixels {
		one := p.pixels[i] // put changes it
		f.put(i, &one, &p.scene.camera)
	}
	f.denoise(runtime.GOMAXPROCS(0))
	return f
}
