package png

import (
	"bytes"
	"image"
	"image/color"
	"os/exec"
	"strings"
	"testing"
)

// gradient goes through all alphas and, at 16 bits, through values that 8 cannot hold.
func gradient(bits int) image.Image {
	r := image.Rect(0, 0, 64, 16)
	wide, narrow := image.NewNRGBA64(r), image.NewNRGBA(r)
	for y := range 16 {
		for x := range 64 {
			c := color.NRGBA64{uint16(x * 1040), uint16(y * 4369), uint16(65535 - x*1040), uint16(x*1023 + y)}
			wide.SetNRGBA64(x, y, c)
			narrow.SetNRGBA(x, y, color.NRGBA{uint8(c.R >> 8), uint8(c.G >> 8), uint8(c.B >> 8), uint8(c.A >> 8)})
		}
	}
	if bits == 16 {
		return wide
	}
	return narrow
}

// Straight alpha read back by an independent reader: ImageMagick (libpng), as raw values.
func TestStraightAlphaReadByAnotherReader(t *testing.T) {
	const tool = "/usr/bin/convert"
	if _, err := exec.LookPath(tool); err != nil {
		t.Fatal("this test needs the Debian package imagemagick; make test installs it")
	}
	for _, bits := range []int{8, 16} {
		img := gradient(bits)
		var b bytes.Buffer
		if err := Encode(&b, img, Options{Alpha: true, Text: map[string]string{"Title": "Lantern – proof"}}); err != nil {
			t.Fatal(err)
		}
		depth := map[int]string{8: "8", 16: "16"}[bits]
		cmd := exec.Command(tool, "png:-", "-depth", depth, "-endian", "MSB", "rgba:-")
		cmd.Stdin = bytes.NewReader(b.Bytes())
		raw, err := cmd.Output()
		if err != nil {
			t.Fatal(err)
		}
		want := map[int]func() []byte{
			8: func() []byte { return img.(*image.NRGBA).Pix }, 16: func() []byte { return img.(*image.NRGBA64).Pix },
		}[bits]()
		if !bytes.Equal(raw, want) {
			t.Errorf("%d bit: another reader sees other pixels", bits)
		}
	}
}

func TestPngcheckHasNothingToSay(t *testing.T) {
	var b bytes.Buffer
	opaque := image.NewNRGBA(image.Rect(0, 0, 8, 8))
	for i := 3; i < len(opaque.Pix); i += 4 {
		opaque.Pix[i] = 255
	}
	if err := Encode(&b, opaque, Options{Alpha: true, Text: map[string]string{"Software": "Perigyre"}}); err != nil {
		t.Fatal(err)
	}
	cmd := exec.Command("pngcheck", "-v")
	cmd.Stdin = bytes.NewReader(b.Bytes())
	out, err := cmd.CombinedOutput()
	if err != nil {
		t.Fatalf("%v (Debian package pngcheck)\n%s", err, out)
	}
	for _, want := range []string{"32-bit RGB+alpha", "sRGB", "No errors detected"} {
		if !strings.Contains(string(out), want) {
			t.Errorf("pngcheck does not say %q:\n%s", want, out)
		}
	}
}
