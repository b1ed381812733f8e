package render

import (
	"context"
	"fmt"
	"runtime"
)

// What a picture keeps of every pixel until it is denoised is some 550 bytes. Large ones are made in strips of so many
// pixels, which takes about 1.6 GB whatever the size.
var stripPixels = 3 << 20

// overlap is how many rows a strip has in common with the next on each side: more than the denoiser sees across, and a
// whole number of its bands, so that its fits lie where they would in one piece.
const overlap = 2 * bandRows

// stripRows are the rows of a strip of a picture so wide: a whole number of the denoiser's bands and of tiles.
func stripRows(width int) int {
	const whole = 2 * bandRows // 48
	return max(2*overlap, stripPixels/width/whole*whole)
}

// Strips returns how many strips a picture is made in. They can be rendered apart from each other, and joined: the picture is
// the same to the bit.
func Strips(width, height int) int {
	rows := stripRows(width)
	return (height + rows - 1) / rows
}

// ExposeStrip renders strip k of a picture, without what is drawn over the whole of it.
func (s *Scene) ExposeStrip(ctx context.Context, width, height, k int, o Options) (*Film, error) {
	q, threads, err := s.ready(width, &o)
	if err != nil {
		return nil, err
	}
	return s.strip(ctx, width, height, k, o, q, threads, o.Progress)
}

// Join makes a picture of its strips, which are as ExposeStrip gives them.
func (s *Scene) Join(width, height int, strips []*Film, o Options) (*Film, error) {
	whole := newFilm(width, height, s)
	o.Denoise = false // what the denoiser is told has done its work
	if _, err := whole.prepare(o, s); err != nil {
		return nil, err
	}
	rows := stripRows(width)
	for k, f := range strips {
		if err := whole.fits(f, k*rows, min(height, (k+1)*rows)); err != nil {
			return nil, err
		}
		whole.take(f, k*rows, min(height, (k+1)*rows))
	}
	s.annotate(whole)
	return whole, nil
}

// fits returns an error where a strip is not of rows of the picture: it may come from another machine.
func (f *Film) fits(strip *Film, from, to int) error {
	rows := to - from
	if strip.top != from || strip.Width != f.Width || strip.Height != rows || len(strip.Pix) != 4*rows*f.Width || len(strip.Layers) != len(f.Layers) {
		return fmt.Errorf("a strip is not of rows %d to %d of the picture", from, to-1)
	}
	for k, l := range strip.Layers {
		if len(l.Pix) != rows*f.Width*len(f.Layers[k].Channels) {
			return fmt.Errorf("the pass %s of a strip is not of rows %d to %d of the picture", f.Layers[k].Pass, from, to-1)
		}
	}
	return nil
}

// inStrips makes a picture strip by strip.
func (s *Scene) inStrips(width, height int, o Options, strip func(k int, progress func(float64)) (*Film, error)) (*Film, error) {
	n, rows := Strips(width, height), stripRows(width)
	var whole *Film
	for k := range n {
		if k > 0 {
			runtime.GC() // what the strip before took is what this one will take
		}
		f, err := strip(k, func(share float64) {
			if o.Progress != nil {
				o.Progress((float64(k*rows) + share*float64(min(rows, height-k*rows))) / float64(height))
			}
		})
		if err != nil || n == 1 {
			return f, err
		}
		if whole == nil {
			whole = newFilm(width, height, s)
			bare := o
			bare.Denoise = false
			if _, err := whole.prepare(bare, s); err != nil {
				return nil, err
			}
		}
		whole.take(f, k*rows, k*rows+f.Height)
	}
	return whole, nil
}

// strip renders strip k of a picture: its own rows alone, denoised by those about them as well where that is asked for.
func (s *Scene) strip(ctx context.Context, width, height, k int, o Options, q settings, threads int, progress func(float64)) (*Film, error) {
	f, err := s.sampled(ctx, width, height, k, o, q, threads, progress)
	if err == nil && o.Denoise {
		if q.noise <= 0 {
			f.denoise(ctx, threads)
		} else { // its light is already
			f.smoothShadow(ctx, threads)
		}
		err = ctx.Err()
	}
	if err != nil {
		return nil, err
	}
	return s.trimmed(f, k, o)
}

// sampled takes the samples of a strip, and of the rows about it that the denoiser looks at; as many as the denoised picture needs,
// where that is what was asked for.
func (s *Scene) sampled(ctx context.Context, width, height, k int, o Options, q settings, threads int, progress func(float64)) (*Film, error) {
	rows := stripRows(width)
	top := k * rows
	end := min(height, top+rows)
	if k < 0 || top >= height {
		return nil, fmt.Errorf("the picture has no strip %d", k)
	}
	if o.Denoise {
		top, end = max(0, top-overlap), min(height, end+overlap)
	}
	f := newFilm(width, end-top, s)
	f.top, f.of = top, height
	apart, err := f.prepare(o, s)
	if err != nil {
		return nil, err
	}
	q.layers = apart
	if o.Denoise && q.noise > 0 {
		err = s.settle(ctx, f, &q, threads, progress)
	} else {
		err = s.fill(ctx, f, &q, threads, progress)
	}
	return f, err
}

// trimmed leaves of a strip the rows that are its own.
func (s *Scene) trimmed(f *Film, k int, o Options) (*Film, error) {
	rows := stripRows(f.Width)
	top := k * rows
	end := min(f.of, top+rows)
	if top == f.top && end == f.top+f.Height {
		return f, nil
	}
	own := newFilm(f.Width, end-top, s)
	own.top, own.of = top, f.of
	o.Denoise = false
	if _, err := own.prepare(o, s); err != nil {
		return nil, err
	}
	own.take(f, top, end)
	return own, nil
}

// take takes rows of the picture from a strip of it.
func (f *Film) take(strip *Film, from, end int) {
	rows := func(to, all []float32, each int) {
		copy(to[(from-f.top)*f.Width*each:(end-f.top)*f.Width*each], all[(from-strip.top)*f.Width*each:])
	}
	rows(f.Pix, strip.Pix, 4)
	for k := range f.Layers {
		rows(f.Layers[k].Pix, strip.Layers[k].Pix, len(f.Layers[k].Channels))
	}
}
