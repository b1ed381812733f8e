package main

import (
	"context"
	"fmt"
	"math"

	"perigyre/core/color"
	"perigyre/core/render"
)

// quality measures what each way of rendering a picture costs and how far it is from a reference of many
// samples: the root mean square after the view transform.
func quality(s *render.Scene, view color.View) {
	const side = 200
	var film *render.Film
	shoot := func(o render.Options) float64 {
		return fastest(1, func() {
			var err error
			film, err = s.Expose(context.Background(), side, side, o)
			check(err)
		})
	}
	reference := shoot(render.Options{Quality: render.Exact})
	want := film.Image(view, nil, 16)
	row(fmt.Sprintf("reference, %d x %d, exact", side, side), reference, "s")
	for _, o := range []render.Options{
		{Quality: render.Proof}, {Quality: render.Proof, Denoise: true},
		{Quality: render.Final, Noise: 0.02}, {Quality: render.Final, Noise: 0.01}, {Quality: render.Final, Noise: 0.02, Denoise: true}, {Quality: render.Final, Noise: 0.01, Denoise: true},
	} {
		seconds := shoot(o)
		got := film.Image(view, nil, 16)
		sum, n := 0.0, 0
		for y := range side {
			for x := range side {
				r, g, b, a := want.At(x, y).RGBA()
				if a < 0xff00 {
					continue
				}
				u, v, w, _ := got.At(x, y).RGBA()
				for _, d := range []float64{float64(r) - float64(u), float64(g) - float64(v), float64(b) - float64(w)} {
					sum += d * d / 65535 / 65535
					n++
				}
			}
		}
		name := string(o.Quality)
		if o.Noise > 0 {
			name += fmt.Sprintf(", noise %g", o.Noise)
		}
		if o.Denoise {
			name += ", denoised"
		}
		row("  "+name, seconds, fmt.Sprintf("s, error %.5f", math.Sqrt(sum/float64(n))))
	}
}
