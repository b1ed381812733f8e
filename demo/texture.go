package demo

import (
	"bytes"
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"math/rand/v2"

	"golang.org/x/image/font"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/math/fixed"
)

// label draws the name plate: the maker's name and the model, dark on brass.
func label(width, height int) ([]byte, error) {
	img := image.NewNRGBA(image.Rect(0, 0, width, height))
	brass, ink := color.NRGBA{214, 176, 96, 255}, color.NRGBA{38, 30, 22, 255}
	draw.Draw(img, img.Rect, image.NewUniform(brass), image.Point{}, draw.Src)
	border := height / 16
	for _, r := range []image.Rectangle{
		image.Rect(border, border, width-border, border+3), image.Rect(border, height-border-3, width-border, height-border),
		image.Rect(border, border, border+3, height-border), image.Rect(width-border-3, border, width-border, height-border),
	} {
		draw.Draw(img, r, image.NewUniform(ink), image.Point{}, draw.Src)
	}
	for _, line := range []struct {
		text     string
		data     []byte
		size     float64
		baseline float64
	}{{"Brindlewick", gobold.TTF, 0.33, 0.52}, {"No. 3   hand-wound lantern", goregular.TTF, 0.145, 0.78}} {
		f, err := opentype.Parse(line.data)
		if err != nil {
			return nil, err
		}
		face, err := opentype.NewFace(f, &opentype.FaceOptions{Size: line.size * float64(height), DPI: 72})
		if err != nil {
			return nil, err
		}
		d := font.Drawer{Dst: img, Src: image.NewUniform(ink), Face: face}
		d.Dot = fixed.Point26_6{X: (fixed.I(width) - d.MeasureString(line.text)) / 2, Y: fixed.I(int(line.baseline * float64(height)))}
		d.DrawString(line.text)
	}
	return encode(img)
}

// brushed draws the metallic-roughness texture of brushed metal: streaks of roughness along u.
func brushed(size int) ([]byte, error) {
	img := image.NewNRGBA(image.Rect(0, 0, size, size))
	rng := rand.New(rand.NewPCG(3, 1912))
	for y := range size {
		base := 0.62 + 0.2*rng.Float64()
		for x := range size {
			rough := base + 0.05*rng.Float64()
			img.SetNRGBA(x, y, color.NRGBA{255, uint8(rough * 255), 255, 255})
		}
	}
	return encode(img)
}

func encode(img image.Image) ([]byte, error) {
	var b bytes.Buffer
	err := png.Encode(&b, img)
	return b.Bytes(), err
}
