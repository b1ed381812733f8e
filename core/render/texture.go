package render

import (
	"image"
	"math"
	"sync"

	"perigyre/core/color"
	"perigyre/core/material"
)

// picture is a decoded texture: 8-bit texels, read as they are coded, and smaller copies of it for where a ray's
// footprint takes in many of them.
type picture struct {
	width, height int
	texels        []uint8 // r g b a, not premultiplied

	once    [2]sync.Once
	smaller [2][]*picture // each half as wide and high as the one before, averaged as numbers or as sRGB colours
}

// level returns the copy that is halved so many times.
func (p *picture) level(n int, srgb bool) *picture {
	role := 0
	if srgb {
		role = 1
	}
	p.once[role].Do(func() {
		list := []*picture{p}
		for last := p; last.width > 1 || last.height > 1; {
			last = last.half(srgb)
			list = append(list, last)
		}
		p.smaller[role] = list
	})
	list := p.smaller[role]
	return list[min(len(list)-1, max(0, n))]
}

// half averages squares of texels: of a colour its light, weighted by alpha, so that what is under a mask does not
// show at its edge.
func (p *picture) half(srgb bool) *picture {
	out := &picture{width: (p.width + 1) / 2, height: (p.height + 1) / 2}
	out.texels = make([]uint8, 4*out.width*out.height)
	for y := range out.height {
		for x := range out.width {
			var sum, plain [3]float64
			alpha := 0.0
			for k := range 4 {
				i := 4 * (min(p.height-1, 2*y+k>>1)*p.width + min(p.width-1, 2*x+k&1))
				a := float64(p.texels[i+3]) / 255
				alpha += a / 4
				for c := range 3 {
					v := float64(p.texels[i+c]) / 255
					if srgb {
						v = float64(color.FromSRGB8[p.texels[i+c]])
					}
					sum[c] += v * a / 4
					plain[c] += v / 4
				}
			}
			o := out.texels[4*(y*out.width+x):]
			for c := range 3 {
				v := plain[c]
				if alpha > 0 {
					v = sum[c] / alpha
				}
				if srgb {
					v = color.ToSRGB(v)
				}
				o[c] = uint8(math.Round(math.Min(1, math.Max(0, v)) * 255))
			}
			o[3] = uint8(math.Round(alpha * 255))
		}
	}
	return out
}

func newPicture(img image.Image) *picture {
	n := color.Straight(img)
	return &picture{width: n.Rect.Dx(), height: n.Rect.Dy(), texels: n.Pix}
}

// texture is a picture with its wrapping.
type texture struct {
	*picture
	s, t    material.Wrap
	placing *material.Placing // or nil
}

// read returns the texture at the coordinates of a surface, averaged over about a width in them: between the two
// copies whose texels are next to that size.
func (x *texture) read(uv [2]float32, wide float32, srgb bool) [4]float32 {
	if x.placing != nil {
		uv[0], uv[1] = x.placing.Apply(uv[0], uv[1])
		wide *= sqrt(abs(float32(x.placing.Scale[0] * x.placing.Scale[1])))
	}
	texels := float64(wide) * math.Sqrt(float64(x.width)*float64(x.height))
	if !(texels > 1) {
		return x.at(x.picture, uv[0], uv[1], srgb)
	}
	level := math.Min(math.Log2(texels), 16)
	n := int(level)
	k := float32(level - float64(n))
	out, next := x.at(x.level(n, srgb), uv[0], uv[1], srgb), x.at(x.level(n+1, srgb), uv[0], uv[1], srgb)
	for c := range out {
		out[c] += (next[c] - out[c]) * k
	}
	return out
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
func (x *texture) at(from *picture, u, v float32, srgb bool) [4]float32 {
	fx, fy := float64(u)*float64(from.width)-0.5, float64(v)*float64(from.height)-0.5
	if !(math.Abs(fx) < 1e9 && math.Abs(fy) < 1e9) {
		fx, fy = 0, 0
	}
	x0, y0 := math.Floor(fx), math.Floor(fy)
	ax, ay := float32(fx-x0), float32(fy-y0)
	var out [4]float32
	for k, w := range [4]float32{(1 - ax) * (1 - ay), ax * (1 - ay), (1 - ax) * ay, ax * ay} {
		i := wrapped(int(x0)+k&1, from.width, x.s)
		j := wrapped(int(y0)+k>>1, from.height, x.t)
		p := from.texels[4*(j*from.width+i):]
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
