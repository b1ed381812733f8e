package runs

import (
	"bytes"
	"fmt"
	"image"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"perigyre/core/color"
	"perigyre/core/render"
	"perigyre/formats/exr"
	"perigyre/formats/png"
	"perigyre/store"
)

// Pass returns what a browser can show of a pass of a frame that is done, as a PNG: made from the file, so that it
// shows what the compositor gets.
func (q *Queue) Pass(id string, number int, pass render.Pass) ([]byte, error) {
	r, _, frames, err := q.Status(id)
	if err != nil {
		return nil, err
	}
	plan, err := q.plan(r)
	if err != nil {
		return nil, err
	}
	at := slices.Index(plan.Settings.Passes, pass)
	if at < 0 {
		return nil, fmt.Errorf("the run has no pass %q; it has %q", pass, plan.Settings.Passes)
	}
	k := slices.IndexFunc(frames, func(f store.Frame) bool { return f.Number == number && f.State == store.FrameDone })
	if k < 0 {
		return nil, store.ErrMissing
	}
	file := frames[k].File
	if plan.Settings.PassFiles {
		if at >= len(frames[k].Also) {
			return nil, store.ErrMissing
		}
		file = frames[k].Also[at]
	}
	data, err := os.ReadFile(filepath.Join(r.Folder, file))
	if err != nil {
		return nil, fmt.Errorf("the frame's file cannot be read; verify the run to find what is missing: %w", err)
	}
	p, err := exr.Read(data)
	if err != nil {
		return nil, fmt.Errorf("%s is damaged, repair the run: %w", file, err)
	}
	var b bytes.Buffer
	err = png.Encode(&b, shownPass(p, pass, plan.Document.View), png.Options{Alpha: true})
	return b.Bytes(), err
}

// shownPass makes a pass visible. Light and base colours are as they would look; directions and mattes have colours,
// distances go from white at the frame's nearest to black at its farthest, and ways from grey where nothing moves to
// full where most does. Where a pass has nothing it is transparent.
func shownPass(p *exr.Picture, pass render.Pass, view color.View) *image.NRGBA {
	var list []exr.Channel
	for _, name := range render.ChannelsOf(pass) {
		for _, c := range p.Channels {
			if c.Name == layerName(pass)+"."+name {
				list = append(list, c)
			}
		}
	}
	if pass == render.PartMattes { // a channel for each part
		for _, c := range p.Channels {
			if strings.HasPrefix(c.Name, layerName(pass)+".") {
				list = append(list, c)
			}
		}
	}
	out := image.NewNRGBA(p.Display)
	if len(list) == 0 {
		return out
	}
	at := func(i, c int) float64 { return float64(list[c].Pix[i]) }
	low, high, most := reachOf(list)
	scaled := func(i, c int) float64 { return (at(i, c) - low[c]) / math.Max(1e-12, high[c]-low[c]) }
	colour := func(i int) (c [3]float64, alpha float64) {
		switch pass {
		case render.Depth:
			v := 1 - scaled(i, 0)
			return [3]float64{v, v, v}, solid(at(i, 0))
		case render.Position:
			return [3]float64{scaled(i, 0), scaled(i, 1), scaled(i, 2)}, solid(at(i, 0), at(i, 1), at(i, 2))
		case render.Normal, render.CameraNormal:
			return [3]float64{0.5 + at(i, 0)/2, 0.5 + at(i, 1)/2, 0.5 + at(i, 2)/2}, solid(at(i, 0), at(i, 1), at(i, 2))
		case render.Shadow, render.Occlusion:
			return [3]float64{at(i, 0), at(i, 0), at(i, 0)}, 1
		case render.Motion:
			k := 0.5 / math.Max(1e-6, most)
			return [3]float64{0.5 + at(i, 0)*k, 0.5 + at(i, 1)*k, 0.5}, 1
		case render.Matte:
			return partColour(int(at(i, 0))), at(i, 1)
		case render.PartMattes:
			for k := range list {
				share := at(i, k)
				if share == 0 {
					continue
				}
				alpha += share
				for n, v := range partColour(k + 1) {
					c[n] += v * share
				}
			}
			for n := range c {
				c[n] /= math.Max(1e-6, alpha)
			}
			return c, alpha
		}
		c = [3]float64{at(i, 0), at(i, 1), at(i, 2)}
		if pass != render.Albedo {
			c = view.Apply(c)
		}
		for n := range c {
			c[n] = color.ToSRGB(c[n])
		}
		return c, 1
	}
	for y := p.Data.Min.Y; y < p.Data.Max.Y; y++ {
		for x := p.Data.Min.X; x < p.Data.Max.X; x++ {
			c, alpha := colour((y-p.Data.Min.Y)*p.Data.Dx() + x - p.Data.Min.X)
			if !image.Pt(x, y).In(out.Rect) {
				continue
			}
			to := out.Pix[out.PixOffset(x, y):]
			for n, v := range [4]float64{c[0], c[1], c[2], alpha} {
				to[n] = uint8(255*math.Min(1, math.Max(0, v)) + 0.5)
			}
		}
	}
	return out
}

// reachOf returns the least and the greatest number of each channel but for 0, which is nothing, and the greatest
// amount of all.
func reachOf(list []exr.Channel) (low, high []float64, most float64) {
	for _, c := range list {
		a, b := math.Inf(1), math.Inf(-1)
		for _, v := range c.Pix {
			if v := float64(v); v != 0 {
				a, b, most = math.Min(a, v), math.Max(b, v), math.Max(most, math.Abs(v))
			}
		}
		low, high = append(low, a), append(high, b)
	}
	return low, high, most
}

// solid is 1 where any of the numbers is not 0.
func solid(list ...float64) float64 {
	for _, v := range list {
		if v != 0 {
			return 1
		}
	}
	return 0
}

// partColour returns a colour for a part's number: hues that follow each other by the golden angle are far apart.
func partColour(number int) (c [3]float64) {
	turn := math.Mod(float64(number)*0.381966, 1)
	for k := range c {
		c[k] = 0.55 + 0.4*math.Cos(2*math.Pi*(turn-float64(k)/3))
	}
	return c
}
