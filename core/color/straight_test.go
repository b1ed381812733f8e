package color

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
	"testing"
)

// Colours under an alpha of 0 stay, in the kinds of pictures that hold them: 8 bits, 16 bits, and a palette with tRNS
// (PNG, 11.3.2.1).
func TestColoursUnderAlphaStay(t *testing.T) {
	r := image.Rect(3, 2, 8, 6)
	eight, sixteen := image.NewNRGBA(r), image.NewNRGBA64(r)
	pal := image.NewPaletted(r, color.Palette{color.NRGBA{200, 100, 50, 0}, color.NRGBA{1, 2, 3, 255}})
	for y := r.Min.Y; y < r.Max.Y; y++ {
		for x := r.Min.X; x < r.Max.X; x++ {
			eight.SetNRGBA(x, y, color.NRGBA{200, 100, 50, 0})
			sixteen.SetNRGBA64(x, y, color.NRGBA64{200 * 257, 100 * 257, 50 * 257, 0})
		}
	}
	for name, img := range map[string]image.Image{"8 bits": eight, "16 bits": sixteen, "palette": pal, "part of one": eight.SubImage(image.Rect(4, 3, 6, 5))} {
		var b bytes.Buffer
		if err := png.Encode(&b, img); err != nil {
			t.Fatal(err)
		}
		read, err := png.Decode(&b)
		if err != nil {
			t.Fatal(err)
		}
		for _, i := range []image.Image{img, read} {
			n := Straight(i)
			if n.Rect != image.Rect(0, 0, i.Bounds().Dx(), i.Bounds().Dy()) {
				t.Fatalf("%s: %v", name, n.Rect)
			}
			for k := 0; k < len(n.Pix); k += 4 {
				if c := [4]uint8(n.Pix[k:]); c != [4]uint8{200, 100, 50, 0} {
					t.Fatalf("%s, pixel %d: %v", name, k/4, c)
				}
			}
		}
	}
}
