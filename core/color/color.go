// Package color turns scene-linear light into what files and screens hold, and back.
package color

import "math"

// FromSRGB decodes one sRGB component, 0 to 1, to linear (IEC 61966-2-1).
func FromSRGB(v float64) float64 {
	if v <= 0.04045 {
		return v / 12.92
	}
	return math.Pow((v+0.055)/1.055, 2.4)
}

// ToSRGB encodes one linear component for the sRGB transfer function (IEC 61966-2-1). Values
// outside 0 to 1 are clipped.
func ToSRGB(v float64) float64 {
	switch {
	case !(v > 0):
		return 0
	case v >= 1:
		return 1
	case v <= 0.0031308:
		return v * 12.92
	}
	return 1.055*math.Pow(v, 1/2.4) - 0.055
}

// FromSRGB8 is FromSRGB for every 8-bit value.
var FromSRGB8 = func() (t [256]float32) {
	for i := range t {
		t[i] = float32(FromSRGB(float64(i) / 255))
	}
	return t
}()

// Luminance returns the relative luminance of a linear Rec. 709 colour (Rec. ITU-R BT.709).
func Luminance(r, g, b float64) float64 { return 0.2126*r + 0.7152*g + 0.0722*b }

// View names a view transform: how scene-linear light becomes a display-referred colour.
type View string

const (
	Plain   View = "plain"   // clipped at 1: flat colours come out as typed
	Neutral View = "neutral" // Khronos PBR Neutral: true colours, with highlights rolled off

	FilmLow  View = "film, low contrast" // a smooth shoulder and toe, with three contrasts
	Film     View = "film"
	FilmHigh View = "film, high contrast"
)

// Views are all there are.
var Views = []View{Plain, Neutral, FilmLow, Film, FilmHigh}

// contrasts of film: the slope of its curve in logarithms at middle grey is this, less what the shoulder takes.
var contrasts = map[View]float64{FilmLow: 1.05, Film: 1.25, FilmHigh: 1.5}

// film is a logistic curve in the logarithm of each component, x^c / (x^c + m), which leaves middle grey, 0.18,
// where it is and comes to 1 as slowly as the paper of a photograph does.
func film(x, c float64) float64 {
	const grey = 0.18
	if x <= 0 {
		return 0
	}
	p := math.Pow(x, c)
	return p / (p + math.Pow(grey, c)*(1-grey)/grey)
}

// Apply returns the linear display colour, 0 to 1, of a scene-linear one.
func (v View) Apply(c [3]float64) [3]float64 {
	if v == Neutral {
		return neutral(c)
	}
	if k := contrasts[v]; k > 0 {
		for i := range c {
			c[i] = film(c[i], k)
		}
	}
	return c
}

// neutral is the Khronos PBR Neutral Tone Mapper, with the constants of its specification:
// F90 0.04, compression from 0.8 - F90, desaturation 0.15.
func neutral(c [3]float64) [3]float64 {
	const f90, start, desaturation = 0.04, 0.8 - 0.04, 0.15
	x := math.Min(c[0], math.Min(c[1], c[2]))
	offset := f90
	if x < 2*f90 {
		offset = x - x*x/(4*f90)
	}
	for i := range c {
		c[i] -= offset
	}
	peak := math.Max(c[0], math.Max(c[1], c[2]))
	if peak < start {
		return c
	}
	const d = 1 - start
	newPeak := 1 - d*d/(peak+d-start)
	g := 1 - 1/(desaturation*(peak-newPeak)+1)
	for i := range c {
		c[i] = c[i]*newPeak/peak*(1-g) + newPeak*g
	}
	return c
}
