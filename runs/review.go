package runs

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"image"
	"image/draw"
	"os"
	"os/exec"
	"path/filepath"

	"image/color"
	"image/jpeg"
	stdpng "image/png"

	scale "golang.org/x/image/draw"
	"golang.org/x/image/font"
	"golang.org/x/image/font/basicfont"
	"golang.org/x/image/math/fixed"

	"perigyre/core/shot"
	"perigyre/formats/png"
	"perigyre/store"
)

// shown returns the files of what a browser can show of the frames that are done, in their order.
func (q *Queue) shown(id string) (*Plan, []store.Frame, []string, error) {
	r, _, frames, err := q.Status(id)
	if err != nil {
		return nil, nil, nil, err
	}
	plan, err := q.plan(r)
	if err != nil {
		return nil, nil, nil, err
	}
	var done []store.Frame
	var files []string
	for _, f := range frames {
		if f.State == store.FrameDone {
			done = append(done, f)
			files = append(files, filepath.Join(r.Folder, plan.Preview(f.File)))
		}
	}
	if len(done) == 0 {
		return nil, nil, nil, fmt.Errorf("the run has no frames yet")
	}
	return plan, done, files, nil
}

// Animation returns the frames that are done as an APNG that loops.
func (q *Queue) Animation(id string) ([]byte, error) {
	plan, _, files, err := q.shown(id)
	if err != nil {
		return nil, err
	}
	if plan.Settings.format() == JPEG {
		return nil, fmt.Errorf("an APNG is made of PNG frames; this run has JPEG")
	}
	var list [][]byte
	for _, f := range files {
		data, err := os.ReadFile(f)
		if err != nil {
			return nil, err
		}
		list = append(list, data)
	}
	var b bytes.Buffer
	err = png.Animate(&b, list, plan.Document.Rate.Num, plan.Document.Rate.Den)
	return b.Bytes(), err
}

// place is where a frame lies on a sheet, in pixels.
type place struct {
	Frame  int    `json:"frame"`
	File   string `json:"file"`
	X      int    `json:"x"`
	Y      int    `json:"y"`
	Width  int    `json:"width"`
	Height int    `json:"height"`
}

// sheet lays frames out in rows, as near to a square as it can be, cells of w by h pixels with a margin round each and room
// for a line below.
func sheet(done []store.Frame, w, h, margin, below int) (size image.Point, places []place, err error) {
	n, cw, ch := len(done), w+margin, h+below+margin
	across := 1
	for across*across*cw < n*ch {
		across++
	}
	across = min(across, n)
	size = image.Pt(across*cw+margin, (n+across-1)/across*ch+margin)
	if size.X > 30_000 || size.Y > 30_000 {
		return size, nil, fmt.Errorf("the sheet would be %d x %d pixels; render fewer or smaller frames", size.X, size.Y)
	}
	for i, f := range done {
		places = append(places, place{f.Number, f.File, margin + i%across*cw, margin + i/across*ch, w, h})
	}
	return size, places, nil
}

// Sprites returns the frames that are done as one picture, at their size and nothing between them, with the map of where
// each lies.
func (q *Queue) Sprites(id string) (picture, places []byte, err error) {
	plan, done, files, err := q.shown(id)
	if err != nil {
		return nil, nil, err
	}
	size, list, err := sheet(done, plan.Settings.Width, plan.Settings.Height, 0, 0)
	if err != nil {
		return nil, nil, err
	}
	out := image.NewNRGBA(image.Rectangle{Max: size})
	for i, p := range list {
		img, err := open(files[i])
		if err != nil {
			return nil, nil, err
		}
		draw.Draw(out, image.Rect(p.X, p.Y, p.X+p.Width, p.Y+p.Height), img, img.Bounds().Min, draw.Src)
	}
	var b bytes.Buffer
	if err := png.Encode(&b, out, png.Options{Alpha: true, Text: map[string]string{"Software": "Perigyre"}}); err != nil {
		return nil, nil, err
	}
	places, err = json.MarshalIndent(map[string]any{"width": size.X, "height": size.Y, "frames": list}, "", "  ")
	return b.Bytes(), places, err
}

// The contact sheet's looks: thumbnails no wider than this, on a dark ground, their numbers below.
const (
	thumbnail     = 160
	contactMargin = 8
	contactLine   = 16
)

var contactGround, contactInk = color.NRGBA{26, 28, 31, 255}, color.NRGBA{200, 202, 204, 255}

// Contact returns the frames that are done as one picture to look at and to print: small, each with its number.
func (q *Queue) Contact(id string) ([]byte, error) {
	plan, done, files, err := q.shown(id)
	if err != nil {
		return nil, err
	}
	w, h := plan.Settings.Width, plan.Settings.Height
	if w > thumbnail {
		w, h = thumbnail, max(1, h*thumbnail/w)
	}
	size, list, err := sheet(done, w, h, contactMargin, contactLine)
	if err != nil {
		return nil, err
	}
	out := image.NewNRGBA(image.Rectangle{Max: size})
	draw.Draw(out, out.Rect, image.NewUniform(contactGround), image.Point{}, draw.Src)
	for i, p := range list {
		img, err := open(files[i])
		if err != nil {
			return nil, err
		}
		scale.CatmullRom.Scale(out, image.Rect(p.X, p.Y, p.X+w, p.Y+h), img, img.Bounds(), draw.Over, nil)
		text := font.Drawer{Dst: out, Src: image.NewUniform(contactInk), Face: basicfont.Face7x13, Dot: fixed.P(p.X, p.Y+h+13)}
		text.DrawString(fmt.Sprint(p.Frame))
	}
	var b bytes.Buffer
	err = png.Encode(&b, out, png.Options{Text: map[string]string{"Software": "Perigyre"}})
	return b.Bytes(), err
}

func open(name string) (image.Image, error) {
	f, err := os.Open(name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	if filepath.Ext(name) == ".jpg" {
		return jpeg.Decode(f)
	}
	return stdpng.Decode(f)
}

// coded takes full-range colours to those of ITU-R BT.709, as the movie's tags say.
const coded = "scale=in_range=full:out_range=limited:out_color_matrix=bt709"

// Movie returns the frames that are done as WebM (VP9, with alpha) or MP4 (over black where there is alpha), made
// by ffmpeg where it is installed.
func (q *Queue) Movie(ctx context.Context, id, kind string) ([]byte, error) {
	plan, _, files, err := q.shown(id)
	if err != nil {
		return nil, err
	}
	return movie(ctx, files, plan.Document.Rate, kind)
}

// movie has ffmpeg code pictures, one a frame, in the colours of ITU-R BT.709 and tagged so.
func movie(ctx context.Context, files []string, rate shot.Rate, kind string) ([]byte, error) {
	program, err := exec.LookPath("ffmpeg")
	if err != nil {
		return nil, fmt.Errorf("movies are made by ffmpeg, which is not installed on this machine; APNG needs nothing else")
	}
	dir, err := os.MkdirTemp("", "perigyre-movie-")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir)
	ending := filepath.Ext(files[0])
	for i, f := range files { // by number, whatever their names
		if err := os.Symlink(absolute(f), filepath.Join(dir, fmt.Sprintf("%06d%s", i, ending))); err != nil {
			return nil, err
		}
	}
	out := filepath.Join(dir, "out."+kind)
	args := []string{"-v", "error", "-framerate", fmt.Sprintf("%d/%d", rate.Num, rate.Den), "-i", filepath.Join(dir, "%06d"+ending)}
	if kind == "webm" {
		args = append(args, "-vf", coded+",format=yuva420p", "-c:v", "libvpx-vp9", "-b:v", "0", "-crf", "18", "-auto-alt-ref", "0")
	} else {
		args = append(args, "-vf", "premultiply=inplace=1,pad=ceil(iw/2)*2:ceil(ih/2)*2,"+coded+",format=yuv420p", "-c:v", "libx264", "-crf", "16", "-movflags", "+faststart")
	}
	args = append(args, "-color_primaries", "bt709", "-color_trc", "bt709", "-colorspace", "bt709", "-color_range", "tv")
	if text, err := exec.CommandContext(ctx, program, append(args, out)...).CombinedOutput(); err != nil {
		return nil, fmt.Errorf("ffmpeg could not make the movie: %.300s", text)
	}
	return os.ReadFile(out)
}

func absolute(name string) string {
	if a, err := filepath.Abs(name); err == nil {
		return a
	}
	return name
}
