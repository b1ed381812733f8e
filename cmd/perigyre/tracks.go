package main

import (
	"bufio"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"os"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"perigyre/core/framing"
	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/pose"
	"perigyre/core/stage"
)

func tracksCommand() *cobra.Command {
	c := &cobra.Command{Use: "tracks PROJECT", Short: "Print the camera and where parts are seen, frame by frame", Args: cobra.ExactArgs(1),
		Long: "Print for every frame where the camera is, and where the pivots of parts are seen: pixels from the left and the top of the shot's format, for labels and flares in compositing; and the labels of what is taken apart, with the points of their leader lines and how much of each is there. PROJECT is a project's zip or a data folder."}
	name := c.Flags().String("shot", "", "name of the shot")
	points := c.Flags().String("points", "", "names of parts with commas between them")
	asCSV := c.Flags().Bool("csv", false, "print rows, rather than JSON")
	limits := limitFlags(c)
	c.RunE = func(_ *cobra.Command, args []string) error {
		d, assets, done, err := openShot(args[0], *name, limits())
		defer done()
		if err != nil {
			return err
		}
		if err := stage.FitCamera(d, assets, nil); err != nil {
			return err
		}
		cam := d.Index(d.Camera)
		if cam < 0 {
			return input{fmt.Errorf("the shot has no camera")}
		}
		var parts []int
		for _, want := range strings.FieldsFunc(*points, func(r rune) bool { return r == ',' }) {
			at := -1
			for i := range d.Parts {
				if d.Parts[i].Name == strings.TrimSpace(want) {
					at = i
				}
			}
			if at < 0 {
				return input{fmt.Errorf("the shot has no part %q", strings.TrimSpace(want))}
			}
			parts = append(parts, at)
		}
		type seen struct {
			Part   string  `json:"part"`
			X      float64 `json:"x"`
			Y      float64 `json:"y"`
			Depth  float64 `json:"depth"`
			Before bool    `json:"beforeCamera"`
		}
		type label struct {
			Text     string        `json:"text"`
			X        float64       `json:"x"` // where its text begins, on the baseline
			Y        float64       `json:"y"`
			Size     float64       `json:"size"` // of an em
			Line     [3][2]float64 `json:"line"` // from what it names to the text
			Strength float64       `json:"strength"`
		}
		type frame struct {
			Frame    int       `json:"frame"`
			Position geom.Vec3 `json:"position"`
			Rotation geom.Quat `json:"rotation"`
			Points   []seen    `json:"points"`
			Labels   []label   `json:"labels,omitempty"`
		}
		lens := d.Parts[cam].Camera
		e := pose.New(d)
		var list []frame
		for f := range d.Frames {
			t := motion.At(d, float64(f))
			world := e.World(t)
			_, q, _, _ := world[cam].Decompose()
			one := frame{Frame: f, Position: world[cam].Column(3), Rotation: q, Points: []seen{}}
			for _, i := range parts {
				x, y, depth, ok := framing.Project(world[cam], lens, d.Format, world[i].Point(d.Parts[i].Pivot))
				one.Points = append(one.Points, seen{d.Parts[i].Name, x, y, depth, ok})
			}
			labels, err := framing.Labels(e, t, world, assets)
			if err != nil {
				return err
			}
			side := float64(min(d.Format.Width, d.Format.Height))
			for _, l := range labels {
				to := label{l.Text, l.At[0] * side, l.At[1] * side, l.Size * side, l.Line, l.Strength}
				for k := range to.Line {
					to.Line[k] = [2]float64{side * l.Line[k][0], side * l.Line[k][1]}
				}
				one.Labels = append(one.Labels, to)
			}
			list = append(list, one)
		}
		out := bufio.NewWriter(os.Stdout)
		if !*asCSV {
			h, v := framing.Optics(lens, d.Format).Degrees()
			if err := json.NewEncoder(out).Encode(map[string]any{
				"shot": d.Name, "rate": d.Rate, "width": d.Format.Width, "height": d.Format.Height,
				"focal": lens.Focal, "fieldOfView": [2]float64{h, v}, "frames": list,
			}); err != nil {
				return err
			}
			return out.Flush()
		}
		w := csv.NewWriter(out)
		head := []string{"frame", "camera x", "camera y", "camera z", "qx", "qy", "qz", "qw"}
		for _, i := range parts {
			head = append(head, d.Parts[i].Name+" x", d.Parts[i].Name+" y", d.Parts[i].Name+" depth")
		}
		if len(list) > 0 {
			for _, l := range list[0].Labels {
				head = append(head, l.Text+" label x", l.Text+" label y", l.Text+" line x", l.Text+" line y", l.Text+" strength")
			}
		}
		_ = w.Write(head) // Flush reports
		num := func(v float64) string { return strconv.FormatFloat(v, 'g', -1, 64) }
		for _, one := range list {
			row := []string{strconv.Itoa(one.Frame)}
			for _, v := range append(one.Position[:], one.Rotation[:]...) {
				row = append(row, num(v))
			}
			for _, p := range one.Points {
				row = append(row, num(p.X), num(p.Y), num(p.Depth))
			}
			for _, l := range one.Labels {
				row = append(row, num(l.X), num(l.Y), num(l.Line[0][0]), num(l.Line[0][1]), num(l.Strength))
			}
			_ = w.Write(row)
		}
		w.Flush()
		if err := w.Error(); err != nil {
			return err
		}
		return out.Flush()
	}
	return c
}
