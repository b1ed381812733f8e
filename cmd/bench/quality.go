package main

import (
	"context"
	"fmt"
	"image"
	"math"
	"time"

	"perigyre/core/color"
	"perigyre/core/render"
)

// quality measures what each way of getting to the same picture costs, against a plain path tracer with the same light:
// as many independent samples for every pixel, and no denoiser. Errors are the root mean square, after the view
// transform and where nothing shows through, from a reference of many samples. The plain tracer's error goes with the
// square root of its time (its own rows show how nearly), so that what it would take for another's error is known. Of pictures with
// neighbours the time is that of one in a run, in which each neighbour is sampled once.
func quality(name string, s *render.Scene, view color.View, moments []render.Moment, props *render.Props, side, reference int) {
	shoot := func(o render.Options) (image.Image, float64) {
		var film *render.Film
		o.Quality = render.Final
		runs := 2
		if o.Samples > 1000 {
			runs = 1
		}
		seconds := fastest(runs, func() {
			var err error
			film, err = s.Expose(context.Background(), side, side, o)
			check(err)
		})
		return film.Image(view, nil, 16), seconds
	}
	want, _ := shoot(render.Options{Samples: reference})
	off := func(got image.Image) float64 {
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
		return math.Sqrt(sum / float64(n))
	}
	img, seconds := shoot(render.Options{Samples: 256, Random: true})
	work := seconds * math.Pow(off(img), 2) // what the plain tracer has to do, for an error of 1
	for _, way := range []struct {
		name string
		render.Options
	}{
		{"plain, 64 samples", render.Options{Samples: 64, Random: true}},
		{"well spread, 64 samples", render.Options{Samples: 64}},
		{"where they are needed, noise 0.04", render.Options{Noise: 0.04}},
		{"where they are needed, noise 0.02", render.Options{Noise: 0.02}},
		{"denoised, 32 samples", render.Options{Samples: 32, Denoise: true}},
		{"where needed and denoised, noise 0.08", render.Options{Noise: 0.08, Denoise: true}},
		{"where needed and denoised, noise 0.04", render.Options{Noise: 0.04, Denoise: true}},
		{"where needed and denoised, noise 0.02", render.Options{Noise: 0.02, Denoise: true}},
	} {
		img, seconds := shoot(way.Options)
		e := off(img)
		row(fmt.Sprintf("%s, %d x %d, %s", name, side, side, way.name), seconds, fmt.Sprintf("s, error %.5f: %.2f of plain's time", e, seconds*e*e/work))
		if !way.Denoise {
			continue
		}
		props.Rest()
		o := way.Options
		o.Quality = render.Final
		start := time.Now()
		film, spare, err := props.ExposeAlong(context.Background(), moments, side, side, o)
		check(err)
		seconds, e = (time.Since(start) - spare).Seconds(), off(film.Image(view, nil, 16))
		row(fmt.Sprintf("%s, %d x %d, %s, with the frames beside", name, side, side, way.name), seconds, fmt.Sprintf("s, error %.5f: %.2f of plain's time", e, seconds*e*e/work))
	}
}
