package tga

import (
	"bytes"
	"image"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"testing"
)

// ImageMagick reads the same pixels.
func TestAgainstImageMagick(t *testing.T) {
	if _, err := exec.LookPath("convert"); err != nil {
		t.Skip("ImageMagick is not installed")
	}
	rng := rand.New(rand.NewPCG(5, 6))
	img := image.NewNRGBA(image.Rect(0, 0, 301, 40))
	for y := range 40 {
		for x := range 301 {
			p := img.Pix[y*img.Stride+4*x:]
			if y%3 == 0 || x%11 == 0 {
				p[0], p[1], p[2], p[3] = uint8(rng.IntN(256)), uint8(rng.IntN(256)), uint8(rng.IntN(256)), uint8(rng.IntN(256))
			} else {
				p[0], p[1], p[2], p[3] = 200, 10, uint8(y), 128
			}
		}
	}
	for _, alpha := range []bool{true, false} {
		var b bytes.Buffer
		if err := Encode(&b, img, alpha); err != nil {
			t.Fatal(err)
		}
		file := filepath.Join(t.TempDir(), "a.tga")
		if err := os.WriteFile(file, b.Bytes(), 0o600); err != nil {
			t.Fatal(err)
		}
		form := map[bool]string{true: "RGBA:-", false: "RGB:-"}[alpha]
		got, err := exec.Command("convert", file, "-depth", "8", form).Output()
		if err != nil {
			t.Fatal(err)
		}
		var want []byte
		for i := 0; i < len(img.Pix); i += 4 {
			want = append(want, img.Pix[i:i+4:i+4]...)
			if !alpha {
				want = want[:len(want)-1]
			}
		}
		if !bytes.Equal(got, want) {
			t.Errorf("alpha %v: ImageMagick reads other pixels", alpha)
		}
	}
}
