package main

import (
	"context"
	"image"
	"math"

	"perigyre/core/pose"
	"perigyre/core/render"
	"perigyre/core/scene"
	"perigyre/demo"
)

// flicker measures how much what stands still changes from frame to frame, with the frames beside over without, in final quality as it is:
// the root mean square over the pixels that change by less than a step of 8 bits in pictures of independent samples with a third of
// the noise, and the same of the pair at the loop's seam alone.
func flicker() {
	const side, frames, seam = 160, 5, 2 // the loop's first frame is the third of them
	d, assets := staged(demo.Lantern)
	props, e := render.NewProps(assets), pose.New(d)
	at := func(f int) *scene.Scene {
		s, err := scene.Resolve(e, float64((f-seam+d.Frames)%d.Frames), assets, scene.Options{Symmetry: props})
		check(err)
		return s
	}
	var truth, alone, beside [frames]image.Image
	for f := range frames {
		s, err := render.NewScene(at(f), props)
		check(err)
		o := render.Options{Quality: render.Final, Noise: render.Final.Words().Noise, Denoise: true}
		film, err := s.Expose(context.Background(), side, side, o)
		check(err)
		alone[f] = film.Image(d.View, nil, 16)
		var moments []render.Moment
		for _, k := range []int{0, -1, 1} {
			moments = append(moments, render.Moment{Scene: at(f + k), Phase: (f + k + 3) % 3})
		}
		film, _, err = props.ExposeAlong(context.Background(), moments, side, side, o)
		check(err)
		beside[f] = film.Image(d.View, nil, 16)
		o.Noise, o.Random = o.Noise/3, true
		film, err = s.Expose(context.Background(), side, side, o)
		check(err)
		truth[f] = film.Image(d.View, nil, 16)
	}
	change := func(of *[frames]image.Image, f, i int) (squares, most float64) {
		r, g, b, _ := of[f].At(i%side, i/side).RGBA()
		u, v, w, _ := of[f-1].At(i%side, i/side).RGBA()
		for _, d := range [3]float64{float64(r) - float64(u), float64(g) - float64(v), float64(b) - float64(w)} {
			squares += d * d / 65535 / 65535
			most = math.Max(most, math.Abs(d)/65535)
		}
		return squares, most
	}
	var sums [2][frames]float64
	var n [frames]float64
	for f := 1; f < frames; f++ {
		for i := range side * side {
			_, _, _, a := truth[f].At(i%side, i/side).RGBA()
			_, _, _, b := truth[f-1].At(i%side, i/side).RGBA()
			if _, most := change(&truth, f, i); a < 0xff00 || b < 0xff00 || most > 1.0/255 {
				continue
			}
			n[f] += 3
			for k, of := range []*[frames]image.Image{&alone, &beside} {
				squares, _ := change(of, f, i)
				sums[k][f] += squares
			}
		}
	}
	rms := func(k int, of ...int) float64 {
		sum, all := 0.0, 0.0
		for _, f := range of {
			sum, all = sum+sums[k][f], all+n[f]
		}
		return math.Sqrt(sum / all)
	}
	row("lantern, 160 x 160, what stands still flickers by", rms(0, 1, 2, 3, 4), "of the range, each frame denoised alone")
	row("  with the frames beside over that", rms(1, 1, 2, 3, 4)/rms(0, 1, 2, 3, 4), "")
	row("  and at the seam", rms(1, seam)/rms(0, seam), "")
}
