// Package lettering sets the words of labels in pictures: one line in the Go font (Bigelow and Holmes, 2016), through golang.org/x/image.
package lettering

import (
	"fmt"
	"image"
	"strings"
	"sync"

	"golang.org/x/image/font"
	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/font/sfnt"
	"golang.org/x/image/math/fixed"
)

// Height of a capital and of what goes below the line, in ems.
const (
	Capital   = 0.72
	Descender = 0.21
)

var parsed = sync.OnceValue(func() *sfnt.Font {
	f, err := opentype.Parse(goregular.TTF)
	if err != nil {
		panic(err) // it comes along with the program
	}
	return f
})

// Width returns how wide a line is, in ems.
func Width(text string) float64 {
	end := 0.0
	each(text, func(_ sfnt.GlyphIndex, _, to float64) { end = to })
	return end
}

// Within returns as much of a line as is at most so many ems wide, with an ellipsis where that is not all.
func Within(text string, width float64) string {
	if Width(text) <= width {
		return text
	}
	r := []rune(text)
	for n := len(r) - 1; n > 0; n-- {
		if cut := strings.TrimRight(string(r[:n]), " ") + "…"; Width(cut) <= width {
			return cut
		}
	}
	return "…"
}

// each calls for the glyphs of a line, with where each begins and ends, in ems.
func each(text string, call func(g sfnt.GlyphIndex, from, to float64)) {
	f := parsed()
	var buf sfnt.Buffer
	em := fixed.I(int(f.UnitsPerEm())) // so that nothing is rounded
	ems := func(v fixed.Int26_6) float64 { return float64(v) / float64(em) }
	x, before := 0.0, sfnt.GlyphIndex(0)
	for i, r := range []rune(text) {
		g, err := f.GlyphIndex(&buf, r)
		if err != nil {
			continue
		}
		if i > 0 {
			if k, err := f.Kern(&buf, before, g, em, font.HintingNone); err == nil {
				x += ems(k)
			}
		}
		wide, err := f.GlyphAdvance(&buf, g, em, font.HintingNone)
		if err != nil {
			continue
		}
		call(g, x, x+ems(wide))
		x, before = x+ems(wide), g
	}
}

// Path returns the outlines of a line as path data of SVG (SVG 2, 9.3), in thousandths of an em, y downwards, from its beginning on the
// baseline.
func Path(text string) string {
	f := parsed()
	var buf sfnt.Buffer
	var out strings.Builder
	each(text, func(g sfnt.GlyphIndex, from, _ float64) {
		list, err := f.LoadGlyph(&buf, g, fixed.I(1000), nil)
		if err != nil {
			return
		}
		for _, s := range list {
			out.WriteByte("MLQC"[s.Op])
			for _, p := range s.Args[:[]int{1, 1, 2, 3}[s.Op]] {
				fmt.Fprintf(&out, "%.1f %.1f ", float64(p.X)/64+1000*from, float64(p.Y)/64)
			}
		}
		if len(list) > 0 {
			out.WriteByte('Z')
		}
	})
	return out.String()
}

// Cover calls for the pixels that a line covers some of, with how much: it begins at x on the baseline y, pixels from the left and the top,
// and its em is size pixels.
func Cover(text string, x, y, size float64, put func(x, y int, cover float32)) error {
	face, err := opentype.NewFace(parsed(), &opentype.FaceOptions{Size: size, DPI: 72, Hinting: font.HintingNone})
	if err != nil {
		return err
	}
	defer func() { _ = face.Close() }() // of memory
	at := func(v float64) fixed.Int26_6 { return fixed.Int26_6(v*64 + 0.5) }
	k, i := []rune(text), 0
	each(text, func(_ sfnt.GlyphIndex, from, _ float64) {
		r, mask, corner, _, ok := face.Glyph(fixed.Point26_6{X: at(x + from*size), Y: at(y)}, k[i])
		i++
		if !ok {
			return
		}
		alpha, ok := mask.(*image.Alpha)
		if !ok {
			return
		}
		for v := r.Min.Y; v < r.Max.Y; v++ {
			for u := r.Min.X; u < r.Max.X; u++ {
				if a := alpha.AlphaAt(corner.X+u-r.Min.X, corner.Y+v-r.Min.Y).A; a > 0 {
					put(u, v, float32(a)/255)
				}
			}
		}
	})
	return nil
}
