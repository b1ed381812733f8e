package svg

import (
	"errors"
	"fmt"
	"math"
	"strconv"
	"strings"

	"perigyre/core/geom"
	"perigyre/core/outline"
)

// viewport is where a drawing, or one within it, is shown: the map from its units to millimetres of the page with y
// upwards, and its size in its units, of which percentages are.
type viewport struct {
	place outline.Affine
	w, h  float64
}

// pixel is a user unit of the page in millimetres (CSS Values 3: 96 to the inch).
const pixel = 25.4 / 96

var units = map[string]float64{"": 1, "px": 1, "mm": 1 / pixel, "cm": 10 / pixel, "in": 96, "pt": 96.0 / 72, "pc": 16, "q": 0.25 / pixel, "em": 16, "rem": 16, "ex": 8}

// length reads a length in user units; a percentage is of whole.
func length(s string, whole float64) (float64, bool) {
	s = strings.TrimSpace(s)
	n := outline.Number(s)
	v, err := strconv.ParseFloat(s[:n], 64)
	if err != nil || math.IsInf(v, 0) {
		return 0, false
	}
	unit := strings.TrimSpace(s[n:])
	if unit == "%" {
		return v / 100 * whole, true
	}
	k, ok := units[strings.ToLower(unit)]
	return v * k, ok
}

// across, down and along read a length of an attribute: percentages are of the viewport's width, height or diagonal
// (SVG 1.1, 7.10).
func (v viewport) across(s string) float64 { n, _ := length(s, v.w); return n }
func (v viewport) down(s string) float64   { n, _ := length(s, v.h); return n }
func (v viewport) along(s string) float64  { n, _ := length(s, v.diagonal()); return n }
func (v viewport) diagonal() float64       { return math.Sqrt((v.w*v.w + v.h*v.h) / 2) }

// numbers reads a list of numbers, up to what is none.
func numbers(s string) (out []float64) {
	for {
		s = strings.TrimLeft(s, ", \t\r\n\f")
		n := outline.Number(s)
		v, err := strconv.ParseFloat(s[:n], 64)
		if err != nil || math.IsInf(v, 0) {
			return out
		}
		out = append(out, v)
		s = s[n:]
	}
}

// page returns the viewport of the root.
func (d *Document) page() (viewport, error) {
	root := d.root
	box, boxed := viewBox(root)
	size := func(key string) (float64, bool) {
		if strings.HasSuffix(strings.TrimSpace(root.attrs[key]), "%") {
			return 0, false
		}
		return length(root.attrs[key], 0)
	}
	w, okW := size("width")
	h, okH := size("height")
	switch {
	case boxed && !okW && !okH:
		w, h = box[2], box[3]
	case boxed && !okW:
		w = h * box[2] / box[3]
	case boxed && !okH:
		h = w * box[3] / box[2]
	default:
		if !okW {
			w = 300
		}
		if !okH {
			h = 150
		}
	}
	if !(w > 0 && h > 0 && w < 1e9 && h < 1e9) {
		return viewport{}, errors.New("its view box or its size is nothing")
	}
	d.Size = [2]float64{w * pixel, h * pixel}
	v := within(viewport{outline.Affine{pixel, 0, 0, -pixel, 0, h * pixel}, w, h}, 0, 0, w, h, root)
	if det := v.place.Det(); !v.place.Finite() || det == 0 || math.IsInf(det, 0) {
		return viewport{}, errors.New("its view box or its size is nothing")
	}
	return v, nil
}

func viewBox(n *node) ([]float64, bool) {
	box := numbers(n.attrs["viewBox"])
	return box, len(box) == 4 && box[2] > 0 && box[3] > 0
}

// within returns the viewport of an element that shows its view box in a rectangle (SVG 1.1, 7.7 and 7.8).
func within(v viewport, x, y, w, h float64, n *node) viewport {
	at := v.place.Mul(outline.Moved(x, y))
	box, ok := viewBox(n)
	if !ok {
		return viewport{at, w, h}
	}
	align, meet, _ := strings.Cut(strings.TrimPrefix(strings.TrimSpace(n.attrs["preserveAspectRatio"]), "defer "), " ")
	sx, sy := w/box[2], h/box[3]
	dx, dy := 0.0, 0.0
	if align != "none" {
		k := math.Min(sx, sy)
		if strings.TrimSpace(meet) == "slice" {
			k = math.Max(sx, sy)
		}
		sx, sy = k, k
		share := func(word string) float64 {
			switch {
			case strings.Contains(align, word+"Min"):
				return 0
			case strings.Contains(align, word+"Max"):
				return 1
			}
			return 0.5
		}
		dx, dy = (w-box[2]*k)*share("x"), (h-box[3]*k)*share("Y")
	}
	return viewport{at.Mul(outline.Moved(dx, dy)).Mul(outline.Scaled(sx, sy)).Mul(outline.Moved(-box[0], -box[1])), box[2], box[3]}
}

// transform reads a list of transforms (SVG 1.1, 7.6).
func transform(s string) (outline.Affine, error) {
	m := outline.Same
	for s = strings.Trim(s, " ,\t\r\n"); s != "" && s != "none"; s = strings.Trim(s, " ,\t\r\n") {
		head, rest, ok := strings.Cut(s, "(")
		args, tail, ok2 := strings.Cut(rest, ")")
		if !ok || !ok2 {
			return m, fmt.Errorf("the transform %.40q cannot be read", s)
		}
		v := numbers(args)
		var n outline.Affine
		switch name := strings.TrimSpace(head); {
		case name == "matrix" && len(v) == 6:
			n = outline.Affine(v)
		case name == "translate" && len(v) == 1:
			n = outline.Moved(v[0], 0)
		case name == "translate" && len(v) == 2:
			n = outline.Moved(v[0], v[1])
		case name == "scale" && len(v) == 1:
			n = outline.Scaled(v[0], v[0])
		case name == "scale" && len(v) == 2:
			n = outline.Scaled(v[0], v[1])
		case name == "rotate" && len(v) == 1:
			n = outline.Turned(v[0] * math.Pi / 180)
		case name == "rotate" && len(v) == 3:
			n = outline.Moved(v[1], v[2]).Mul(outline.Turned(v[0] * math.Pi / 180)).Mul(outline.Moved(-v[1], -v[2]))
		case name == "skewX" && len(v) == 1:
			n = outline.Affine{1, 0, math.Tan(v[0] * math.Pi / 180), 1, 0, 0}
		case name == "skewY" && len(v) == 1:
			n = outline.Affine{1, math.Tan(v[0] * math.Pi / 180), 0, 1, 0, 0}
		default:
			return m, fmt.Errorf("the transform %.40q cannot be read", s)
		}
		m = m.Mul(n)
		s = tail
	}
	return m, nil
}

// rectangle returns a closed rectangle.
func rectangle(x, y, w, h float64) outline.Path {
	var p outline.Path
	p.MoveTo(geom.Vec2{x, y})
	p.LineTo(geom.Vec2{x + w, y})
	p.LineTo(geom.Vec2{x + w, y + h})
	p.LineTo(geom.Vec2{x, y + h})
	p.Close()
	return p
}
