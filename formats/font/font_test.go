package font

import (
	"context"
	"math"
	"strings"
	"testing"

	"golang.org/x/image/font"
	"golang.org/x/image/font/sfnt"
	"golang.org/x/image/math/fixed"

	"perigyre/core/outline"
	"perigyre/core/planar"
)

// Letter outlines against the font's own glyph bounds, which hold the control points of its curves too:
// the outlines lie within them, and near them.
func TestLettersAgainstTheFont(t *testing.T) {
	for name, data := range Shipped {
		f, err := sfnt.Parse(data)
		if err != nil {
			t.Fatal(err)
		}
		units := float64(f.UnitsPerEm())
		letters, err := Set(data, "Bgé8&\nA", Setting{Leading: 1.2, Align: "left"})
		if err != nil {
			t.Fatal(name, err)
		}
		var buf sfnt.Buffer
		for _, l := range letters {
			g, _ := f.GlyphIndex(&buf, l.Rune)
			b, _, err := f.GlyphBounds(&buf, g, fixed.I(int(units)), font.HintingNone)
			if err != nil {
				t.Fatal(err)
			}
			lo, hi, _ := l.Path.Bounds()
			for i, off := range []float64{lo[0] - float64(b.Min.X)/64/units, float64(b.Max.X)/64/units - hi[0], float64(b.Max.Y)/64/units + lo[1], -float64(b.Min.Y)/64/units - hi[1]} {
				if off < -1e-6 || off > 0.04 {
					t.Errorf("%s, %q: side %d is %g ems inside the font's bounds", name, l.Rune, i, off)
				}
			}
			r, err := outline.Fill(l.Path, planar.NonZero, 1e-3).Resolve(context.Background())
			if err != nil {
				t.Fatal(err)
			}
			if a := r.Size(); a < 0.02 || a > 0.6 {
				t.Errorf("%s, %q covers %g of the em", name, l.Rune, a)
			}
		}
		if last := letters[len(letters)-1]; last.Rune != 'A' || last.Y != -1.2 || last.X != 0 {
			t.Errorf("%s: the second line begins with %+v", name, last)
		}
	}
}

func TestAlignmentAndSpacing(t *testing.T) {
	data := Shipped["Go Regular"]
	width := func(s Setting) (float64, float64) {
		l, err := Set(data, "HIH", s)
		if err != nil {
			t.Fatal(err)
		}
		return l[0].X, l[2].X
	}
	a0, a2 := width(Setting{Align: "left", Leading: 1})
	b0, b2 := width(Setting{Align: "left", Leading: 1, Spacing: 0.1})
	c0, c2 := width(Setting{Align: "right", Leading: 1})
	if a0 != 0 || b0 != 0 || math.Abs(b2-a2-0.2) > 1e-9 || math.Abs((c2-c0)-(a2-a0)) > 1e-9 || c0 >= 0 {
		t.Errorf("%g %g, %g %g, %g %g", a0, a2, b0, b2, c0, c2)
	}
	for text, says := range map[string]string{"   ": "paints nothing", "\U0001F600": "has no letter"} {
		if _, err := Set(data, text, Setting{Leading: 1}); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%q: %v", text, err)
		}
	}
	if _, err := Set([]byte("no font"), "A", Setting{}); err == nil {
		t.Error("that is no font")
	}
}

func FuzzSet(f *testing.F) {
	f.Add(Shipped["Go Mono"][:20_000], "Ab")
	f.Add(Shipped["Go Mono"], "gé8&\nA")
	f.Fuzz(func(t *testing.T, data []byte, text string) {
		if len(text) > 40 {
			return
		}
		letters, err := Set(data, text, Setting{Leading: 1, Align: "centre"})
		if err != nil {
			return
		}
		for _, l := range letters {
			if _, _, ok := l.Path.Bounds(); !ok {
				t.Fatalf("the letter %q has no bounds", l.Rune)
			}
		}
	})
}
