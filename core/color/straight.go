package color

import (
	"image"
	"image/color"
	"image/draw"
)

// Straight returns a picture as 8 bits a channel, not premultiplied, from (0, 0): its own pixels where it is one. Colours
// under an alpha of 0 are kept where the picture has them: a material that is opaque shows them.
func Straight(img image.Image) *image.NRGBA {
	b := img.Bounds()
	if n, ok := img.(*image.NRGBA); ok && n.Stride == 4*b.Dx() && b.Min == (image.Point{}) {
		return n
	}
	n := image.NewNRGBA(image.Rect(0, 0, b.Dx(), b.Dy()))
	switch src := img.(type) {
	case *image.NRGBA:
		for y := range b.Dy() {
			copy(n.Pix[y*n.Stride:], src.Pix[y*src.Stride:y*src.Stride+n.Stride])
		}
	case *image.NRGBA64:
		for y := range b.Dy() {
			row := src.Pix[y*src.Stride:]
			for i := range n.Stride {
				n.Pix[y*n.Stride+i] = uint8((uint32(row[2*i])<<8 + uint32(row[2*i+1]) + 128) / 257)
			}
		}
	case *image.Paletted:
		palette := make([]color.NRGBA, 256)
		for i, c := range src.Palette {
			if p, ok := c.(color.NRGBA); ok {
				palette[i] = p
			} else {
				palette[i] = color.NRGBAModel.Convert(c).(color.NRGBA)
			}
		}
		for y := range b.Dy() {
			for x := range b.Dx() {
				p := palette[src.Pix[y*src.Stride+x]]
				copy(n.Pix[y*n.Stride+4*x:], []uint8{p.R, p.G, p.B, p.A})
			}
		}
	default:
		draw.Draw(n, n.Rect, img, b.Min, draw.Src)
	}
	return n
}
