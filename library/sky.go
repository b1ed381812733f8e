package library

import (
	"fmt"
	"math"

	"perigyre/formats/exr"
	"perigyre/formats/hdr"
)

// maxSky is the width that pictures of surroundings are kept to in memory: finer ones are averaged.
const maxSky = 2048

// brightest is what a pixel of the surroundings may be: the largest half-precision number, in place of what is infinite.
const brightest = 65504

// ReadSky reads a picture of the surroundings, Radiance or EXR, twice as wide as high: r, g, b row by row from the
// top. Large ones are averaged down.
func ReadSky(data []byte) (width, height int, pix []float32, err error) {
	if hdr.Is(data) {
		p, err := hdr.Read(data)
		if err != nil {
			return 0, 0, nil, err
		}
		width, height, pix = p.Width, p.Height, p.Pix
	} else {
		p, err := exr.Read(data)
		if err != nil {
			return 0, 0, nil, fmt.Errorf("%w; surroundings are Radiance (.hdr) or EXR pictures", err)
		}
		width, height = p.Data.Dx(), p.Data.Dy()
		pix = make([]float32, 3*width*height)
		found := 0
		for _, c := range p.Channels {
			for k, name := range []string{"R", "G", "B"} {
				if c.Name != name {
					continue
				}
				found++
				for i, v := range c.Pix {
					pix[3*i+k] = v
				}
			}
		}
		if found != 3 {
			return 0, 0, nil, fmt.Errorf("the EXR picture has no channels R, G and B")
		}
	}
	if r := float64(width) / float64(height); r < 1.9 || r > 2.1 {
		return 0, 0, nil, fmt.Errorf("the picture has %d x %d pixels; surroundings are twice as wide as high, all round", width, height)
	}
	for i, v := range pix {
		switch {
		case math.IsInf(float64(v), 1):
			pix[i] = brightest
		case !(v >= 0):
			pix[i] = 0
		default:
			pix[i] = min(v, brightest)
		}
	}
	for width > maxSky {
		w, h := width/2, height/2
		small := make([]float32, 3*w*h)
		for y := range h {
			for x := range w {
				for c := range 3 {
					at := func(dx, dy int) float32 { return pix[3*((2*y+dy)*width+2*x+dx)+c] }
					small[3*(y*w+x)+c] = (at(0, 0) + at(1, 0) + at(0, 1) + at(1, 1)) / 4
				}
			}
		}
		width, height, pix = w, h, small
	}
	return width, height, pix, nil
}

// Sky returns a stored picture of the surroundings.
func (a *Assets) Sky(hash string) (width, height int, pix []float32, err error) {
	data, err := a.Open(hash)
	if err != nil {
		return 0, 0, nil, fmt.Errorf("the stored picture of the surroundings %.12s cannot be opened: %w", hash, err)
	}
	return ReadSky(data)
}
