package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"runtime"
	"strconv"
	"time"

	"github.com/spf13/cobra"

	"perigyre/core/model"
	"perigyre/core/pose"
	"perigyre/core/render"
	"perigyre/core/render/bvh"
	"perigyre/core/scene"
	"perigyre/core/shot"
	"perigyre/core/stage"
	"perigyre/demo"
	"perigyre/library"
	"perigyre/runs"
)

// speed is what this machine takes for a shot.
type speed struct {
	Kernel     string             `json:"kernel"`
	Processors int                `json:"processors"`
	Shot       string             `json:"shot"`
	Frames     int                `json:"frames"` // of the whole shot
	Width      int                `json:"width"`
	Height     int                `json:"height"`
	Build      float64            `json:"buildSeconds"`        // search trees of all meshes, once for a run
	First      float64            `json:"firstPictureSeconds"` // of a proof of at most 640 x 360, after a change
	Seconds    map[string]float64 `json:"secondsPerFrame"`     // by quality
}

func benchCommand() *cobra.Command {
	c := &cobra.Command{Use: "bench [PROJECT]", Short: "Measure how long this machine takes for frames of a shot", Args: cobra.MaximumNArgs(1),
		Long: "Measure how long this machine takes for frames of a shot in each quality, and say how long the whole shot would take. PROJECT is a project's zip or a data folder; without it the model of the demonstration is rendered."}
	f := c.Flags()
	name := f.String("shot", "", "name of the shot")
	size := f.String("size", "", "width x height in pixels; the shot's format where it is left out")
	count := f.Int("frames", 1, "how many frames, spread over the shot, are rendered in each quality")
	asJSON := f.Bool("json", false, "print JSON")
	limits := limitFlags(c)
	c.RunE = func(c *cobra.Command, args []string) error {
		d, assets, done, err := benched(args, *name, limits())
		defer done()
		if err != nil {
			return err
		}
		out := speed{Kernel: bvh.Kernel(), Processors: runtime.GOMAXPROCS(0), Shot: d.Name, Frames: d.Frames, Width: d.Format.Width, Height: d.Format.Height, Seconds: map[string]float64{}}
		if *size != "" {
			m := sizePattern.FindStringSubmatch(*size)
			if m == nil {
				return input{fmt.Errorf("--size %s is not a size such as 1920x1080", *size)}
			}
			out.Width, _ = strconv.Atoi(m[1])
			out.Height, _ = strconv.Atoi(m[2])
		}
		o := runs.Defaults(d)
		o.Width, o.Height = out.Width, out.Height
		if err := o.Check(d); err != nil {
			return input{err}
		}
		if *count < 1 || *count > d.Frames {
			return input{fmt.Errorf("--frames is 1 to the %d of the shot", d.Frames)}
		}
		e, props := pose.New(d), render.NewProps(assets)
		start := time.Now()
		if _, err := drawn(e, 0, props, assets); err != nil {
			return err
		}
		out.Build = time.Since(start).Seconds()
		for _, t := range []float64{0, float64(d.Frames / 2)} { // the second as after a change, with all that is kept at hand
			start := time.Now()
			sc, err := drawn(e, t, props, assets)
			if err != nil {
				return err
			}
			enough := errors.New("that was the first picture")
			if err := sc.Refine(c.Context(), min(640, out.Width), min(360, out.Height), 1, func(*render.Film, int) error { return enough }); err != enough {
				return err
			}
			out.First = time.Since(start).Seconds()
		}
		for _, q := range []render.Quality{render.Draft, render.Proof, render.Final} {
			start := time.Now()
			for k := range *count {
				if err := expose(c.Context(), e, props, assets, float64(k*d.Frames / *count), out.Width, out.Height, q); err != nil {
					return err
				}
			}
			out.Seconds[string(q)] = time.Since(start).Seconds() / float64(*count)
		}
		if *asJSON {
			return json.NewEncoder(os.Stdout).Encode(out)
		}
		fmt.Printf("%s, %d x %d, %d frames; kernel %s, %d processors\n", out.Shot, out.Width, out.Height, out.Frames, out.Kernel, out.Processors)
		fmt.Printf("search trees          %8.2f s, once\nfirst picture, proof  %8.2f s\n", out.Build, out.First)
		for _, q := range []render.Quality{render.Draft, render.Proof, render.Final} {
			s := out.Seconds[string(q)]
			fmt.Printf("%-21s %8.2f s a frame, %s for the whole shot\n", q, s, (time.Duration(s*float64(d.Frames)) * time.Second).String())
		}
		return nil
	}
	return c
}

// benched returns the shot that is measured.
func benched(args []string, name string, limits model.Limits) (*shot.Shot, *library.Assets, func(), error) {
	if len(args) > 0 {
		d, assets, done, err := openShot(args[0], name, limits)
		if err == nil {
			err = stage.FitCamera(d, assets, nil)
		}
		return d, assets, done, err
	}
	nothing := func() {}
	glb, err := demo.Lantern()
	if err != nil {
		return nil, nil, nothing, err
	}
	m, r, err := library.Bring(context.Background(), []library.File{{Name: "lantern.glb", Data: glb}}, "", limits, nil)
	if err != nil {
		return nil, nil, nothing, err
	}
	assets := library.InMemory(limits)
	asset, err := assets.KeepModel(m)
	if err != nil {
		return nil, nil, nothing, err
	}
	d, o, made := shot.New("Demonstration"), stage.Defaults(), 0
	o.File, o.Asset, o.Name, o.Unit = "lantern.glb", asset, "Lantern", r.Unit
	o.NewID = func() string { made++; return strconv.Itoa(made) }
	return d, assets, nothing, stage.Put(d, m, o, assets)
}

func expose(ctx context.Context, e *pose.Evaluator, props *render.Props, g pose.Surfaces, t float64, width, height int, q render.Quality) error {
	sc, err := drawn(e, t, props, g)
	if err == nil {
		_, err = sc.Expose(ctx, width, height, render.Options{Quality: q})
	}
	return err
}

// drawn makes a frame ready to be rendered.
func drawn(e *pose.Evaluator, t float64, props *render.Props, g pose.Surfaces) (*render.Scene, error) {
	s, err := scene.Resolve(e, t, g, scene.Options{Symmetry: props})
	if err != nil {
		return nil, err
	}
	return render.NewScene(s, props)
}
