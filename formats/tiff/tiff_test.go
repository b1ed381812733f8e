package tiff

import (
	"bytes"
	"image"
	"image/color"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"golang.org/x/image/tiff"
)

// Files come back as they were, and ImageMagick's identify finds the profile in them and knows the colour space.
func TestFilesHaveAProfile(t *testing.T) {
	for name, img := range map[string]image.Image{"8.tif": image.NewNRGBA(image.Rect(0, 0, 7, 5)), "16.tif": image.NewNRGBA64(image.Rect(0, 0, 7, 5))} {
		img.(interface{ Set(x, y int, c color.Color) }).Set(3, 2, color.NRGBA{250, 120, 30, 200})
		var b bytes.Buffer
		if err := Encode(&b, img); err != nil {
			t.Fatal(err)
		}
		back, err := tiff.Decode(bytes.NewReader(b.Bytes()))
		if err != nil {
			t.Fatal(name, err)
		}
		for y := range 5 {
			for x := range 7 {
				if color.NRGBA64Model.Convert(back.At(x, y)) != color.NRGBA64Model.Convert(img.At(x, y)) {
					t.Fatalf("%s: the pixel at %d, %d is %v, was %v", name, x, y, back.At(x, y), img.At(x, y))
				}
			}
		}
		file := filepath.Join(t.TempDir(), name)
		if err := os.WriteFile(file, b.Bytes(), 0o644); err != nil {
			t.Fatal(err)
		}
		out, err := exec.Command("identify", "-verbose", file).CombinedOutput()
		if err != nil {
			t.Fatalf("identify, of the Debian package imagemagick that make test installs: %v\n%s", err, out)
		}
		for _, want := range []string{"icc:description: sRGB", "Profile-icc", "Colorspace: sRGB"} {
			if !strings.Contains(string(out), want) {
				t.Errorf("%s: identify does not say %q:\n%s", name, want, out)
			}
		}
	}
}
