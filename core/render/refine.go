package render

import "context"

// Refine renders a proof that sharpens: first a small picture of a quarter of the size, then whole ones of 1, 2,
// 4 ... samples a pixel, up to most, each handed to show with how many samples it has. It ends with the context's
// error when it is given up.
func (s *Scene) Refine(ctx context.Context, width, height, most int, show func(f *Film, samples int) error) error {
	q, threads, err := s.ready(width, &Options{Quality: Proof, Denoise: true})
	if err != nil {
		return err
	}
	q.layers = true // the denoiser wants what glows apart
	small := s.gather(max(1, width/4), max(1, height/4), &q)
	if err := small.pass(ctx, threads, even(4), nil); err != nil {
		return err
	}
	present := func(c *canvas, samples int) error {
		f := c.film(ctx, threads)
		if err := ctx.Err(); err != nil {
			return err
		}
		return show(f, samples)
	}
	if err := present(small, 0); err != nil {
		return err
	}
	whole := s.gather(width, height, &q)
	for n := 1; n <= most; n *= 2 {
		if err := whole.pass(ctx, threads, even(n), nil); err != nil {
			return err
		}
		if err := present(whole, n); err != nil {
			return err
		}
	}
	return nil
}

// film develops what has been gathered so far, denoised.
func (p *canvas) film(ctx context.Context, threads int) *Film {
	f := newFilm(p.width, p.height, p.scene)
	_, _ = f.prepare(Options{Denoise: true}, p.scene)
	p.develop(f)
	f.denoise(ctx, threads)
	return f
}
