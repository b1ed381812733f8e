package render

import (
	"image"
	"image/draw"
	"math"

	"perigyre/core/color"
	"perigyre/core/material"
)

// picture is a decoded texture: 8-bit texels, read as they are coded.
type picture struct {
	width, height int
	texels        []uint8 // r g b a, not premultiplied
}

func newPicture(img image.Image) *picture {
	b := img.Bounds()
	n, ok := img.(*image.NRGBA)
	if !ok || n.Stride != 4*b.Dx() || b.Min != (image.Point{}) {
		n = image.NewNRGBA(image.Rect(0, 0, b.Dx(), b.Dy()))
		draw.Draw(n, n.Rect, img, b.Min, draw.Src)
	}
	return &picture{b.Dx(), b.Dy(), n.Pix}
}

// texture is a picture with its wrapping.
type texture struct {
	*picture
	s, t    material.Wrap
	placing *material.Placing // or nil
}

// read returns the texture at the coordinates of a surface.
func (x *texture) read(uv [2]float32, srgb bool) [4]float32 {
	if x.placing != nil {
		uv[0], uv[1] = x.placing.Apply(uv[0], uv[1])
	}
	return x.at(uv[0], uv[1], srgb)
}

// wrapped returns the texel number for i, or -1 to n, outside as the wrapping says.
func wrapped(i, n int, w material.Wrap) int {
	switch w {
	case material.Clamp:
		return min(n-1, max(0, i))
	case material.Mirror:
		i = ((i % (2 * n)) + 2*n) % (2 * n)
		if i >= n {
			i = 2*n - 1 - i
		}
		return i
	}
	return ((i % n) + n) % n
}

// at returns the texture bilinearly between texel centres. Colour textures are decoded from sRGB
// before they are mixed.
func (x *texture) at(u, v float32, srgb bool) [4]float32 {
	fx, fy := float64(u)*float64(x.width)-0.5, float64(v)*float64(x.height)-0.5
	if !(math.Abs(fx) < 1e9 && math.Abs(fy) < 1e9) {
		fx, fy = 0, 0
	}
	x0, y0 := math.Floor(fx), math.Floor(fy)
	ax, ay := float32(fx-x0), float32(fy-y0)
	var out [4]float32
	for k, w := range [4]float32{(1 - ax) * (1 - ay), ax * (1 - ay), (1 - ax) * ay, ax * ay} {
		i := wrapped(int(x0)+k&1, x.width, x.s)
		j := wrapped(int(y0)+k>>1, x.height, x.t)
		p := x.texels[4*(j*x.width+i):]
		for c := range 3 {
			if srgb {
				out[c] += w * color.FromSRGB8[p[c]]
			} else {
				out[c] += w * float32(p[c]) / 255
			}
		}
		out[3] += w * float32(p[3]) / 255
	}
	return out
}
