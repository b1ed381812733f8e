package lettering

import (
	"math"
	"regexp"
	"strconv"
	"strings"
	"testing"
)

// area of the outlines of SVG path data, curves as lines, by the shoelace formula.
func area(t *testing.T, d string) float64 {
	t.Helper()
	sum := 0.0
	var at, first [2]float64
	to := func(p [2]float64) { sum += (at[0]*p[1] - p[0]*at[1]) / 2; at = p }
	for _, c := range regexp.MustCompile(`[MLQCZ][^MLQCZ]*`).FindAllString(d, -1) {
		var p [][2]float64
		words := strings.Fields(c[1:])
		for i := 0; i+1 < len(words); i += 2 {
			x, err := strconv.ParseFloat(words[i], 64)
			y, err2 := strconv.ParseFloat(words[i+1], 64)
			if err != nil || err2 != nil {
				t.Fatalf("%q is no path data", c)
			}
			p = append(p, [2]float64{x, y})
		}
		switch c[0] {
		case 'M':
			to(first) // closes what was before
			at, first = p[0], p[0]
		case 'L':
			to(p[0])
		case 'Q':
			from := at
			for k := 1; k <= 32; k++ {
				u := float64(k) / 32
				a, b, w := (1-u)*(1-u), 2*u*(1-u), u*u
				to([2]float64{a*from[0] + b*p[0][0] + w*p[1][0], a*from[1] + b*p[0][1] + w*p[1][1]})
			}
		case 'Z':
			to(first)
		default:
			t.Fatalf("%q is not in this font", c)
		}
	}
	return math.Abs(sum)
}

// What a picture gets of a line is what its outlines, which the views draw, hold: as much ink, between the same ends, at any size and between
// pixels too.
func TestPicturesAndOutlinesAgree(t *testing.T) {
	for _, text := range []string{"Winding", "Thumb nut × 4", "Äpfel, §7", "12", "Лампа Ω"} {
		path := Path(text)
		for _, size := range []float64{9.3, 28, 120} {
			ink, from, to := 0.0, math.Inf(1), 0.0
			err := Cover(text, 10.4, 200.7, size, func(x, _ int, cover float32) {
				ink += float64(cover)
				from, to = math.Min(from, float64(x)), math.Max(to, float64(x+1))
			})
			if err != nil {
				t.Fatal(err)
			}
			if want := area(t, path) / 1e6 * size * size; math.Abs(ink/want-1) > 0.03 {
				t.Errorf("%s of %g: %.1f pixels are covered, its outlines hold %.1f", text, size, ink, want)
			}
			if from < 10.4-1 || to > 10.4+Width(text)*size+1 || to-from < 0.8*Width(text)*size {
				t.Errorf("%s of %g reaches from %g to %g, it begins at 10.4 and is %.1f wide", text, size, from, to, Width(text)*size)
			}
		}
	}
}

func TestLinesThatAreTooLong(t *testing.T) {
	const text = "Reflector cone with its gasket"
	if got := Within(text, 100); got != text {
		t.Errorf("what has room is cut to %q", got)
	}
	for _, width := range []float64{10, 4, 1.2, 0.1} {
		got := Within(text, width)
		if w := Width(got); w > width && got != "…" || !strings.HasSuffix(got, "…") {
			t.Errorf("within %g: %q, which is %g wide", width, got, w)
		}
	}
}
