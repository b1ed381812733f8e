package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"os"
	"path"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"perigyre/core/check"
	"perigyre/core/geom"
	"perigyre/core/model"
	"perigyre/core/render"
	"perigyre/core/shot"
	"perigyre/core/stage"
	"perigyre/library"
	"perigyre/runs"
	"perigyre/store"
)

// turntable is what the command was asked for.
type turntable struct {
	out, fps, size, direction, quality, name, unit, up, backdrop string
	frames, turns, bits, first                                   int
	margin                                                       float64
	cameraOrbits, noPlinth, asJSON                               bool
}

func turntableCommand() *cobra.Command {
	c := &cobra.Command{Use: "turntable MODEL", Short: "Render a model on its turntable as a PNG sequence with alpha", Args: cobra.ExactArgs(1)}
	var o turntable
	f := c.Flags()
	f.StringVar(&o.out, "out", "", "folder for the frames (needed)")
	f.IntVar(&o.frames, "frames", 96, "length of the loop")
	f.StringVar(&o.fps, "fps", "24", "frames a second, as a number or a fraction such as 30000/1001")
	f.StringVar(&o.size, "size", "1080x1080", "width x height in pixels")
	f.IntVar(&o.turns, "turns", 1, "whole turns in the loop")
	f.StringVar(&o.direction, "direction", "clockwise", "clockwise or counterclockwise, seen from above, of what moves")
	f.BoolVar(&o.cameraOrbits, "camera-orbits", false, "move the camera round the model instead of turning the model")
	f.StringVar(&o.quality, "quality", "proof", "draft, proof, final or exact")
	f.IntVar(&o.bits, "bits", 8, "8 or 16 bits a component")
	f.IntVar(&o.first, "first", 1, "number of the first frame in the file names")
	f.StringVar(&o.name, "name", "{model}.{frame}", "file names, with {model}, {camera} and {frame}")
	f.BoolVar(&o.noPlinth, "no-plinth", false, "stand the model on the floor")
	f.Float64Var(&o.margin, "margin", 8, "space kept clear on every side, percent of the picture")
	f.StringVar(&o.unit, "unit", "", "what one unit of the file is: m, cm, mm, in or ft")
	f.StringVar(&o.up, "up", "", "the file's upright axis: y or z")
	f.StringVar(&o.backdrop, "backdrop", "", "colour such as #f4f1ea in place of alpha")
	f.BoolVar(&o.asJSON, "json", false, "print a summary as JSON")
	limits := limitFlags(c)
	c.RunE = func(c *cobra.Command, args []string) error { return o.run(c.Context(), args[0], limits()) }
	return c
}

var sizePattern = regexp.MustCompile(`^(\d{1,5})[xX](\d{1,5})$`)

func parseRate(s string) (shot.Rate, error) {
	num, den, fraction := strings.Cut(s, "/")
	if fraction {
		n, err1 := strconv.Atoi(num)
		d, err2 := strconv.Atoi(den)
		if errors.Join(err1, err2) == nil && n > 0 && d > 0 {
			return shot.Rate{Num: n, Den: d}, nil
		}
	} else if v, err := strconv.ParseFloat(s, 64); err == nil && v > 0 && v <= 1000 {
		if v == float64(int(v)) {
			return shot.Rate{Num: int(v), Den: 1}, nil
		}
		for _, n := range []int{24, 30, 48, 60, 120} { // 29.97 means 30000/1001
			if d := v - float64(n)*1000/1001; d > -0.006 && d < 0.006 {
				return shot.Rate{Num: n * 1000, Den: 1001}, nil
			}
		}
		return shot.Rate{Num: int(v*1000 + 0.5), Den: 1000}, nil
	}
	return shot.Rate{}, fmt.Errorf("--fps %s is not a rate; it is a number above 0 such as 24, or a fraction such as 30000/1001", s)
}

func parseColor(s string) (*[3]float64, error) {
	if s == "" {
		return nil, nil
	}
	v, err := strconv.ParseUint(strings.TrimPrefix(s, "#"), 16, 32)
	if err != nil || len(strings.TrimPrefix(s, "#")) != 6 {
		return nil, fmt.Errorf("--backdrop %s is not a colour such as #f4f1ea", s)
	}
	return &[3]float64{float64(v>>16) / 255, float64(v>>8&255) / 255, float64(v&255) / 255}, nil
}

// stage makes the shot and the settings of its run.
func (o *turntable) stage(ctx context.Context, name string, limits model.Limits) (*shot.Shot, runs.Settings, runs.Stock, error) {
	var none runs.Settings
	var nothing runs.Stock
	m := sizePattern.FindStringSubmatch(o.size)
	if m == nil {
		return nil, none, nothing, fmt.Errorf("--size %s is not a size such as 1080x1080", o.size)
	}
	rate, err := parseRate(o.fps)
	if err != nil {
		return nil, none, nothing, err
	}
	backdrop, err := parseColor(o.backdrop)
	if err != nil {
		return nil, none, nothing, err
	}
	if o.out == "" {
		return nil, none, nothing, fmt.Errorf("--out says where the frames go; it is missing")
	}
	if err := render.Quality(o.quality).Check(); err != nil {
		return nil, none, nothing, err
	}
	d := shot.New("Turntable")
	d.Format.Width, _ = strconv.Atoi(m[1])
	d.Format.Height, _ = strconv.Atoi(m[2])
	d.Frames, d.Rate, d.Backdrop = o.frames, rate, backdrop
	if err := d.Validate(); err != nil {
		return nil, none, nothing, err
	}
	mod, report, err := library.BringFile(ctx, name, o.unit, limits, nil)
	if err != nil {
		return nil, none, nothing, err
	}
	assets := library.InMemory(limits)
	asset, err := assets.KeepModel(mod)
	if err != nil {
		return nil, none, nothing, err
	}
	s := stage.Defaults()
	s.File, s.Asset, s.Name, s.Unit = report.File, asset, strings.TrimSuffix(report.File, path.Ext(report.File)), report.Unit
	if s.Up = report.Up; o.up != "" {
		s.Up = o.up
	}
	count := 0
	s.NewID = func() string { count++; return fmt.Sprint("p", count) } // the same each time, so that a run can go on
	s.Plinth, s.Margin = !o.noPlinth, o.margin
	s.Turntable.Turns, s.Turntable.Direction = o.turns, shot.Direction(o.direction)
	if o.cameraOrbits {
		s.Turntable.Moves = "camera"
	}
	if err := stage.Put(d, mod, s, assets); err != nil {
		return nil, none, nothing, err
	}
	set := runs.Defaults(d)
	set.First, set.Name, set.Bits = o.first, o.name, o.bits
	set.Of(render.Quality(o.quality))
	return d, set, stockOf(assets), nil
}

func (o *turntable) run(ctx context.Context, name string, limits model.Limits) error {
	d, set, stock, err := o.stage(ctx, name, limits)
	if err != nil {
		return input{err}
	}
	plan, err := runs.NewPlan(d, runs.NamesOf("Turntable", d), set, o.out, stock)
	if err != nil {
		return input{err}
	}
	return carryOut(ctx, plan, nil, o.asJSON, map[string]any{"camera": at(d), "focal": d.Part(d.Camera).Camera.Focal})
}

// carryOut renders the frames of a plan that are not in its folder yet, by hands or, where there are none, here, and tells how it went. More is added to
// the summary.
func carryOut(ctx context.Context, plan *runs.Plan, hands runs.Hands, asJSON bool, more map[string]any) error {
	start := time.Now()
	out := plan.Folder
	for _, f := range plan.Settings.Findings(plan.Names, plan.Document, filepath.Dir(out)) {
		if f.Weight == check.Blocks {
			return input{errors.New(f.Why)}
		}
		fmt.Fprintln(os.Stderr, "note:", f.Why)
	}
	frames, err := resume(plan)
	if err != nil {
		return input{err}
	}
	if err := os.MkdirAll(out, 0o755); err != nil {
		return fmt.Errorf("the output folder cannot be made: %w", err)
	}
	if err := plan.WriteRecord(frames); err != nil {
		return err
	}
	kept, rendered := 0, 0
	for _, f := range frames {
		if f.State == store.FrameDone {
			kept++
			plan.Remember(f)
		}
	}
	if hands == nil {
		hands = plan.Here()
	}
	d := runs.Drawing{Plan: plan, Hands: hands, Done: func(i int, f store.Frame, _ *runs.Drawn) error {
		frames[i] = f
		rendered++
		if terminal() {
			each := time.Since(start) / time.Duration(rendered)
			fmt.Fprintf(os.Stderr, "\r%d of %d frames, %.1f s each, %s left   ", kept+rendered, len(frames), each.Seconds(), (each * time.Duration(len(frames)-kept-rendered)).Round(time.Second))
		}
		return plan.WriteRecord(frames)
	}}
	err = d.Run(ctx, frames)
	if errors.Is(err, context.Canceled) {
		fmt.Fprintln(os.Stderr)
		return errors.Join(fmt.Errorf("stopped after %d of %d frames; the same command goes on from there", kept+rendered, len(frames)), plan.WriteRecord(frames))
	}
	if err != nil {
		return runs.Full(err, frames)
	}
	if terminal() {
		fmt.Fprintln(os.Stderr)
	}
	if asJSON {
		summary := map[string]any{
			"folder": out, "frames": len(frames), "rendered": rendered, "kept": kept, "seconds": time.Since(start).Seconds(),
			"first": frames[0].File, "last": frames[len(frames)-1].File,
		}
		maps.Copy(summary, more)
		return json.NewEncoder(os.Stdout).Encode(summary)
	}
	fmt.Printf("%d frames in %s, %s to %s\n", len(frames), out, frames[0].File, frames[len(frames)-1].File)
	return nil
}

// stockOf is what pictures are made from.
func stockOf(a *library.Assets) runs.Stock { return runs.Stock{Props: render.NewProps(a), Surfaces: a} }

func at(d *shot.Shot) geom.Vec3 { return d.Part(d.Camera).Rest.Position }

// resume returns the frames of the plan with those marked as done that an earlier run of the same
// shot and settings has left in the folder. Files of anything else are never written over.
func resume(p *runs.Plan) ([]store.Frame, error) {
	frames := p.List()
	old := runs.ReadRecord(p.Folder)
	if old != nil && len(old.Frames) == len(frames) {
		same, left := old.Fingerprint == p.Asked(), p.List()
		for i, f := range old.Frames {
			if f.State != store.FrameDone || f.File != frames[i].File || !p.Intact(f) {
				continue
			}
			now, err := p.Fingerprint(f.Number)
			if err != nil {
				return nil, err
			}
			if f.Picture == now { // it shows what it would show now
				left[i], same = f, true
			}
		}
		if same {
			store.RemoveUnfinished(p.Folder)
			return left, nil
		}
	}
	if old != nil {
		return nil, fmt.Errorf("%s holds another run; choose another folder", p.Folder)
	}
	for _, f := range frames {
		if _, err := os.Stat(filepath.Join(p.Folder, f.File)); err == nil {
			return nil, fmt.Errorf("%s holds a file %s already, which is not written over; choose another folder or --name", p.Folder, f.File)
		}
	}
	return frames, nil
}
