package exr

import (
	"bytes"
	"image"
	"math"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"testing"
)

func picture(c Compression) *Picture {
	rng := rand.New(rand.NewPCG(1, 2))
	p := &Picture{Display: image.Rect(0, 0, 340, 100), Data: image.Rect(3, 5, 320, 92), Compression: c, Rate: [2]int{24, 1}, Text: map[string]string{"comments": "a test"}}
	n := p.Data.Dx() * p.Data.Dy()
	for _, name := range []string{"R", "G", "B", "A", "depth.Z"} {
		ch := Channel{Name: name, Half: name != "depth.Z", Pix: make([]float32, n)}
		for i := range ch.Pix {
			ch.Pix[i] = float32(i%317)/317 + float32(i/317)/87
			if i%11 == 0 {
				ch.Pix[i] += 0.1 * rng.Float32()
			}
		}
		p.Channels = append(p.Channels, ch)
	}
	return p
}

func TestRoundTrip(t *testing.T) {
	for _, c := range []Compression{None, ZIPS, ZIP, PIZ} {
		p := picture(c)
		var b bytes.Buffer
		if err := Write(&b, p); err != nil {
			t.Fatal(err)
		}
		if c != None && b.Len() > 10*len(p.Channels[0].Pix) {
			t.Errorf("%s leaves %d bytes: blocks were kept as they are", c, b.Len())
		}
		got, err := Read(b.Bytes())
		if err != nil {
			t.Fatal(err)
		}
		if got.Data != p.Data || got.Display != p.Display || got.Rate != p.Rate || got.Text["comments"] != "a test" {
			t.Errorf("%s: windows or attributes changed: %+v", c, got)
		}
		for _, want := range p.Channels {
			for _, ch := range got.Channels {
				if ch.Name != want.Name {
					continue
				}
				for i, v := range want.Pix {
					if want.Half {
						v = fromHalf(toHalf(v))
					}
					if ch.Pix[i] != v {
						t.Fatalf("%s: %s of pixel %d is %g, not %g", c, ch.Name, i, ch.Pix[i], v)
					}
				}
			}
		}
		for k := 0; k < b.Len(); k += 1009 { // cut short anywhere it is refused, never a crash
			if _, err := Read(b.Bytes()[:k]); err == nil {
				t.Fatalf("%s: %d of %d bytes are taken for a whole file", c, k, b.Len())
			}
		}
	}
}

// Every half is itself again; rounding is to the nearest, ties to even (IEEE 754).
func TestHalf(t *testing.T) {
	for h := range 1 << 16 {
		v := fromHalf(uint16(h))
		if back := toHalf(v); back != uint16(h) && v == v {
			t.Fatalf("%#x is %g, which is %#x", h, v, back)
		}
	}
	for _, c := range []struct {
		v    float32
		want uint16
	}{{1, 0x3c00}, {65504, 0x7bff}, {65520, 0x7c00}, {65519, 0x7bff}, {1 + 1.0/2048, 0x3c00}, {1 + 3.0/2048, 0x3c02}, {5.9604645e-8, 1}, {2.9e-8, 0}, {-2, 0xc000}, {float32(math.Inf(1)), 0x7c00}} {
		if got := toHalf(c.v); got != c.want {
			t.Errorf("%g is %#x, not %#x", c.v, got, c.want)
		}
	}
}

// OpenImageIO and the tools of OpenEXR read what is written, and this package what they write.
func TestAgainstOtherTools(t *testing.T) {
	if _, err := exec.LookPath("oiiotool"); err != nil {
		t.Skip("oiiotool (openimageio-tools) is not installed")
	}
	dir := t.TempDir()
	for _, c := range []Compression{None, ZIPS, ZIP, PIZ} {
		p := picture(c)
		var b bytes.Buffer
		if err := Write(&b, p); err != nil {
			t.Fatal(err)
		}
		file := filepath.Join(dir, string(c)+".exr")
		if err := os.WriteFile(file, b.Bytes(), 0o600); err != nil {
			t.Fatal(err)
		}
		out, err := exec.Command("oiiotool", "--info", "-v", "--stats", file).CombinedOutput()
		if err != nil {
			t.Fatalf("%v: %s", err, out)
		}
		for _, want := range []string{`317 x   87, 5 channel`, `full/display size: 340 x 100`, `pixel data origin: x=3, y=5`, `depth.Z`, `24/1`} {
			if !regexp.MustCompile(want).Match(out) {
				t.Errorf("%s: oiiotool does not say %q:\n%s", c, want, out)
			}
		}
		sum := 0.0
		for _, ch := range p.Channels {
			if ch.Name == "depth.Z" {
				for _, v := range ch.Pix {
					sum += float64(v) / float64(len(ch.Pix))
				}
			}
		}
		m := regexp.MustCompile(`Stats Avg: +(.*?) \(float\)`).FindSubmatch(out)
		if m == nil {
			t.Fatalf("no averages in %s", out)
		}
		found := false
		for _, field := range bytes.Fields(m[1]) {
			v, _ := strconv.ParseFloat(string(field), 64)
			found = found || math.Abs(v-sum) < 2e-6*math.Max(1, sum)
		}
		if !found {
			t.Errorf("%s: oiiotool finds the averages %s, %.6f is not among them", c, m[1], sum)
		}
		if out, err := exec.Command("exrheader", file).CombinedOutput(); err != nil || !bytes.Contains(out, []byte("framesPerSecond")) {
			t.Errorf("exrheader: %v %s", err, out)
		}
		again := filepath.Join(dir, "again.exr")
		if out, err := exec.Command("oiiotool", file, "--compression", map[Compression]string{None: "none", ZIPS: "zips", ZIP: "zip", PIZ: "piz"}[c], "-o", again).CombinedOutput(); err != nil {
			t.Fatalf("%v: %s", err, out)
		}
		data, _ := os.ReadFile(again)
		got, err := Read(data)
		if err != nil {
			t.Fatal(err)
		}
		for _, ch := range got.Channels {
			for _, want := range p.Channels {
				if ch.Name == want.Name && ch.Pix[100] != want.Pix[100] && ch.Pix[100] != fromHalf(toHalf(want.Pix[100])) {
					t.Errorf("%s written by oiiotool: pixel 100 of %s is %g, not %g", c, ch.Name, ch.Pix[100], want.Pix[100])
				}
			}
		}
	}
}

func FuzzRead(f *testing.F) {
	for _, c := range []Compression{None, ZIP, PIZ} {
		p := picture(c)
		p.Data.Max.Y, p.Data.Max.X = p.Data.Min.Y+34, p.Data.Min.X+4
		for i := range p.Channels {
			p.Channels[i].Pix = p.Channels[i].Pix[:34*4]
		}
		var b bytes.Buffer
		_ = Write(&b, p)
		f.Add(b.Bytes())
	}
	f.Fuzz(func(t *testing.T, data []byte) { _, _ = Read(data) })
}
