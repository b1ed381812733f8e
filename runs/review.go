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

	scale "golang.org/x/image/draw"

	"image/jpeg"
	stdpng "image/png"

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

// Sheet returns the frames that are done as one picture, so many beside each other: small ones as a contact
// sheet, or at their size as a sprite sheet, with the map of where each lies.
func (q *Queue) Sheet(id string, small bool) (picture, places []byte, err error) {
	plan, done, files, err := q.shown(id)
	if err != nil {
		return nil, nil, err
	}
	w, h := plan.Settings.Width, plan.Settings.Height
	if small && w > 160 {
		w, h = 160, max(1, plan.Settings.Height*160/plan.Settings.Width)
	}
	across := 1
	for across*across*w < len(files)*h {
		across++
	}
	across = min(across, len(files))
	down := (len(files) + across - 1) / across
	if across*w > 30_000 || down*h > 30_000 {
		return nil, nil, fmt.Errorf("the sheet would be %d x %d pixels; render fewer or smaller frames", across*w, down*h)
	}
	out := image.NewNRGBA(image.Rect(0, 0, across*w, down*h))
	type place struct {
		Frame  int    `json:"frame"`
		File   string `json:"file"`
		X      int    `json:"x"`
		Y      int    `json:"y"`
		Width  int    `json:"width"`
		Height int    `json:"height"`
	}
	var list []place
	for i, name := range files {
		img, err := open(name)
		if err != nil {
			return nil, nil, err
		}
		r := image.Rect(0, 0, w, h).Add(image.Pt(i%across*w, i/across*h))
		if img.Bounds().Dx() == w {
			draw.Draw(out, r, img, img.Bounds().Min, draw.Src)
		} else {
			scale.CatmullRom.Scale(out, r, img, img.Bounds(), draw.Src, nil)
		}
		list = append(list, place{done[i].Number, done[i].File, r.Min.X, r.Min.Y, w, h})
	}
	var b bytes.Buffer
	if err := png.Encode(&b, out, png.Options{Alpha: true, Text: map[string]string{"Software": "Perigyre"}}); err != nil {
		return nil, nil, err
	}
	places, err = json.MarshalIndent(map[string]any{"width": across * w, "height": down * h, "frames": list}, "", "  ")
	return b.Bytes(), places, err
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

// Movie returns the frames that are done as WebM (VP9, with alpha) or MP4 (over black where there is alpha), made
// by ffmpeg where it is installed.
func (q *Queue) Movie(ctx context.Context, id, kind string) ([]byte, error) {
	program, err := exec.LookPath("ffmpeg")
	if err != nil {
		return nil, fmt.Errorf("movies are made by ffmpeg, which is not installed on this machine; APNG needs nothing else")
	}
	plan, _, files, err := q.shown(id)
	if err != nil {
		return nil, err
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
	rate := plan.Document.Rate
	out := filepath.Join(dir, "out."+kind)
	args := []string{"-v", "error", "-framerate", fmt.Sprintf("%d/%d", rate.Num, rate.Den), "-i", filepath.Join(dir, "%06d"+ending)}
	if kind == "webm" {
		args = append(args, "-c:v", "libvpx-vp9", "-pix_fmt", "yuva420p", "-b:v", "0", "-crf", "18", "-auto-alt-ref", "0")
	} else {
		args = append(args, "-vf", "premultiply=inplace=1,pad=ceil(iw/2)*2:ceil(ih/2)*2,format=yuv420p", "-c:v", "libx264", "-crf", "16", "-movflags", "+faststart")
	}
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
