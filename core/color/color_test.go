package color

import (
	"math"
	"testing"
)

// IEC 61966-2-1: the two pieces meet at 0.0031308 / 0.04045, and mid grey 0.5 encodes linear
// 0.214041 (the value given by the formula, also in the W3C CSS Color 4 sample code).
func TestSRGB(t *testing.T) {
	for _, c := range []struct{ encoded, linear float64 }{{0, 0}, {0.04045, 0.0031308}, {0.5, 0.21404114}, {1, 1}} {
		if got := FromSRGB(c.encoded); math.Abs(got-c.linear) > 1e-7 {
			t.Errorf("FromSRGB(%g) = %.9f, want %g", c.encoded, got, c.linear)
		}
		if got := ToSRGB(c.linear); math.Abs(got-c.encoded) > 1e-5 {
			t.Errorf("ToSRGB(%g) = %.9f, want %g", c.linear, got, c.encoded)
		}
	}
	for i := range 256 {
		v := float64(i) / 255
		if got := math.Round(ToSRGB(float64(FromSRGB8[i])) * 255); got != float64(i) {
			t.Errorf("8-bit %d comes back as %v (%v)", i, got, v)
		}
	}
}

// Khronos PBR Neutral: base colours below 0.8 come out less the 0.04 of Fresnel that a lit surface
// adds; everything stays below 1 and the order of brightness is kept.
func TestNeutral(t *testing.T) {
	got := Neutral.Apply([3]float64{0.5, 0.3, 0.2})
	for i, want := range []float64{0.46, 0.26, 0.16} {
		if math.Abs(got[i]-want) > 1e-12 {
			t.Errorf("component %d: %g, want %g", i, got[i], want)
		}
	}
	last := -1.0
	for v := 0.0; v < 50; v += 0.01 {
		g := Neutral.Apply([3]float64{v, v, v})[0]
		if g < last || g > 1 {
			t.Fatalf("neutral(%g) = %g after %g", v, g, last)
		}
		last = g
	}
}

// Film leaves middle grey as it is, rises everywhere, and comes to 1 slowly; more contrast is steeper at grey.
func TestFilm(t *testing.T) {
	last := 0.0
	for _, v := range []View{FilmLow, Film, FilmHigh} {
		if g := v.Apply([3]float64{0.18, 0.18, 0.18})[1]; math.Abs(g-0.18) > 1e-12 {
			t.Errorf("%s takes grey to %g", v, g)
		}
		before := 0.0
		for x := 0.001; x < 100; x *= 1.1 {
			y := v.Apply([3]float64{x, x, x})[0]
			if y <= before || y >= 1 {
				t.Fatalf("%s: %g gives %g after %g", v, x, y, before)
			}
			before = y
		}
		slope := v.Apply([3]float64{0.19, 0, 0})[0] - v.Apply([3]float64{0.17, 0, 0})[0]
		if slope <= last {
			t.Errorf("%s is no steeper than the one before", v)
		}
		last = slope
	}
}

// The white points that the CIE publishes: illuminant A, a black body of 2,856 K, at x 0.44757, y 0.40745; D50 of
// 5,003 K at 0.34567, 0.35850; D65 of 6,504 K, the white of Rec. 709, at 0.31272, 0.32903.
func TestTemperatures(t *testing.T) {
	for _, c := range []struct{ kelvin, x, y float64 }{{2856, 0.44757, 0.40745}, {5003, 0.34567, 0.35850}, {6504, 0.31272, 0.32903}} {
		rgb := OfTemperature(c.kelvin)
		// Linear Rec. 709 to XYZ (IEC 61966-2-1).
		X := 0.4124*rgb[0] + 0.3576*rgb[1] + 0.1805*rgb[2]
		Y := 0.2126*rgb[0] + 0.7152*rgb[1] + 0.0722*rgb[2]
		Z := 0.0193*rgb[0] + 0.1192*rgb[1] + 0.9505*rgb[2]
		x, y := X/(X+Y+Z), Y/(X+Y+Z)
		if math.Abs(x-c.x) > 1.5e-3 || math.Abs(y-c.y) > 1.5e-3 || math.Abs(Y-1) > 1e-9 {
			t.Errorf("%g K is at %.5f, %.5f with a luminance of %.3f, not at %.5f, %.5f", c.kelvin, x, y, Y, c.x, c.y)
		}
	}
}
