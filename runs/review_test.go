package runs

import (
	"bytes"
	"encoding/json"
	"fmt"
	"image"
	"image/color"
	stdpng "image/png"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"perigyre/core/shot"
	"perigyre/formats/png"
	"perigyre/store"
)

// An APNG is played by other programs: pngcheck finds nothing wrong, ffprobe as many frames at the rate.
func TestAnimatedPNG(t *testing.T) {
	var files [][]byte
	for k := range 5 {
		img := image.NewNRGBA(image.Rect(0, 0, 20, 10))
		for x := range 20 {
			img.Set(x, k, color.NRGBA{uint8(40 * k), 200, uint8(10 * x), uint8(12 * x)})
		}
		var b bytes.Buffer
		if err := png.Encode(&b, img, png.Options{Alpha: true}); err != nil {
			t.Fatal(err)
		}
		files = append(files, b.Bytes())
	}
	var b bytes.Buffer
	if err := png.Animate(&b, files, 24, 1); err != nil {
		t.Fatal(err)
	}
	name := filepath.Join(t.TempDir(), "a.png")
	if err := os.WriteFile(name, b.Bytes(), 0o600); err != nil {
		t.Fatal(err)
	}
	if out, err := exec.Command("pngcheck", name).CombinedOutput(); err != nil {
		t.Errorf("pngcheck: %v %s", err, out)
	}
	{
		out, err := exec.Command("ffprobe", "-v", "error", "-count_frames", "-show_entries", "stream=nb_read_frames,r_frame_rate,width", "-of", "json", "-f", "apng", name).Output()
		if err != nil {
			t.Fatal(err)
		}
		var got struct {
			Streams []struct {
				Frames string `json:"nb_read_frames"`
				Rate   string `json:"r_frame_rate"`
				Width  int    `json:"width"`
			} `json:"streams"`
		}
		if err := json.Unmarshal(out, &got); err != nil || len(got.Streams) != 1 || got.Streams[0].Frames != "5" || got.Streams[0].Width != 20 || !strings.HasPrefix(got.Streams[0].Rate, "24") {
			t.Errorf("ffprobe says %s", out)
		}
	}
	if err := png.Animate(&b, append(files, files[0][:40]), 24, 1); err == nil {
		t.Error("a cut file was taken into an animation")
	}
}

// Movies are read back frame by frame: ffprobe finds the tags of BT.709, and ffmpeg, going by them, the colours that went in.
func TestMoviesKeepTheirColours(t *testing.T) {
	colours := []color.NRGBA{{252, 0, 0, 255}, {0, 200, 40, 255}, {20, 30, 240, 255}, {128, 128, 128, 255}}
	dir := t.TempDir()
	var files []string
	for k, c := range colours {
		img := image.NewNRGBA(image.Rect(0, 0, 64, 48))
		for i := 0; i < len(img.Pix); i += 4 {
			copy(img.Pix[i:], []uint8{c.R, c.G, c.B, c.A})
		}
		var b bytes.Buffer
		if err := png.Encode(&b, img, png.Options{Alpha: true}); err != nil {
			t.Fatal(err)
		}
		files = append(files, filepath.Join(dir, fmt.Sprintf("%d.png", k)))
		if err := os.WriteFile(files[k], b.Bytes(), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	for _, kind := range []string{"mp4", "webm"} {
		data, err := movie(t.Context(), files, shot.Rate{Num: 25, Den: 1}, kind)
		if err != nil {
			t.Fatalf("%v; make test installs ffmpeg", err)
		}
		name := filepath.Join(dir, "m."+kind)
		if err := os.WriteFile(name, data, 0o600); err != nil {
			t.Fatal(err)
		}
		tags, err := exec.Command("ffprobe", "-v", "error", "-show_entries", "stream=color_space,color_transfer,color_primaries,color_range", "-of", "csv=p=0", name).Output()
		if err != nil || strings.TrimSpace(string(tags)) != "tv,bt709,bt709,bt709" {
			t.Errorf("%s is tagged %s, %v", kind, tags, err)
		}
		raw, err := exec.Command("ffmpeg", "-v", "error", "-i", name, "-f", "rawvideo", "-pix_fmt", "rgb24", "-").Output()
		if err != nil || len(raw) != len(colours)*64*48*3 {
			t.Fatalf("%s: %d bytes come back, %v", kind, len(raw), err)
		}
		for k, c := range colours {
			got := raw[k*64*48*3+3*(24*64+32):]
			for i, want := range []uint8{c.R, c.G, c.B} {
				if d := int(got[i]) - int(want); d < -4 || d > 4 {
					t.Errorf("%s, frame %d: %v comes back as %v", kind, k, c, got[:3])
					break
				}
			}
		}
	}
}

// A contact sheet is to be looked at and a sprite sheet to be cut up: the one has room round its frames and for numbers, the
// other nothing.
func TestSheetsAreLaidOut(t *testing.T) {
	frames := []store.Frame{{Number: 5}, {Number: 6}, {Number: 7}, {Number: 8}}
	size, places, err := sheet(frames, 100, 50, 0, 0)
	if err != nil || size != image.Pt(200, 100) && size != image.Pt(100, 200) || places[3].Frame != 8 {
		t.Errorf("sprites are %v, %+v, %v", size, places, err)
	}
	wide, places, err := sheet(frames, 100, 50, 8, 16)
	if err != nil || wide.X <= size.X || wide.Y <= size.Y || places[0].X != 8 || places[0].Y != 8 {
		t.Errorf("contacts are %v, %+v, %v", wide, places, err)
	}
	if _, _, err := sheet(frames, 20_000, 20_000, 0, 0); err == nil {
		t.Error("a sheet of 40,000 pixels is made")
	}
}

// A sheet of sprites has every frame as its file has it, alpha and all, where the map says, and none over another; a contact sheet shows
// every frame small, on its ground.
func TestSheets(t *testing.T) {
	_, q := opened(t, func(Progress) {})
	d := boxShot()
	o := Defaults(d)
	o.Width, o.Height, o.Backdrop = 20, 20, nil
	id, err := q.Start("shot", "P", d, o)
	if err != nil {
		t.Fatal(err)
	}
	frames := wait(t, q, id, Done)
	r, _, _, _ := q.Status(id)
	data, text, err := q.Sprites(id)
	if err != nil {
		t.Fatal(err)
	}
	sheet, err := stdpng.Decode(bytes.NewReader(data))
	if err != nil {
		t.Fatal(err)
	}
	var places struct{ Frames []place }
	if err := json.Unmarshal(text, &places); err != nil || len(places.Frames) != len(frames) {
		t.Fatalf("the map has %d places: %v", len(places.Frames), err)
	}
	var taken image.Rectangle
	clear := 0
	for i, p := range places.Frames {
		own, err := open(filepath.Join(r.Folder, p.File))
		if err != nil || p.Frame != frames[i].Number || !own.Bounds().Size().Eq(image.Pt(p.Width, p.Height)) {
			t.Fatalf("place %d is %+v: %v", i, p, err)
		}
		cell := image.Rect(p.X, p.Y, p.X+p.Width, p.Y+p.Height)
		if !cell.In(sheet.Bounds()) || cell.Overlaps(taken) {
			t.Errorf("frame %d lies at %v, over others or beside the sheet", p.Frame, cell)
		}
		taken = cell
		for y := range p.Height {
			for x := range p.Width {
				got, want := sheet.At(p.X+x, p.Y+y), own.At(x, y)
				if got != want {
					t.Fatalf("frame %d at %d, %d is %v on the sheet and %v in its file", p.Frame, x, y, got, want)
				}
				if _, _, _, a := want.RGBA(); a > 0 && a < 0xffff {
					clear++
				}
			}
		}
	}
	if clear < 20 {
		t.Errorf("%d pixels let something through", clear)
	}
	data, err = q.Contact(id)
	if err != nil {
		t.Fatal(err)
	}
	contact, err := stdpng.Decode(bytes.NewReader(data))
	if err != nil {
		t.Fatal(err)
	}
	ink := 0
	for y := range contact.Bounds().Dy() {
		for x := range contact.Bounds().Dx() {
			if color.NRGBAModel.Convert(contact.At(x, y)) == contactInk {
				ink++
			}
		}
	}
	if ground := color.NRGBAModel.Convert(contact.At(0, 0)); ground != contactGround || ink < 10*len(frames) {
		t.Errorf("the ground is %v, and %d pixels have the colour of numbers", ground, ink)
	}
}
