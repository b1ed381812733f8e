package render

import (
	"context"
	"runtime"
)

// What a picture keeps of every pixel until it is denoised is some 550 bytes. Large ones are made in strips of so many
// pixels, which takes about 1.6 GB whatever the size.
var stripPixels = 3 << 20

// overlap is how many rows a strip has in common with the next on each side: more than the denoiser sees across, and a
// whole number of its bands, so that its fits lie where they would in one piece.
const overlap = 2 * bandRows

// inStrips renders and denoises a picture.
func (s *Scene) inStrips(ctx context.Context, width, height int, o Options, q settings, threads int) (*Film, error) {
	q.layers = true // what glows is kept apart
	bare := o
	bare.Denoise = false
	var whole *Film
	rows := max(2*overlap, stripPixels/width/bandRows*bandRows)
	for top := 0; top < height; top += rows {
		if top > 0 {
			runtime.GC() // what the strip before took is what this one will take
		}
		low, high := max(0, top-overlap), min(height, top+rows+overlap)
		f := newFilm(width, high-low, s)
		f.top, f.of = low, height
		if _, err := f.prepare(o, s); err != nil {
			return nil, err
		}
		done := func(share float64) {
			if o.Progress != nil {
				o.Progress((float64(top) + share*float64(min(rows, height-top))) / float64(height))
			}
		}
		if q.noise > 0 {
			if err := s.settle(ctx, f, &q, threads, done); err != nil {
				return nil, err
			}
		} else {
			if err := s.fill(ctx, f, &q, threads, done); err != nil {
				return nil, err
			}
			f.denoise(ctx, threads)
		}
		if err := ctx.Err(); err != nil || f.Height == height {
			return f, err
		}
		if whole == nil {
			whole = newFilm(width, height, s)
			if _, err := whole.prepare(bare, s); err != nil {
				return nil, err
			}
		}
		whole.take(f, top, min(height, top+rows))
	}
	return whole, nil
}

// take takes rows of the picture from a strip of it.
func (f *Film) take(strip *Film, from, to int) {
	rows := func(to, all []float32, each int) { copy(to, all[(from-strip.top)*f.Width*each:]) }
	rows(f.Pix[from*f.Width*4:to*f.Width*4], strip.Pix, 4)
	for k := range f.Layers {
		each := len(f.Layers[k].Channels)
		rows(f.Layers[k].Pix[from*f.Width*each:to*f.Width*each], strip.Layers[k].Pix, each)
	}
}
