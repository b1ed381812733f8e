package svg

import (
	"image/color"
	"math"
	"sort"
	"strconv"
	"strings"

	"golang.org/x/image/colornames"

	"perigyre/core/geom"
	"perigyre/core/outline"
)

// Paint is a colour or a gradient.
type Paint struct {
	Color    color.NRGBA
	Gradient *Gradient // in place of the colour, which is one of it then; or nil
}

// Opaque reports whether nothing is seen through it.
func (p Paint) Opaque() bool {
	if p.Gradient == nil {
		return p.Color.A == 255
	}
	for _, s := range p.Gradient.stops {
		if s.color[3] < 1 {
			return false
		}
	}
	return p.Gradient.opacity == 1
}

// Gradient is colours along a line or round a point (SVG 1.1, 13.2).
type Gradient struct {
	back    outline.Affine // from millimetres of the page to the gradient's own plane
	radial  bool
	a, b    geom.Vec2 // of a line: where it begins and ends; of a circle: its focus and its middle
	r       float64
	focus   float64 // radius round the focus at which it begins
	spread  string
	stops   []stop
	opacity float64
}

type stop struct {
	at    float64
	color [4]float64 // sRGB and alpha, 0 to 1
}

// At returns the colour at a place of the page in millimetres, y upwards.
func (g *Gradient) At(p geom.Vec2) color.NRGBA {
	q := g.back.Point(p)
	t := 1.0
	if g.radial {
		// The circle through the place that lies furthest on the way from the circle round the focus to the whole one.
		e, f, dr := q.Sub(g.a), g.b.Sub(g.a), g.r-g.focus
		k := dr*dr - f[0]*f[0] - f[1]*f[1] // above 0: the one lies in the other
		m := e[0]*f[0] + e[1]*f[1] + g.focus*dr
		l := e[0]*e[0] + e[1]*e[1] - g.focus*g.focus
		t = (math.Sqrt(math.Max(0, m*m+k*l)) - m) / k
	} else {
		d := g.b.Sub(g.a)
		t = ((q[0]-g.a[0])*d[0] + (q[1]-g.a[1])*d[1]) / (d[0]*d[0] + d[1]*d[1])
	}
	switch g.spread {
	case "repeat":
		t -= math.Floor(t)
	case "reflect":
		if t = math.Mod(math.Abs(t), 2); t > 1 {
			t = 2 - t
		}
	}
	return nrgba(between(g.stops, t), g.opacity)
}

func between(stops []stop, t float64) [4]float64 {
	k := sort.Search(len(stops), func(i int) bool { return stops[i].at > t })
	switch {
	case k == 0:
		return stops[0].color
	case k == len(stops) || math.IsNaN(t):
		return stops[len(stops)-1].color
	}
	a, b := stops[k-1], stops[k]
	s := (t - a.at) / (b.at - a.at)
	var c [4]float64
	for i := range c {
		c[i] = a.color[i] + (b.color[i]-a.color[i])*s
	}
	return c
}

func nrgba(c [4]float64, opacity float64) color.NRGBA {
	to := func(v float64) uint8 { return uint8(math.Round(255 * math.Max(0, math.Min(1, v)))) }
	return color.NRGBA{to(c[0]), to(c[1]), to(c[2]), to(c[3] * opacity)}
}

// colour reads a colour: sRGB and alpha from 0 to 1. Current is what currentColor means.
func colour(text string, current [4]float64) ([4]float64, bool) {
	lower := strings.ToLower(strings.TrimSpace(text))
	if head, _, ok := strings.Cut(lower, "icc-color"); ok { // what stands before is meant where it is not known
		lower = strings.TrimSpace(head)
	}
	name, args, function := strings.Cut(lower, "(")
	switch {
	case lower == "currentcolor":
		return current, true
	case lower == "transparent":
		return [4]float64{}, true
	case strings.HasPrefix(lower, "#"):
		hex := lower[1:]
		if len(hex) == 3 || len(hex) == 4 {
			var twice strings.Builder
			for _, c := range hex {
				twice.WriteRune(c)
				twice.WriteRune(c)
			}
			hex = twice.String()
		}
		if len(hex) == 6 {
			hex += "ff"
		}
		v, err := strconv.ParseUint(hex, 16, 32)
		if err != nil || len(hex) != 8 {
			return [4]float64{}, false
		}
		return [4]float64{float64(v>>24) / 255, float64(v>>16&255) / 255, float64(v>>8&255) / 255, float64(v&255) / 255}, true
	case function && (name == "rgb" || name == "rgba" || name == "hsl" || name == "hsla"):
		fields := strings.FieldsFunc(strings.TrimSuffix(args, ")"), func(r rune) bool { return strings.ContainsRune(", /\t\r\n", r) })
		if len(fields) < 3 || len(fields) > 4 {
			return [4]float64{}, false
		}
		c := [4]float64{3: 1}
		for i, f := range fields {
			f, percent := strings.CutSuffix(f, "%")
			f = strings.TrimSuffix(f, "deg")
			v, err := strconv.ParseFloat(f, 64)
			if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
				return [4]float64{}, false
			}
			if percent {
				v /= 100
			} else if i < 3 && name[0] == 'r' {
				v /= 255
			}
			if c[i] = math.Max(0, math.Min(1, v)); i == 0 && name[0] == 'h' {
				c[0] = v
			}
		}
		if name[0] == 'h' {
			copy(c[:3], hsl(c[0], c[1], c[2]))
		}
		return c, true
	}
	if c, ok := colornames.Map[lower]; ok {
		return [4]float64{float64(c.R) / 255, float64(c.G) / 255, float64(c.B) / 255, 1}, true
	}
	return [4]float64{}, false
}

// hsl returns red, green and blue of a hue in degrees, a saturation and a lightness (CSS Color 3, 4.2.4).
func hsl(h, s, l float64) []float64 {
	m2 := l + s - l*s
	if l <= 0.5 {
		m2 = l * (s + 1)
	}
	m1 := 2*l - m2
	part := func(h float64) float64 {
		h -= math.Floor(h)
		switch {
		case h*6 < 1:
			return m1 + (m2-m1)*h*6
		case h*2 < 1:
			return m2
		case h*3 < 2:
			return m1 + (m2-m1)*(2.0/3-h)*6
		}
		return m1
	}
	return []float64{part(h/360 + 1.0/3), part(h / 360), part(h/360 - 1.0/3)}
}

// paint reads what an area is painted with, or false for nothing. Box is that of the shape, in its own units.
func (r *reader) paint(text string, s *state, opacity float64, box bounds) (Paint, bool) {
	text = strings.TrimSpace(text)
	if text == "" || text == "none" {
		return Paint{}, false
	}
	if in, ok := strings.CutPrefix(text, "url("); ok {
		href, rest, _ := strings.Cut(in, ")")
		n := r.refer(strings.Trim(href, `"' `))
		rest = strings.TrimSpace(rest)
		if n != nil && (n.name == "linearGradient" || n.name == "radialGradient") {
			return r.gradient(n, s, opacity, box)
		}
		if n != nil {
			r.left.Add("patterns as paint")
			if rest == "" {
				rest = "#808080"
			}
		}
		if rest == "" {
			rest = "none"
		}
		return r.paint(rest, s, opacity, box)
	}
	c, ok := colour(text, s.color)
	if !ok {
		r.left.Add("the paint " + text)
		return Paint{}, false
	}
	p := Paint{Color: nrgba(c, opacity)}
	return p, p.Color.A > 0
}

// gradient reads one. What it does not say, the one says that it refers to (SVG 1.1, 13.2).
func (r *reader) gradient(n *node, s *state, opacity float64, box bounds) (Paint, bool) {
	chain := []*node{n}
	for up := r.refer(n.attrs["href"]); up != nil && len(chain) < 16; up = r.refer(up.attrs["href"]) {
		chain = append(chain, up)
	}
	said := func(key, other string, like bool) string {
		for _, c := range chain {
			if v, ok := c.attrs[key]; ok && (!like || c.name == n.name) {
				return v
			}
		}
		return other
	}
	g := &Gradient{radial: n.name == "radialGradient", spread: said("spreadMethod", "pad", false), opacity: opacity}
	for _, c := range chain {
		for _, k := range c.children {
			if k.name == "stop" {
				g.stops = append(g.stops, r.stop(k))
			}
		}
		if len(g.stops) > 0 {
			break
		}
	}
	if len(g.stops) == 0 { // paints nothing (SVG 1.1, 13.2.4)
		return Paint{}, false
	}
	for i := range g.stops {
		if i > 0 {
			g.stops[i].at = math.Max(g.stops[i].at, g.stops[i-1].at)
		}
	}
	last := nrgba(g.stops[len(g.stops)-1].color, opacity)
	flat := Paint{Color: last}
	m, err := transform(said("gradientTransform", "", false))
	if err != nil {
		r.left.Add(err.Error())
		return Paint{}, false
	}
	view := s.view
	if said("gradientUnits", "objectBoundingBox", false) != "userSpaceOnUse" {
		w, h := box.hi[0]-box.lo[0], box.hi[1]-box.lo[1]
		if !(w > 0 && h > 0) {
			return Paint{}, false
		}
		m = outline.Affine{w, 0, 0, h, box.lo[0], box.lo[1]}.Mul(m)
		view = viewport{w: 1, h: 1}
	}
	back, ok := s.view.place.Mul(m).Inverse()
	if !ok {
		return flat, last.A > 0
	}
	g.back = back
	if g.radial {
		g.b = geom.Vec2{view.across(said("cx", "50%", true)), view.down(said("cy", "50%", true))}
		g.r = view.along(said("r", "50%", true))
		g.a = g.b
		if v := said("fx", "", true); v != "" {
			g.a[0] = view.across(v)
		}
		if v := said("fy", "", true); v != "" {
			g.a[1] = view.down(v)
		}
		if !(g.r > 0) {
			return flat, last.A > 0
		}
		g.focus = math.Max(0, math.Min(0.999*g.r, view.along(said("fr", "0", true))))
		if d := g.a.Sub(g.b); d.Len() > 0.999*(g.r-g.focus) { // a focus outside is brought to the edge
			k := 0.999 * (g.r - g.focus) / d.Len()
			g.a = geom.Vec2{g.b[0] + d[0]*k, g.b[1] + d[1]*k}
		}
	} else {
		g.a = geom.Vec2{view.across(said("x1", "0%", true)), view.down(said("y1", "0%", true))}
		g.b = geom.Vec2{view.across(said("x2", "100%", true)), view.down(said("y2", "0%", true))}
		if g.a == g.b {
			return flat, last.A > 0
		}
	}
	seen := false
	for _, c := range g.stops {
		seen = seen || c.color[3]*opacity > 0
	}
	return Paint{last, g}, seen && opacity > 0
}

func (r *reader) stop(n *node) stop {
	set := r.declared(n)
	c := [4]float64{3: 1}
	if v := set["stop-color"]; v != "" {
		current := [4]float64{3: 1}
		for up := n; up != nil; up = up.up {
			if v := r.declared(up)["color"]; v != "" && v != "inherit" {
				current, _ = colour(v, current)
				break
			}
		}
		if k, ok := colour(v, current); ok {
			c = k
		}
	}
	c[3] *= share(set["stop-opacity"], 1)
	return stop{share(n.attrs["offset"], 0), c}
}

// share reads a number or a percentage from 0 to 1.
func share(s string, other float64) float64 {
	s, percent := strings.CutSuffix(strings.TrimSpace(s), "%")
	v, err := strconv.ParseFloat(s, 64)
	if err != nil || math.IsNaN(v) {
		return other
	}
	if percent {
		v /= 100
	}
	return math.Max(0, math.Min(1, v))
}
