// Package svg reads drawings (W3C Scalable Vector Graphics 1.1) as filled areas: shapes, paths, groups,
// transforms, fills and strokes. What is painted later covers what is below it.
package svg

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"image/color"
	"io"
	"math"
	"strconv"
	"strings"

	"github.com/tdewolff/canvas"
	"golang.org/x/image/colornames"
)

// Area is one painted area, in millimetres with y upwards.
type Area struct {
	Name    string
	Color   color.NRGBA
	Path    *canvas.Path
	EvenOdd bool
}

// Drawing is what a file paints, from the back to the front.
type Drawing struct {
	Areas   []Area
	Size    [2]float64 // of the view box, in millimetres
	LeftOut []string
}

// limits of a drawing.
const (
	deepest     = 200
	maxAreas    = 5000
	maxBytes    = 32 << 20
	maxSteps    = 100_000 // elements drawn, with those that are used again
	maxSegments = 50_000  // of one path
)

// node is an element with what is in it.
type node struct {
	name     string
	attrs    map[string]string
	children []*node
	text     string
}

// style is what elements inherit.
type style struct {
	fill, stroke string
	fillRule     string
	opacity      float64
	width        float64
	cap, join    string
	miter        float64
	color        string
	hidden       bool
	name         string
	transform    canvas.Matrix
}

type reader struct {
	ids    map[string]*node
	rules  map[string]map[string]string // of style sheets: "name", ".class" or "#id"
	out    *Drawing
	left   map[string]bool
	steps  int
	extent float64 // of the view box, in user units
}

// Read decodes an SVG.
func Read(data []byte) (d *Drawing, err error) {
	if len(data) > maxBytes {
		return nil, fmt.Errorf("a drawing of %d MB is more than the %d that are read", len(data)>>20, maxBytes>>20)
	}
	root, err := parse(data)
	if err != nil {
		return nil, err
	}
	if root == nil || root.name != "svg" {
		return nil, errors.New("it is no SVG drawing")
	}
	r := &reader{ids: map[string]*node{}, rules: map[string]map[string]string{}, out: &Drawing{}, left: map[string]bool{}}
	r.index(root)
	defer func() { // paths that the path library cannot take
		if p := recover(); p != nil {
			d, err = nil, fmt.Errorf("a path of the drawing cannot be read (%v)", p)
		}
	}()
	view, err := r.view(root)
	if err != nil {
		return nil, err
	}
	first := style{fill: "black", stroke: "none", fillRule: "nonzero", opacity: 1, width: 1, cap: "butt", join: "miter", miter: 4, color: "black", transform: view}
	if err := r.draw(root, first, 0); err != nil {
		return nil, err
	}
	if len(r.out.Areas) == 0 {
		return nil, errors.New("it paints nothing that can be made solid")
	}
	return r.out, nil
}

func parse(data []byte) (*node, error) {
	dec := xml.NewDecoder(bytes.NewReader(data))
	dec.Strict = false
	dec.Entity = xml.HTMLEntity
	dec.CharsetReader = func(_ string, in io.Reader) (io.Reader, error) { return in, nil }
	var root *node
	var stack []*node
	for {
		tok, err := dec.Token()
		if errors.Is(err, io.EOF) {
			return root, nil
		}
		if err != nil {
			line, _ := dec.InputPos()
			return nil, fmt.Errorf("line %d: %w", line, err)
		}
		switch t := tok.(type) {
		case xml.StartElement:
			n := &node{name: t.Name.Local, attrs: map[string]string{}}
			for _, a := range t.Attr {
				n.attrs[a.Name.Local] = a.Value
			}
			if len(stack) > 0 {
				up := stack[len(stack)-1]
				up.children = append(up.children, n)
			} else if root == nil {
				root = n
			}
			if stack = append(stack, n); len(stack) > deepest {
				return nil, fmt.Errorf("its groups lie more than %d deep", deepest)
			}
		case xml.EndElement:
			if len(stack) > 0 {
				stack = stack[:len(stack)-1]
			}
		case xml.CharData:
			if len(stack) > 0 {
				stack[len(stack)-1].text += string(t)
			}
		}
	}
}

// index notes ids and the rules of style sheets.
func (r *reader) index(n *node) {
	if id := n.attrs["id"]; id != "" && r.ids[id] == nil {
		r.ids[id] = n
	}
	if n.name == "style" {
		text := n.text
		for {
			head, rest, ok := strings.Cut(text, "{")
			if !ok {
				break
			}
			body, tail, _ := strings.Cut(rest, "}")
			for _, s := range strings.Split(head, ",") {
				s = strings.TrimSpace(s)
				if r.rules[s] == nil {
					r.rules[s] = map[string]string{}
				}
				declarations(body, r.rules[s])
			}
			text = tail
		}
	}
	for _, c := range n.children {
		r.index(c)
	}
}

func declarations(text string, into map[string]string) {
	for _, d := range strings.Split(text, ";") {
		if k, v, ok := strings.Cut(d, ":"); ok {
			into[strings.TrimSpace(k)] = strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(v), "!important"))
		}
	}
}

// millimetres of each unit (CSS Values 3: 96 px to the inch).
var units = map[string]float64{"": 25.4 / 96, "px": 25.4 / 96, "mm": 1, "cm": 10, "in": 25.4, "pt": 25.4 / 72, "pc": 25.4 / 6, "q": 0.25, "em": 16 * 25.4 / 96}

// length reads a length as millimetres of the page; a percentage is of whole.
func length(s string, whole float64) (float64, bool) {
	s = strings.TrimSpace(s)
	at := len(s)
	for at > 0 && (s[at-1] >= 'a' && s[at-1] <= 'z' || s[at-1] >= 'A' && s[at-1] <= 'Z' || s[at-1] == '%') {
		at--
	}
	v, err := strconv.ParseFloat(strings.TrimSpace(s[:at]), 64)
	if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
		return 0, false
	}
	if s[at:] == "%" {
		return v / 100 * whole, true
	}
	k, ok := units[strings.ToLower(s[at:])]
	return v * k, ok
}

// user reads a length in user units.
func user(s string, whole float64) float64 {
	v, ok := length(s, whole*units["px"])
	if !ok {
		return 0
	}
	return v / units["px"]
}

// view returns the matrix from user units to millimetres with y upwards.
func (r *reader) view(root *node) (canvas.Matrix, error) {
	box := numbers(root.attrs["viewBox"])
	w, okW := length(root.attrs["width"], 100)
	h, okH := length(root.attrs["height"], 100)
	if strings.HasSuffix(root.attrs["width"], "%") {
		okW = false
	}
	if strings.HasSuffix(root.attrs["height"], "%") {
		okH = false
	}
	if len(box) != 4 || !(box[2] > 0 && box[3] > 0) {
		if !okW {
			w = 300 * units["px"]
		}
		if !okH {
			h = 150 * units["px"]
		}
		box = []float64{0, 0, w / units["px"], h / units["px"]}
	}
	if !okW && !okH {
		w, h = box[2]*units["px"], box[3]*units["px"]
	} else if !okW {
		w = h * box[2] / box[3]
	} else if !okH {
		h = w * box[3] / box[2]
	}
	k := math.Min(w/box[2], h/box[3]) // preserveAspectRatio, meet
	if !(k > 0) || math.IsInf(k, 0) {
		return canvas.Identity, errors.New("its view box or its size is nothing")
	}
	r.extent = math.Max(box[2], box[3])
	r.out.Size = [2]float64{box[2] * k, box[3] * k}
	return canvas.Identity.Scale(k, -k).Translate(-box[0], -(box[1] + box[3])), nil
}

func numbers(s string) []float64 {
	var out []float64
	for _, f := range strings.FieldsFunc(s, func(c rune) bool { return c == ',' || c == ' ' || c == '\n' || c == '\t' || c == '\r' }) {
		v, err := strconv.ParseFloat(f, 64)
		if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
			return nil
		}
		out = append(out, v)
	}
	return out
}

// transform reads a list of transforms.
func transform(s string) (canvas.Matrix, error) {
	m := canvas.Identity
	for strings.TrimSpace(s) != "" {
		head, rest, ok := strings.Cut(s, "(")
		args, tail, ok2 := strings.Cut(rest, ")")
		if !ok || !ok2 {
			return m, fmt.Errorf("the transform %.40q cannot be read", s)
		}
		v := numbers(args)
		switch name := strings.Trim(head, " ,\n\t\r"); {
		case name == "matrix" && len(v) == 6:
			m = m.Mul(canvas.Matrix{{v[0], v[2], v[4]}, {v[1], v[3], v[5]}})
		case name == "translate" && len(v) == 1:
			m = m.Translate(v[0], 0)
		case name == "translate" && len(v) == 2:
			m = m.Translate(v[0], v[1])
		case name == "scale" && len(v) == 1:
			m = m.Scale(v[0], v[0])
		case name == "scale" && len(v) == 2:
			m = m.Scale(v[0], v[1])
		case name == "rotate" && len(v) == 1:
			m = m.Rotate(v[0])
		case name == "rotate" && len(v) == 3:
			m = m.Translate(v[1], v[2]).Rotate(v[0]).Translate(-v[1], -v[2])
		case name == "skewX" && len(v) == 1:
			m = m.Mul(canvas.Matrix{{1, math.Tan(v[0] * math.Pi / 180), 0}, {0, 1, 0}})
		case name == "skewY" && len(v) == 1:
			m = m.Mul(canvas.Matrix{{1, 0, 0}, {math.Tan(v[0] * math.Pi / 180), 1, 0}})
		default:
			return m, fmt.Errorf("the transform %.40q cannot be read", s)
		}
		s = tail
	}
	return m, nil
}

// restyle returns the style of an element in one of a style: attributes, then sheets, then its own
// style attribute.
func (r *reader) restyle(n *node, s style) (style, error) {
	d := map[string]string{}
	for _, k := range []string{"fill", "stroke", "fill-rule", "stroke-width", "stroke-linecap", "stroke-linejoin", "stroke-miterlimit", "color", "display", "visibility", "opacity", "fill-opacity"} {
		if v, ok := n.attrs[k]; ok {
			d[k] = v
		}
	}
	sheets := []string{"*", n.name}
	for _, c := range strings.Fields(n.attrs["class"]) {
		sheets = append(sheets, "."+c, n.name+"."+c)
	}
	for _, key := range append(sheets, "#"+n.attrs["id"]) {
		for k, v := range r.rules[key] {
			d[k] = v
		}
	}
	declarations(n.attrs["style"], d)
	set := func(key string, to *string) {
		if v, ok := d[key]; ok && v != "inherit" {
			*to = v
		}
	}
	set("fill", &s.fill)
	set("stroke", &s.stroke)
	set("fill-rule", &s.fillRule)
	set("stroke-linecap", &s.cap)
	set("stroke-linejoin", &s.join)
	set("color", &s.color)
	if v, ok := d["stroke-width"]; ok {
		s.width = user(v, 100)
	}
	if v, err := strconv.ParseFloat(d["stroke-miterlimit"], 64); err == nil && v >= 1 {
		s.miter = v
	}
	for _, k := range []string{"opacity", "fill-opacity"} {
		if v, err := strconv.ParseFloat(d[k], 64); err == nil {
			s.opacity *= math.Max(0, math.Min(1, v))
		}
	}
	s.hidden = s.hidden || d["display"] == "none"
	if v, ok := d["visibility"]; ok {
		s.hidden = s.hidden || v == "hidden" || v == "collapse"
	}
	if id := n.attrs["label"]; id != "" {
		s.name = id
	} else if id := n.attrs["id"]; id != "" {
		s.name = id
	}
	m, err := transform(n.attrs["transform"])
	s.transform = s.transform.Mul(m)
	return s, err
}

func (r *reader) leaveOut(what string) {
	if !r.left[what] && len(r.left) < 50 {
		r.left[what] = true
		r.out.LeftOut = append(r.out.LeftOut, what)
	}
}

func (r *reader) draw(n *node, s style, depth int) error {
	if r.steps++; r.steps > maxSteps || depth > deepest {
		return errors.New("it uses its own elements too often or too deep")
	}
	s, err := r.restyle(n, s)
	if err != nil || s.hidden {
		return err
	}
	num := func(key string) float64 { return user(n.attrs[key], 100) }
	var p *canvas.Path
	switch n.name {
	case "svg", "g", "a", "switch", "symbol":
		for _, c := range n.children {
			if err := r.draw(c, s, depth+1); err != nil {
				return err
			}
		}
		return nil
	case "use":
		to := r.ids[strings.TrimPrefix(n.attrs["href"], "#")]
		if to == nil {
			return fmt.Errorf("it uses %.40q, which is not in it", n.attrs["href"])
		}
		s.transform = s.transform.Translate(num("x"), num("y"))
		return r.draw(to, s, depth+1)
	case "path":
		if p, err = canvas.ParseSVGPath(n.attrs["d"]); err != nil {
			return fmt.Errorf("the path %.40q: %w", n.attrs["id"], err)
		}
	case "rect":
		p = rect(num("x"), num("y"), num("width"), num("height"), n.attrs["rx"], n.attrs["ry"])
	case "circle":
		p = canvas.Circle(num("r")).Translate(num("cx"), num("cy"))
	case "ellipse":
		p = canvas.Ellipse(num("rx"), num("ry")).Translate(num("cx"), num("cy"))
	case "line":
		p = &canvas.Path{}
		p.MoveTo(num("x1"), num("y1"))
		p.LineTo(num("x2"), num("y2"))
		s.fill = "none"
	case "polyline", "polygon":
		p = &canvas.Path{}
		v := numbers(n.attrs["points"])
		for i := 0; i+1 < len(v); i += 2 {
			if i == 0 {
				p.MoveTo(v[0], v[1])
			} else {
				p.LineTo(v[i], v[i+1])
			}
		}
		if n.name == "polygon" && len(v) >= 4 {
			p.Close()
		}
	case "text", "image", "foreignObject":
		r.leaveOut(n.name + " (turn text into outlines before it is exported)")
		return nil
	default:
		return nil
	}
	return r.paint(p, s)
}

func rect(x, y, w, h float64, rxText, ryText string) *canvas.Path {
	rx, ry := user(rxText, w), user(ryText, h)
	if rxText == "" {
		rx = ry
	}
	if ryText == "" {
		ry = rx
	}
	rx, ry = math.Min(math.Max(0, rx), w/2), math.Min(math.Max(0, ry), h/2)
	p := &canvas.Path{}
	if !(w > 0 && h > 0) {
		return p
	}
	if rx == 0 || ry == 0 {
		return canvas.Rectangle(w, h).Translate(x, y)
	}
	p.MoveTo(x+rx, y)
	p.LineTo(x+w-rx, y)
	p.ArcTo(rx, ry, 0, false, true, x+w, y+ry)
	p.LineTo(x+w, y+h-ry)
	p.ArcTo(rx, ry, 0, false, true, x+w-rx, y+h)
	p.LineTo(x+rx, y+h)
	p.ArcTo(rx, ry, 0, false, true, x, y+h-ry)
	p.LineTo(x, y+ry)
	p.ArcTo(rx, ry, 0, false, true, x+rx, y)
	p.Close()
	return p
}

// paint adds the fill and the stroke of a path.
func (r *reader) paint(p *canvas.Path, s style) error {
	if p == nil || p.Empty() {
		return nil
	}
	// Numbers so large, or curves so many, that they cannot be flattened in reasonable time.
	b, extent := p.Bounds(), r.extent
	if !(math.Abs(b.X0)+math.Abs(b.X1)+math.Abs(b.Y0)+math.Abs(b.Y1) < 1e4*extent) || p.Len() > maxSegments {
		return fmt.Errorf("a shape %.40q reaches too far beyond the drawing, or has more than %d pieces", s.name, maxSegments)
	}
	s.width = math.Min(s.width, 10*extent)
	if c, ok := r.color(s.fill, s); ok {
		closed := &canvas.Path{} // a fill closes what is open
		for _, sub := range p.Split() {
			if !sub.Closed() {
				sub.Close()
			}
			closed = closed.Append(sub)
		}
		if err := r.add(Area{s.name, c, closed.Transform(s.transform), s.fillRule == "evenodd"}); err != nil {
			return err
		}
	}
	if c, ok := r.color(s.stroke, s); ok && s.width > 0 {
		caps := map[string]canvas.Capper{"round": canvas.RoundCap, "square": canvas.SquareCap}
		joins := map[string]canvas.Joiner{"round": canvas.RoundJoin, "bevel": canvas.BevelJoin}
		cap, join := caps[s.cap], joins[s.join]
		if cap == nil {
			cap = canvas.ButtCap
		}
		if join == nil {
			join = canvas.MiterJoiner{GapJoiner: canvas.BevelJoin, Limit: s.miter / 2}
		}
		name := s.name
		if name != "" {
			name += " line"
		}
		line := p.Stroke(s.width, cap, join, math.Max(s.width/200, extent/20_000)).Transform(s.transform)
		return r.add(Area{name, c, line, false})
	}
	return nil
}

func (r *reader) add(a Area) error {
	if len(r.out.Areas) >= maxAreas {
		return fmt.Errorf("it paints more than %d areas", maxAreas)
	}
	r.out.Areas = append(r.out.Areas, a)
	return nil
}

// color reads a paint. Of a gradient its first colour is taken.
func (r *reader) color(text string, s style) (color.NRGBA, bool) {
	text = strings.TrimSpace(text)
	lower := strings.ToLower(text)
	alpha := uint8(math.Round(255 * s.opacity))
	if alpha == 0 {
		return color.NRGBA{}, false
	}
	switch {
	case lower == "none" || lower == "transparent" || lower == "":
		return color.NRGBA{}, false
	case lower == "currentcolor":
		if strings.ToLower(s.color) == "currentcolor" {
			return color.NRGBA{0, 0, 0, alpha}, true
		}
		return r.color(s.color, s)
	case strings.HasPrefix(lower, "url("):
		id := strings.Trim(strings.TrimSuffix(text[4:], ")"), `#"' `)
		r.leaveOut("gradients and patterns (their first colour is taken)")
		for hops := 0; hops < 8; hops++ {
			n := r.ids[id]
			if n == nil {
				break
			}
			for _, c := range n.children {
				if c.name == "stop" {
					d := map[string]string{"stop-color": c.attrs["stop-color"]}
					declarations(c.attrs["style"], d)
					if d["stop-color"] != "" && !strings.HasPrefix(d["stop-color"], "url") {
						return r.color(d["stop-color"], s)
					}
				}
			}
			id = strings.TrimPrefix(n.attrs["href"], "#")
		}
		return color.NRGBA{128, 128, 128, alpha}, true
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
		v, err := strconv.ParseUint(hex, 16, 32)
		if err != nil || len(hex) != 6 && len(hex) != 8 {
			return color.NRGBA{0, 0, 0, alpha}, true
		}
		if len(hex) == 8 {
			alpha, v = uint8(float64(alpha)*float64(v&255)/255), v>>8
		}
		return color.NRGBA{uint8(v >> 16), uint8(v >> 8), uint8(v), alpha}, alpha > 0
	case strings.HasPrefix(lower, "rgb"):
		_, args, _ := strings.Cut(strings.TrimSuffix(lower, ")"), "(")
		var c [4]float64
		c[3] = 1
		for i, f := range strings.FieldsFunc(args, func(r rune) bool { return r == ',' || r == ' ' || r == '/' }) {
			v, err := strconv.ParseFloat(strings.TrimSuffix(f, "%"), 64)
			if err != nil || i > 3 {
				return color.NRGBA{0, 0, 0, alpha}, true
			}
			if strings.HasSuffix(f, "%") {
				v /= 100
			} else if i < 3 {
				v /= 255
			}
			c[i] = math.Max(0, math.Min(1, v))
		}
		to := func(v float64) uint8 { return uint8(math.Round(255 * v)) }
		return color.NRGBA{to(c[0]), to(c[1]), to(c[2]), uint8(float64(alpha) * c[3])}, c[3] > 0
	}
	if c, ok := colornames.Map[lower]; ok {
		return color.NRGBA{c.R, c.G, c.B, alpha}, true
	}
	return color.NRGBA{0, 0, 0, alpha}, true
}
