package runs

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/draw"
	"image/png"

	"perigyre/core/check"
	"perigyre/core/render"
	"perigyre/core/shot"
)

// A rehearsal's pictures are so many pixels on their longer side, of at most so many frames spread over the shot.
const (
	rehearsalSide = 96
	maxRehearsed  = 240
)

// Rehearsal is a shot rendered very small, as a whole.
type Rehearsal struct {
	Frames   []int    // that are rendered, in their order
	Pictures [][]byte // of them, PNG, as far as they are rendered
}

// Rehearse renders frames of the whole shot very small, tells each as it is done, and returns what is found in them. Those of a loop
// are spread so that the last is a step before the first.
func Rehearse(ctx context.Context, d *shot.Shot, f *check.Facts, stock Stock, done func(r *Rehearsal)) ([]check.Finding, error) {
	o := Defaults(d)
	o.Quality, o.Denoise, o.Backdrop, o.BackdropLow, o.Vignette = render.Draft, true, nil, nil, 0
	if k := float64(rehearsalSide) / float64(max(d.Format.Width, d.Format.Height)); k < 1 {
		o.Width, o.Height = max(1, int(k*float64(d.Format.Width)+0.5)), max(1, int(k*float64(d.Format.Height)+0.5))
	}
	p, err := NewPlan(d, Names{}, o, "", stock)
	if err != nil {
		return nil, err
	}
	r := &Rehearsal{}
	n := min(d.Frames, maxRehearsed)
	for k := range n {
		r.Frames = append(r.Frames, k*d.Frames/n)
	}
	var list []check.Rehearsed
	for _, frame := range r.Frames {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		files, _, err := p.Picture(ctx, frame, nil)
		if err != nil {
			return nil, fmt.Errorf("frame %d: %w", frame, err)
		}
		got, err := png.Decode(bytes.NewReader(files[0]))
		if err != nil {
			return nil, fmt.Errorf("frame %d: %w", frame, err)
		}
		flat := image.NewNRGBA(got.Bounds())
		draw.Draw(flat, flat.Bounds(), got, got.Bounds().Min, draw.Src)
		list = append(list, check.Rehearsed{Frame: frame, Picture: flat})
		if r.Pictures = append(r.Pictures, files[0]); done != nil {
			done(r)
		}
	}
	return check.Pictures(f, list), nil
}
