package color

import "math"

// Coldest and Hottest are the temperatures, in kelvin, that OfTemperature is defined for.
const (
	Coldest = 1667.0
	Hottest = 25000.0
)

// OfTemperature returns the linear Rec. 709 colour of light of a temperature, with a luminance of 1: that of a
// black body up to 4,000 K (Kim et al., "Design of Advanced Color Temperature Control System for HDTV
// Applications", 2002, its cubics from memory), that of the phases of daylight from 5,000 K (CIE 15, the daylight
// locus, from memory), and a mix between them. What Rec. 709 cannot show is clipped.
func OfTemperature(kelvin float64) [3]float64 {
	t := math.Min(Hottest, math.Max(Coldest, kelvin))
	bx, by := blackBody(t)
	dx, dy := daylight(math.Max(4000, t))
	k := math.Min(1, math.Max(0, (t-4000)/1000))
	x, y := bx+(dx-bx)*k, by+(dy-by)*k
	X, Z := x/y, (1-x-y)/y
	// XYZ to linear Rec. 709 (IEC 61966-2-1).
	out := [3]float64{3.2406*X - 1.5372 - 0.4986*Z, -0.9689*X + 1.8758 + 0.0415*Z, 0.0557*X - 0.2040 + 1.0570*Z}
	sum := 0.0
	for i, w := range [3]float64{0.2126, 0.7152, 0.0722} {
		out[i] = math.Max(0, out[i])
		sum += w * out[i]
	}
	for i := range out {
		out[i] /= sum
	}
	return out
}

func blackBody(t float64) (x, y float64) {
	if t <= 4000 {
		x = -0.2661239e9/(t*t*t) - 0.2343589e6/(t*t) + 0.8776956e3/t + 0.179910
	} else {
		x = -3.0258469e9/(t*t*t) + 2.1070379e6/(t*t) + 0.2226347e3/t + 0.240390
	}
	switch {
	case t <= 2222:
		y = -1.1063814*x*x*x - 1.34811020*x*x + 2.18555832*x - 0.20219683
	case t <= 4000:
		y = -0.9549476*x*x*x - 1.37418593*x*x + 2.09137015*x - 0.16748867
	default:
		y = 3.0817580*x*x*x - 5.87338670*x*x + 3.75112997*x - 0.37001483
	}
	return x, y
}

func daylight(t float64) (x, y float64) {
	if t <= 7000 {
		x = -4.6070e9/(t*t*t) + 2.9678e6/(t*t) + 0.09911e3/t + 0.244063
	} else {
		x = -2.0064e9/(t*t*t) + 1.9018e6/(t*t) + 0.24748e3/t + 0.237040
	}
	return x, -3*x*x + 2.870*x - 0.275
}
