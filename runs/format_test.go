package runs

import (
	"bytes"
	"context"
	"image"
	"image/color"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"

	"perigyre/core/check"
	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/core/render"
	"perigyre/core/shot"
	"perigyre/formats/exr"
)

type noAssets struct{}

func (noAssets) Primitives(string, int) ([]model.Primitive, error) { return nil, nil }
func (noAssets) Picture(string, int) (image.Image, error)          { return nil, nil }

// pixelsOf reads a file with ImageMagick: straight r, g, b, a of 16 bits.
func pixelsOf(t *testing.T, data []byte, ending string) []byte {
	t.Helper()
	name := filepath.Join(t.TempDir(), "a"+ending)
	if err := os.WriteFile(name, data, 0o600); err != nil {
		t.Fatal(err)
	}
	out, err := exec.Command("convert", name, "-depth", "16", "-endian", "MSB", "RGBA:-").Output()
	if err != nil {
		t.Fatal(err)
	}
	return out
}

// A frame written as PNG, TIFF and TGA is read by ImageMagick with the pixels that the film shows, alpha straight;
// as EXR its own associated light, of which the shown one is the view of, divided by alpha. Over a backdrop
// nothing is transparent, as JPEG neither.
func TestFormatsHoldTheSamePicture(t *testing.T) {
	if _, err := exec.LookPath("convert"); err != nil {
		t.Skip("ImageMagick is not installed")
	}
	d := shot.New("t")
	d.Format = shot.Format{Width: 24, Height: 24}
	d.Parts = []shot.Part{
		{ID: "ball", Name: "Ball", Kind: shot.Made, Rest: shot.AtRest, Shape: &mesh.Shape{Kind: mesh.SphereShape, Radius: 0.5, Sides: 64}},
		{ID: "cam", Name: "Camera", Kind: shot.Camera, Rest: shot.AtRest, Camera: &shot.Lens{Focal: 50, SensorWidth: 36, SensorHeight: 24, Sensor: shot.FitLonger}},
	}
	d.Parts[1].Rest.Position[2] = 2
	d.Camera = "cam"
	if err := d.Validate(); err != nil {
		t.Fatal(err)
	}
	plan := func(f FileFormat, bits int, backdrop *[3]float64) (*Plan, []byte) {
		t.Helper()
		o := Defaults(d)
		o.Width, o.Height, o.To, o.Quality, o.Format, o.Bits, o.Backdrop = 24, 24, 0, render.Draft, f, bits, backdrop
		p, err := NewPlan(d, NamesOf("P", d), o, "", Stock{Props: render.NewProps(noAssets{})})
		if err != nil {
			t.Fatal(err)
		}
		data, preview, err := p.Picture(context.Background(), 0, nil)
		if err != nil {
			t.Fatal(err)
		}
		if shown := f == EXR || f == TGA || f == TIFF; shown != (preview != nil) {
			t.Errorf("%s: a picture for the browser: %v", f, preview != nil)
		}
		return p, data[0]
	}
	_, data := plan(PNG, 16, nil)
	want := pixelsOf(t, data, ".png")
	some := false
	for i := 6; i < len(want); i += 8 {
		some = some || want[i] != 0 && want[i] != 255
	}
	if !some {
		t.Fatal("no pixel is covered in part")
	}
	_, data = plan(TIFF, 16, nil)
	if !bytes.Equal(pixelsOf(t, data, ".tif"), want) {
		t.Error("TIFF of 16 bits holds other pixels than PNG")
	}
	_, data = plan(TGA, 8, nil)
	got := pixelsOf(t, data, ".tga")
	for i := 0; i < len(got); i += 2 {
		if a, b := int(got[i])<<8|int(got[i+1]), int(want[i])<<8|int(want[i+1]); a-b > 130 || b-a > 130 {
			t.Fatalf("TGA: component %d is %d, in PNG %d", i/2, a, b)
		}
	}
	p, data := plan(EXR, 32, nil)
	light, err := exr.Read(data)
	if err != nil {
		t.Fatal(err)
	}
	channel := map[string][]float32{}
	for _, c := range light.Channels {
		channel[c.Name] = c.Pix
	}
	for i := range 24 * 24 {
		a := float64(channel["A"][i])
		if math.Abs(a*65535-float64(int(want[8*i+6])<<8|int(want[8*i+7]))) > 1 {
			t.Fatalf("EXR: alpha of pixel %d is %g", i, a)
		}
		if a == 0 {
			continue
		}
		c := p.Document.View.Apply([3]float64{float64(channel["R"][i]) / a, float64(channel["G"][i]) / a, float64(channel["B"][i]) / a})
		for k := range c {
			shown := toSRGB(c[k]) * 65535
			if file := float64(int(want[8*i+2*k])<<8 | int(want[8*i+2*k+1])); math.Abs(shown-file) > 1.5 {
				t.Fatalf("EXR: component %d of pixel %d would be shown as %.1f, PNG has %.1f", k, i, shown, file)
			}
		}
	}
	_, data = plan(JPEG, 8, &[3]float64{1, 0, 0})
	img, _, err := image.Decode(bytes.NewReader(data))
	if err != nil {
		t.Fatal(err)
	}
	if r, g, b, _ := img.At(0, 0).RGBA(); r < 0xf000 || g > 0x1000 || b > 0x1000 {
		t.Errorf("behind the picture the JPEG is %v, not red", color.RGBA64Model.Convert(img.At(0, 0)))
	}
}

// toSRGB is the transfer function of IEC 61966-2-1.
func toSRGB(v float64) float64 {
	v = math.Max(0, math.Min(1, v))
	if v <= 0.0031308 {
		return 12.92 * v
	}
	return 1.055*math.Pow(v, 1/2.4) - 0.055
}

// Passes in files of their own hold what the layers of one file hold; a pass that is lost is rendered again with its
// frame, and nothing else is.
func TestPassFiles(t *testing.T) {
	_, q := opened(t, func(Progress) {})
	layers := func(apart bool) (string, map[string][]float32) {
		o := Defaults(boxShot())
		o.Format, o.Bits, o.Passes, o.PassFiles = EXR, 16, []render.Pass{render.Depth, render.CameraNormal}, apart
		id, err := q.Start("shot", "P", boxShot(), o)
		if err != nil {
			t.Fatal(err)
		}
		frames := wait(t, q, id, Done)
		r, _, _, _ := q.Status(id)
		out := map[string][]float32{}
		files, err := read(r.Folder, frames[2])
		if err != nil {
			t.Fatal(err)
		}
		for _, f := range files {
			p, err := exr.Read(f)
			if err != nil {
				t.Fatal(err)
			}
			for _, c := range p.Channels {
				out[c.Name] = c.Pix
			}
		}
		if apart != (len(files) == 3) {
			t.Errorf("a frame has %d files", len(files))
		}
		return id, out
	}
	_, want := layers(false)
	id, got := layers(true)
	if len(got) != 8 || len(want) != 8 {
		t.Fatalf("%d channels in one file, %d in several", len(want), len(got))
	}
	for name, pix := range want {
		if !slices.Equal(pix, got[name]) {
			t.Errorf("%s is another in a file of its own", name)
		}
	}
	r, _, frames, _ := q.Status(id)
	if err := os.Remove(filepath.Join(r.Folder, "camera_normal", frames[4].File)); err != nil {
		t.Fatal(err)
	}
	if bad, err := q.Verify(id); err != nil || len(bad) != 1 || bad[0] != 4 {
		t.Errorf("frames %v are found, %v", bad, err)
	}
	if err := q.Set(id, Waiting); err != nil {
		t.Fatal(err)
	}
	wait(t, q, id, Done)
	if bad, _ := q.Verify(id); len(bad) != 0 {
		t.Errorf("after it was repaired, frames %v are bad", bad)
	}
}

// However long the names of project, shot or camera are, and wherever the number stands, two frames never have one name; and
// nothing that is not seen is left in it.
func TestFramesNeverShareAName(t *testing.T) {
	long := strings.Repeat("ü", 400)
	n := Names{Project: long, Shot: "a\u202eb\u200bc/d", Model: long, Camera: long}
	for _, pattern := range []string{"{frame}_{project}", "{project}_{frame}", "{project}{frame}{camera}", strings.Repeat("x", 500) + "{frame}", "{frame}" + strings.Repeat("x", 500), "{shot}{frame}"} {
		o := Settings{Name: pattern, Padding: 4, Bits: 8, To: 5}
		seen := map[string]bool{}
		for f := range 6 {
			name, err := o.File(n, f)
			if err != nil || seen[name] || len(name) > longestName+4 || strings.ContainsAny(name, "/\u202e\u200b") || !utf8.ValidString(name) {
				t.Fatalf("%.40s, frame %d: %q, %v", pattern, f, name, err)
			}
			seen[name] = true
		}
	}
}

// What one may not mean is said before a run: a part of a loop, and a size that movies round up; of the whole loop nothing. What a run
// is refused for blocks: alpha in files without, two frames of one name, a full disk.
func TestFindingsOfSettings(t *testing.T) {
	s := shot.New("t")
	s.Camera = "cam"
	once := *s
	once.Ending = shot.Once
	for name, c := range map[string]struct {
		change func(o *Settings)
		of     *shot.Shot
		want   []check.Weight
	}{
		"a whole loop":               {func(o *Settings) {}, s, nil},
		"a part of it, of odd size":  {func(o *Settings) { o.To, o.Width = 40, o.Width+1 }, s, []check.Weight{check.Look, check.Look}},
		"a part of what plays once":  {func(o *Settings) { o.To = 40 }, &once, nil},
		"a still":                    {func(o *Settings) { o.To = o.From }, s, nil},
		"alpha in files without":     {func(o *Settings) { o.Format = JPEG }, s, []check.Weight{check.Blocks}},
		"a name that is none":        {func(o *Settings) { o.Name = "a/b" }, s, []check.Weight{check.Blocks}},
		"more than any disk":         {func(o *Settings) { o.Width, o.Height, o.Bits = 8000, 8000, 16; o.To = 9_999_999 }, &shot.Shot{Camera: "cam", Frames: 10_000_000, Ending: shot.Loop, Format: shot.Format{Width: 8, Height: 8}}, []check.Weight{check.Blocks}},
		"light in EXR on a backdrop": {func(o *Settings) { o.Format, o.Backdrop = EXR, &[3]float64{} }, s, []check.Weight{check.Look}},
	} {
		o := Defaults(c.of)
		if c.change(&o); o.Format == EXR {
			o.Bits = 16
		}
		var got []check.Weight
		for _, f := range o.Findings(Names{Project: "p", Shot: "s"}, c.of, t.TempDir()) {
			got = append(got, f.Weight)
		}
		if !slices.Equal(got, c.want) {
			t.Errorf("%s: %q", name, got)
		}
	}
}
