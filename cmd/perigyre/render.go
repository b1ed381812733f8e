package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"perigyre/core/check"
	"perigyre/core/render"
	"perigyre/core/shot"
	"perigyre/core/stage"
	"perigyre/farm"
	"perigyre/formats/exr"
	"perigyre/runs"
	"perigyre/store"
)

func renderCommand() *cobra.Command {
	c := &cobra.Command{Use: "render PROJECT", Short: "Render frames of a shot", Args: cobra.ExactArgs(1),
		Long: "Render frames of a shot. PROJECT is a project's zip or a data folder. The same command given again goes on where it was, and renders again what is missing or damaged."}
	f := c.Flags()
	name := f.String("shot", "", "name of the shot")
	out := f.String("out", "", "folder for the frames (needed)")
	frames := f.String("frames", "", "frames such as 0-59,80; all where it is left out")
	camera := f.String("camera", "", "name of the camera; that of the shot where it is left out")
	size := f.String("size", "", "width x height in pixels; the shot's format where it is left out")
	format := f.String("format", "png", "png, exr, tga, tiff or jpeg")
	bits := f.Int("bits", 0, "bits a component: 8 or 16; of EXR 16 (half) or 32 (float)")
	compression := f.String("compression", "", "of EXR: none, ZIPS, ZIP or PIZ")
	tight := f.Bool("tight", false, "of EXR: a data window that holds no more than it must")
	passes := f.String("passes", "", "of EXR: names of passes with commas between them, or all")
	passFiles := f.Bool("pass-files", false, "of EXR: each pass in a file of its own")
	quality := f.String("quality", "final", "draft, proof, final or exact")
	noise := f.Float64("noise", 0, "of final quality: the error that is let pass, such as 0.02")
	denoise := f.Bool("denoise", true, "smooth the noise that is left; of draft and exact only where it is given")
	neighbours := f.Bool("neighbours", true, "denoise each frame with the one before and the one after; of qualities other than final only where it is given")
	backdrop := f.String("backdrop", "", "colour such as #f4f1ea in place of alpha")
	first := f.Int("first", 1, "number of the shot's frame 0 in the file names")
	pattern := f.String("name", "{shot}.{frame}", "file names, with {project}, {shot}, {model}, {camera}, {finish}, {format} and {frame}")
	asJSON := f.Bool("json", false, "print a summary as JSON")
	place := placeFlags(c)
	alone := f.Bool("workers-alone", false, "with --workers: this machine draws none of the frames itself")
	deliver := deliverFlags(c)
	anyway := f.Bool("anyway", false, "render although the check found what would ruin it")
	limits := limitFlags(c)
	c.RunE = func(c *cobra.Command, args []string) error {
		if *out == "" {
			return input{fmt.Errorf("--out says where the frames go; it is missing")}
		}
		d, assets, done, err := openShot(args[0], *name, limits())
		defer done()
		if err != nil {
			return err
		}
		if err := through(d, *camera); err != nil {
			return input{err}
		}
		if err := stage.FitCamera(d, assets, nil); err != nil { // another camera may have to be fitted
			return err
		}
		if !*anyway {
			facts, found, err := checked(c.Context(), d, assets)
			if err != nil {
				return err
			}
			told := check.Report(facts, found)
			for _, t := range told {
				if t.Blocks {
					fmt.Fprintln(os.Stderr, line(t))
				}
			}
			if err := blocked(told); err != nil {
				return fmt.Errorf("%w; mend it, or give --anyway", err)
			}
		}
		o := runs.Defaults(d)
		o.Of(render.Quality(*quality))
		o.Name, o.First, o.Format, o.Noise = *pattern, *first, runs.FileFormat(*format), *noise
		if f.Changed("denoise") {
			o.Denoise = *denoise
		}
		if f.Changed("neighbours") {
			o.Neighbours = *neighbours
		}
		o.Compression, o.Tight, o.PassFiles = exr.Compression(*compression), *tight, *passFiles
		switch o.Bits = *bits; {
		case o.Bits == 0 && o.Format == runs.EXR:
			o.Bits = 16
		case o.Bits == 0:
			o.Bits = 8
		}
		if *size != "" {
			m := sizePattern.FindStringSubmatch(*size)
			if m == nil {
				return input{fmt.Errorf("--size %s is not a size such as 1920x1080", *size)}
			}
			o.Width, _ = strconv.Atoi(m[1])
			o.Height, _ = strconv.Atoi(m[2])
		}
		if colour, err := parseColor(*backdrop); err != nil {
			return input{err}
		} else if colour != nil {
			o.Backdrop, o.BackdropLow = colour, nil
		}
		for _, p := range strings.FieldsFunc(*passes, func(r rune) bool { return r == ',' }) {
			if p = strings.TrimSpace(p); p == "all" {
				o.Passes = render.Passes
				break
			}
			o.Passes = append(o.Passes, render.Pass(strings.ReplaceAll(p, "_", " ")))
		}
		if o.Only, err = parseFrames(*frames); err != nil {
			return input{err}
		}
		if len(o.Only) > 0 {
			o.From, o.To = o.Only[0], o.Only[len(o.Only)-1]
		}
		project := strings.TrimSuffix(filepath.Base(args[0]), filepath.Ext(args[0]))
		plan, err := runs.NewPlan(d, runs.NamesOf(project, d), o, *out, stockOf(assets))
		if err != nil {
			return input{err}
		}
		to, err := deliver()
		if err != nil {
			return err
		}
		at, err := place(filepath.Join(*out, queueFolder))
		if err != nil {
			return err
		}
		if at == nil {
			if err := carryOut(c.Context(), plan, nil, *asJSON, nil); err != nil {
				return err
			}
			return bring(c.Context(), to, plan.Folder)
		}
		boss, err := farm.Open(c.Context(), farm.Config{Place: *at, Open: assets.Open, Props: render.NewProps(assets), Alone: *alone})
		if err != nil {
			return err
		}
		defer boss.Close()
		fmt.Fprintf(os.Stderr, "Workers join at %s\n", boss.Address())
		err = carryOut(c.Context(), plan, boss, *asJSON, nil)
		boss.Rest()
		boss.Close()
		if err == nil {
			err = os.RemoveAll(filepath.Join(*out, queueFolder))
		}
		if err != nil {
			return err
		}
		return bring(c.Context(), to, plan.Folder)
	}
	return c
}

// queueFolder holds the queue of a run from the command line, until it is done.
const queueFolder = ".queue"

// through makes a shot be seen through a camera by its name.
func through(d *shot.Shot, name string) error {
	if name == "" {
		return nil
	}
	var names []string
	for _, p := range d.Parts {
		if p.Camera == nil {
			continue
		}
		if p.Name == name {
			d.Camera = p.ID
			return nil
		}
		names = append(names, p.Name)
	}
	return fmt.Errorf("the shot has no camera %q; it has %s", name, strings.Join(names, ", "))
}

// parseFrames reads 0-59,80: the frames in their order, each once.
func parseFrames(s string) ([]int, error) {
	var out []int
	for _, part := range strings.FieldsFunc(s, func(r rune) bool { return r == ',' }) {
		from, to, ranged := strings.Cut(strings.TrimSpace(part), "-")
		a, err := strconv.Atoi(from)
		b := a
		if ranged && err == nil {
			b, err = strconv.Atoi(to)
		}
		if err != nil || a < 0 || b < a || b > shot.MaxFrames {
			return nil, fmt.Errorf("--frames %s is not a list such as 0-59,80", s)
		}
		for f := a; f <= b; f++ {
			out = append(out, f)
		}
	}
	slices.Sort(out)
	return slices.Compact(out), nil
}

func verifyCommand() *cobra.Command {
	c := &cobra.Command{Use: "verify DIR", Short: "Check the frames of a run against its record", Args: cobra.ExactArgs(1),
		Long: "Check that every frame that DIR's run.json lists is there and is what was written. It ends with 1 where one is not; the command that rendered them, given again, renders those again."}
	asJSON := c.Flags().Bool("json", false, "print what was found as JSON")
	c.RunE = func(_ *cobra.Command, args []string) error {
		r := runs.ReadRecord(args[0])
		if r == nil {
			return input{fmt.Errorf("%s has no run.json that can be read", args[0])}
		}
		type fault struct {
			Frame int    `json:"frame"`
			File  string `json:"file"`
			Fault string `json:"fault"`
		}
		faults := []fault{}
		for _, f := range r.Frames {
			_, err := os.Stat(filepath.Join(args[0], f.File))
			switch {
			case f.State != store.FrameDone:
				faults = append(faults, fault{f.Number, f.File, "not rendered yet"})
			case errors.Is(err, os.ErrNotExist):
				faults = append(faults, fault{f.Number, f.File, "missing"})
			case !runs.Intact(args[0], f):
				faults = append(faults, fault{f.Number, f.File, "damaged: it is not what was written"})
			}
		}
		if *asJSON {
			if err := json.NewEncoder(os.Stdout).Encode(map[string]any{"frames": len(r.Frames), "faults": faults}); err != nil {
				return err
			}
		} else {
			for _, f := range faults {
				fmt.Printf("frame %d, %s: %s\n", f.Frame, f.File, f.Fault)
			}
		}
		if len(faults) > 0 {
			return fmt.Errorf("%d of %d frames are not as they should be", len(faults), len(r.Frames))
		}
		if !*asJSON {
			fmt.Printf("all %d frames are as they were written\n", len(r.Frames))
		}
		return nil
	}
	return c
}
