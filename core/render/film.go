package render

import (
	"cmp"
	"image"
	"math"

	"perigyre/core/color"
	"perigyre/core/scene"
)

// Film is a rendered picture, row by row from the top.
type Film struct {
	Width, Height int
	Pix           []float32 // r g b a: scene-linear, associated (premultiplied) with alpha
	Layers        []Layer   // the passes that were asked for
	guides        *guides
	shades        *shades // of the floor's shadow, where it is smoothed
	mattes        []scene.Matte
	full          bool    // the sky lies behind all of it
	top, of       int     // the row of the picture that it begins at, and how many the picture has
	fade          float32 // share of the picture's shorter side over which the floor's shadow comes in from its edges
}

func newFilm(width, height int, s *Scene) *Film {
	return &Film{Width: width, Height: height, Pix: make([]float32, 4*width*height), full: s.seen, of: height, fade: s.fade}
}

// Reach returns the smallest window that holds all pixels that are not 0, at least one.
func (f *Film) Reach() image.Rectangle {
	out := image.Rectangle{}
	for y := range f.Height {
		for x := range f.Width {
			if p := f.Pix[4*(y*f.Width+x):]; p[0] != 0 || p[1] != 0 || p[2] != 0 || p[3] != 0 {
				out = out.Union(image.Rect(x, y, x+1, y+1))
			}
		}
	}
	if out.Empty() {
		return image.Rect(0, 0, 1, 1)
	}
	return out
}

// filterTable turns a number in [0, 1) into an offset from the pixel's centre, so that offsets are
// distributed as a Blackman-Harris window three pixels wide (Harris 1978, the four-term window; Ernst
// et al. 2006 for filtering by importance sampling). Every sample then counts the same, colour and
// alpha are filtered alike, and no pixel needs its neighbour's samples.
var filterTable = func() (t [257]float32) {
	const half, steps = 1.5, 4096
	window := func(x float64) float64 {
		p := 2 * math.Pi * (x + half) / (2 * half)
		return 0.35875 - 0.48829*math.Cos(p) + 0.14128*math.Cos(2*p) - 0.01168*math.Cos(3*p)
	}
	total := 0.0
	for i := range steps {
		total += window((float64(i)+0.5)/steps*2*half - half)
	}
	sum, next := 0.0, 0
	for i := range steps {
		x := float64(i)/steps*2*half - half
		w := window(x+half/steps) / total
		for next < len(t) && sum+w >= float64(next)/256-1e-12 {
			t[next] = float32(x + 2*half/steps*math.Max(0, float64(next)/256-sum)/w)
			next++
		}
		sum += w
	}
	for ; next < len(t); next++ {
		t[next] = half
	}
	return t
}()

func filterOffset(u float32) float32 {
	x := u * 256
	i := min(255, int(x))
	return filterTable[i] + (filterTable[i+1]-filterTable[i])*(x-float32(i))
}

// Backdrop is what lies behind everything: sRGB colours at the upper and the lower edge, and between them
// what is even to the eye. It darkens towards the corners by the vignette, a share of its sRGB value: not at all up to a third of
// the way from the middle, wholly in the corners.
type Backdrop struct {
	High, Low [3]float64
	Vignette  float64
}

// Behind returns what a picture stands before, nil for nothing. Without a lower colour it is the same all over.
func Behind(high, low *[3]float64, vignette float64) *Backdrop {
	if high == nil {
		return nil
	}
	return &Backdrop{*high, *cmp.Or(low, high), vignette}
}

// at returns the sRGB colour behind a place of the picture, x and y from 0 to 1 from its upper left, with so many pixels.
func (b *Backdrop) at(x, y float64, width, height int) (c [3]float64) {
	keeps := 1.0
	if b.Vignette > 0 {
		w, h := float64(width), float64(height)
		r := (2*math.Hypot((x-0.5)*w, (y-0.5)*h)/math.Hypot(w, h) - 1.0/3) * 1.5
		r = math.Min(1, math.Max(0, r))
		keeps -= b.Vignette * r * r * (3 - 2*r)
	}
	for k := range c {
		c[k] = (b.High[k] + (b.Low[k]-b.High[k])*y) * keeps
	}
	return c
}

// pixel returns the display colour, each component from 0 to 1, and alpha: straight where there is
// no backdrop, over the backdrop (sRGB) where there is one. The view transform is applied to the
// colour without its alpha.
func (f *Film) pixel(i int, view color.View, backdrop *Backdrop) (c [3]float64, alpha float64) {
	p := f.Pix[4*i : 4*i+4]
	alpha = math.Min(1, math.Max(0, float64(p[3])))
	if alpha > 0 {
		for k := range c {
			c[k] = float64(p[k]) / alpha
		}
		c = view.Apply(c)
	}
	if backdrop != nil {
		behind := backdrop.at((float64(i%f.Width)+0.5)/float64(f.Width), (float64(i/f.Width)+0.5)/float64(f.Height), f.Width, f.Height)
		for k := range c {
			c[k] = math.Max(0, math.Min(1, c[k]))*alpha + color.FromSRGB(behind[k])*(1-alpha)
		}
		alpha = 1
	}
	for k := range c {
		c[k] = color.ToSRGB(c[k])
	}
	return c, alpha
}

// Image returns the picture for a file with straight alpha (PNG specification, 12.4 "Alpha channel
// creation"), with 8 or 16 bits a component.
func (f *Film) Image(view color.View, backdrop *Backdrop, bits int) image.Image {
	r := image.Rect(0, 0, f.Width, f.Height)
	if bits == 16 {
		img := image.NewNRGBA64(r)
		for i := range f.Width * f.Height {
			c, a := f.pixel(i, view, backdrop)
			for k, v := range [4]float64{c[0], c[1], c[2], a} {
				n := uint16(v*65535 + 0.5)
				img.Pix[8*i+2*k], img.Pix[8*i+2*k+1] = uint8(n>>8), uint8(n)
			}
		}
		return img
	}
	img := image.NewNRGBA(r)
	for i := range f.Width * f.Height {
		c, a := f.pixel(i, view, backdrop)
		for k, v := range [4]float64{c[0], c[1], c[2], a} {
			img.Pix[4*i+k] = uint8(v*255 + 0.5)
		}
	}
	return img
}
