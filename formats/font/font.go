// Package font sets words as outlines: TrueType and OpenType files (ISO/IEC 14496-22) through
// golang.org/x/image/font/sfnt.
package font

import (
	"fmt"
	"strings"

	"golang.org/x/image/font"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/gobolditalic"
	"golang.org/x/image/font/gofont/goitalic"
	"golang.org/x/image/font/gofont/gomedium"
	"golang.org/x/image/font/gofont/gomono"
	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/gofont/gosmallcaps"
	"golang.org/x/image/font/sfnt"
	"golang.org/x/image/math/fixed"

	"perigyre/core/geom"
	"perigyre/core/outline"
)

// Shipped are the fonts that come along, by name: the Go fonts (Bigelow and Holmes, BSD licence).
var Shipped = map[string][]byte{
	"Go Regular": goregular.TTF, "Go Medium": gomedium.TTF, "Go Bold": gobold.TTF, "Go Italic": goitalic.TTF,
	"Go Bold Italic": gobolditalic.TTF, "Go Small Caps": gosmallcaps.TTF, "Go Mono": gomono.TTF,
}

// Letter is one glyph that paints something.
type Letter struct {
	Rune rune
	X, Y float64      // of its origin on the baseline, in ems from the first line's left end
	Path outline.Path // in ems about its origin, y upwards
}

// Setting says how a word is set, in ems.
type Setting struct {
	Spacing float64 // added between letters
	Leading float64 // from line to line
	Align   string  // left, centre or right
}

// Name returns the family and style that a font file says it is.
func Name(data []byte) (string, error) {
	f, err := sfnt.Parse(data)
	if err != nil {
		return "", fmt.Errorf("it is no TrueType or OpenType font: %w", err)
	}
	name, err := f.Name(nil, sfnt.NameIDFull)
	if err != nil || name == "" {
		name = "Font"
	}
	return name, nil
}

// Set lays a text out with the font's advances and kerning.
func Set(data []byte, text string, s Setting) ([]Letter, error) {
	f, err := sfnt.Parse(data)
	if err != nil {
		return nil, fmt.Errorf("it is no TrueType or OpenType font: %w", err)
	}
	em := fixed.I(int(f.UnitsPerEm())) // so that nothing is rounded
	units := float64(f.UnitsPerEm())
	ems := func(v fixed.Int26_6) float64 { return float64(v) / 64 / units }
	var buf sfnt.Buffer
	var out []Letter
	for row, line := range strings.Split(text, "\n") {
		first, x := len(out), 0.0
		var before sfnt.GlyphIndex
		for i, r := range []rune(line) {
			g, err := f.GlyphIndex(&buf, r)
			if err != nil {
				return nil, err
			}
			if g == 0 {
				return nil, fmt.Errorf("the font has no letter %q", r)
			}
			if i > 0 {
				x += s.Spacing
				if k, err := f.Kern(&buf, before, g, em, font.HintingNone); err == nil {
					x += ems(k)
				}
			}
			before = g
			segments, err := f.LoadGlyph(&buf, g, em, nil)
			if err != nil {
				return nil, fmt.Errorf("the letter %q cannot be drawn: %w", r, err)
			}
			if p := path(segments, ems); len(p) > 0 {
				out = append(out, Letter{r, x, -float64(row) * s.Leading, p})
			}
			advance, err := f.GlyphAdvance(&buf, g, em, font.HintingNone)
			if err != nil {
				return nil, err
			}
			x += ems(advance)
		}
		shift := map[string]float64{"centre": -x / 2, "right": -x}[s.Align]
		for k := first; k < len(out); k++ {
			out[k].X += shift
		}
	}
	if len(out) == 0 {
		return nil, fmt.Errorf("the word paints nothing")
	}
	return out, nil
}

func path(segments sfnt.Segments, ems func(fixed.Int26_6) float64) outline.Path {
	var p outline.Path
	at := func(q fixed.Point26_6) geom.Vec2 { return geom.Vec2{ems(q.X), -ems(q.Y)} } // down in the font's rows
	for _, s := range segments {
		switch s.Op {
		case sfnt.SegmentOpMoveTo:
			p.Close()
			p.MoveTo(at(s.Args[0]))
		case sfnt.SegmentOpLineTo:
			p.LineTo(at(s.Args[0]))
		case sfnt.SegmentOpQuadTo:
			p.QuadTo(at(s.Args[0]), at(s.Args[1]))
		case sfnt.SegmentOpCubeTo:
			p.CubeTo(at(s.Args[0]), at(s.Args[1]), at(s.Args[2]))
		}
	}
	p.Close()
	return p
}
