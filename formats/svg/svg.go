// Package svg reads drawings (W3C Scalable Vector Graphics 1.1, second edition, with what of version 2 programs write) as
// painted areas: shapes, paths, strokes with dashes and markers, groups, symbols and drawings within drawings, style
// sheets, clip paths and masks, colours and gradients. What is painted later covers what is below it. What is not taken is
// named.
package svg

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"perigyre/core/geom"
	"perigyre/core/model"
	"perigyre/core/outline"
	"perigyre/core/planar"
)

// Area is one painted area, in millimetres of the page with y upwards.
type Area struct {
	Name  string
	Paint Paint
	Shape outline.Area
	// Hides is the number of the first area that this one hides where it lies over it: 0 for all below, its own for none.
	Hides int
}

// Drawing is what a file paints, from the back to the front.
type Drawing struct {
	Areas   []Area
	LeftOut []string
}

// state is what elements inherit.
type state struct {
	view       viewport
	set        map[string]string // inherited properties
	color      [4]float64
	opacity    float64 // of all groups round it
	group      int     // the first area of the innermost group that is seen through
	hidden     bool
	name       string
	cutting    bool // of a clip path, where shapes count and paint does not
	fromMarker bool // within a marker, whose shapes have none
}

// inherited are the properties that go down to what is in an element, with what they are at first.
var inherited = map[string]string{
	"fill": "black", "stroke": "none", "fill-rule": "nonzero", "clip-rule": "nonzero", "stroke-width": "1", "stroke-linecap": "butt",
	"stroke-linejoin": "miter", "stroke-miterlimit": "4", "stroke-dasharray": "none", "stroke-dashoffset": "0", "fill-opacity": "1",
	"stroke-opacity": "1", "marker-start": "none", "marker-mid": "none", "marker-end": "none", "paint-order": "normal", "visibility": "visible",
	"vector-effect": "none", // it is not inherited by the standard; on a group nothing else could be meant
}

type reader struct {
	*Document
	left      *model.LeftOut
	ctx       context.Context
	tolerance float64 // of curves, millimetres
	areas     []Area
	steps     int
	points    int
	clips     map[clipKey]outline.Region
	using     []*node // elements that are being used, clip or mask
}

// Draw works the drawing's areas out, curves true to a tolerance in millimetres. Errors are sentences, or that of the
// context where it ends first.
func (d *Document) Draw(ctx context.Context, tolerance float64) (*Drawing, error) {
	r := &reader{Document: d, left: d.left.Clone(), ctx: ctx, tolerance: tolerance, clips: map[clipKey]outline.Region{}}
	first := &state{view: d.view, set: inherited, color: [4]float64{3: 1}, opacity: 1}
	if err := r.draw(d.root, first, 0); err != nil {
		return nil, err
	}
	if len(r.areas) == 0 {
		return nil, errors.New("it paints nothing that can be made solid")
	}
	return &Drawing{r.areas, r.left.Names()}, nil
}

var errTooMuch = errors.New("it uses its own elements too often")

// restyle returns the state within an element.
func (r *reader) restyle(n *node, s *state) (*state, declared) {
	set := r.declared(n)
	out := *s
	if v := set["color"]; v != "" && v != "inherit" {
		if c, ok := colour(v, s.color); ok {
			out.color = c
		}
	}
	changed := false
	take := func(k, v string) {
		if v == "inherit" {
			return
		}
		if v == "initial" {
			v = inherited[k]
		}
		if !changed {
			m := make(map[string]string, len(out.set))
			for k, v := range out.set {
				m[k] = v
			}
			out.set, changed = m, true
		}
		out.set[k] = v
	}
	if v, ok := set["marker"]; ok {
		take("marker-start", v)
		take("marker-mid", v)
		take("marker-end", v)
	}
	for k, v := range set {
		if _, ok := inherited[k]; ok {
			take(k, v)
		}
		if none, ok := unknown[k]; ok && !slices.Contains(none, strings.TrimSpace(v)) && v != "" {
			r.left.Add("the property " + k)
		}
	}
	out.hidden = s.hidden || set["display"] == "none"
	if label := n.attrs["label"]; label != "" {
		out.name = label
	} else if id := n.attrs["id"]; id != "" {
		out.name = id
	}
	m, err := transform(n.attrs["transform"])
	if v, ok := set["transform"]; ok && n.attrs["transform"] == "" {
		if m, err = transform(strings.NewReplacer("px", "", "deg", "").Replace(v)); err != nil {
			err = errors.New("transforms of style sheets")
		}
	}
	if err != nil { // what cannot be placed is not drawn
		r.left.Add(err.Error())
		out.hidden = true
	}
	out.view.place = s.view.place.Mul(m)
	return &out, set
}

// draw draws an element in a state.
func (r *reader) draw(n *node, s *state, depth int) error {
	if r.steps++; r.steps > maxSteps {
		return errTooMuch
	}
	if depth > deepest {
		return errors.New("its elements lie or use each other too deep")
	}
	if r.steps%64 == 0 && r.ctx.Err() != nil {
		return r.ctx.Err()
	}
	if r.sheet.tries > maxTries {
		return errors.New("its style sheets have too many rules for so many elements; write the styles on the elements when it is exported")
	}
	switch n.name {
	case "defs", "clipPath", "mask", "marker", "linearGradient", "radialGradient", "pattern", "style", "title", "desc", "metadata", "stop", "filter":
		return nil
	case "symbol":
		return nil // drawn where it is used
	}
	s, set := r.restyle(n, s)
	if s.hidden {
		return nil
	}
	if !s.view.place.Finite() || s.view.place.Det() == 0 {
		return nil
	}
	opacity := share(set["opacity"], 1)
	if s.cutting {
		opacity = 1
	}
	if opacity == 0 {
		return nil
	}
	from := len(r.areas)
	if opacity < 1 {
		s.opacity *= opacity
		s.group = from
	}
	if err := r.inside(n, s, depth); err != nil {
		return err
	}
	return r.cut(n, set, s, from)
}

// inside draws what an element is or holds.
func (r *reader) inside(n *node, s *state, depth int) error {
	v := s.view
	switch n.name {
	case "g", "a":
		return r.children(n, s, depth)
	case "switch":
		for _, c := range n.children {
			if c.attrs["requiredExtensions"] == "" && (c.attrs["systemLanguage"] == "" || strings.Contains(c.attrs["systemLanguage"], "en")) && c.name != "foreignObject" {
				return r.draw(c, s, depth+1)
			}
		}
		return nil
	case "svg":
		if n == r.root {
			return r.children(n, s, depth)
		}
		w, h := v.w, v.h
		if a := n.attrs["width"]; a != "" {
			w = v.across(a)
		}
		if a := n.attrs["height"]; a != "" {
			h = v.down(a)
		}
		return r.frame(n, s, v.across(n.attrs["x"]), v.down(n.attrs["y"]), w, h, depth)
	case "use":
		return r.use(n, s, depth)
	case "image", "foreignObject":
		r.left.Add(n.name)
		return nil
	case "text", "tspan", "textPath", "tref", "altGlyph":
		r.left.Add(n.name + " (turn text into outlines before it is exported)")
		return nil
	case "animate", "animateTransform", "animateMotion", "animateColor", "set", "script", "cursor", "view", "font", "font-face", "color-profile":
		r.left.Add(n.name)
		return nil
	}
	p, known, err := r.shape(n, v)
	if err != nil {
		r.left.Add(err.Error())
	}
	if !known {
		r.left.Add("the element " + n.name)
		return nil
	}
	return r.paintPath(p, n, s, depth)
}

func (r *reader) children(n *node, s *state, depth int) error {
	for _, c := range n.children {
		if err := r.draw(c, s, depth+1); err != nil {
			return err
		}
	}
	return nil
}

// frame draws what an element with a view box of its own holds, cut off at its edge unless it says otherwise.
func (r *reader) frame(n *node, s *state, x, y, w, h float64, depth int) error {
	if !(w > 0 && h > 0) {
		return nil
	}
	in := *s
	from := len(r.areas)
	in.view = within(s.view, x, y, w, h, n)
	if !in.view.place.Finite() || in.view.place.Det() == 0 {
		return nil
	}
	if err := r.children(n, &in, depth); err != nil {
		return err
	}
	if o := r.declared(n)["overflow"]; o == "visible" || o == "auto" {
		return nil
	}
	return r.cutTo(from, outline.Fill(rectangle(x, y, w, h).Transform(s.view.place), planar.NonZero, r.tolerance))
}

// use draws an element once more. One that uses itself is not drawn (SVG 1.1, 5.6).
func (r *reader) use(n *node, s *state, depth int) error {
	to := r.refer(n.attrs["href"])
	if to == nil {
		r.left.Add("use of an element that is not in the file")
		return nil
	}
	if slices.Contains(r.using, to) {
		r.left.Add("an element that uses itself")
		return nil
	}
	for up := n; up != nil; up = up.up {
		if up == to {
			r.left.Add("an element that uses itself")
			return nil
		}
	}
	r.using = append(r.using, to)
	defer func() { r.using = r.using[:len(r.using)-1] }()
	in := *s
	v := s.view
	in.view.place = v.place.Mul(outline.Moved(v.across(n.attrs["x"]), v.down(n.attrs["y"])))
	if to.name != "symbol" && (to.name != "svg" || to == r.root) {
		return r.draw(to, &in, depth+1)
	}
	inner, set := r.restyle(to, &in)
	if inner.hidden {
		return nil
	}
	size := func(key string, whole float64, read func(string) float64) float64 {
		if a := n.attrs[key]; a != "" && a != "auto" {
			return read(a)
		}
		if a := to.attrs[key]; a != "" && to.name == "svg" {
			return read(a)
		}
		return whole
	}
	if k := share(set["opacity"], 1); k < 1 {
		inner.opacity *= k
		inner.group = len(r.areas)
	}
	from := len(r.areas)
	if err := r.frame(to, inner, v.across(to.attrs["x"]), v.down(to.attrs["y"]), size("width", v.w, v.across), size("height", v.h, v.down), depth+1); err != nil {
		return err
	}
	return r.cut(to, set, inner, from)
}

// shape returns the path of a basic shape (SVG 1.1, 9), and whether the element is one. Path data that break off are drawn
// up to there, with an error that says so.
func (r *reader) shape(n *node, v viewport) (outline.Path, bool, error) {
	x := func(key string) float64 { return v.across(n.attrs[key]) }
	y := func(key string) float64 { return v.down(n.attrs[key]) }
	switch n.name {
	case "path":
		p, err := outline.Parse(n.attrs["d"])
		if err != nil {
			err = errors.New("a path from where its data cannot be read")
		}
		return p, true, err
	case "rect":
		return rect(n, v), true, nil
	case "circle":
		rad := v.along(n.attrs["r"])
		if !(rad > 0) {
			return nil, true, nil
		}
		return outline.Ellipse(x("cx"), y("cy"), rad, rad), true, nil
	case "ellipse":
		rx, ry := x("rx"), y("ry")
		if a := strings.TrimSpace(n.attrs["rx"]); a == "" || a == "auto" {
			rx = ry
		}
		if a := strings.TrimSpace(n.attrs["ry"]); a == "" || a == "auto" {
			ry = rx
		}
		if !(rx > 0 && ry > 0) {
			return nil, true, nil
		}
		return outline.Ellipse(x("cx"), y("cy"), rx, ry), true, nil
	case "line":
		var p outline.Path
		p.MoveTo(geom.Vec2{x("x1"), y("y1")})
		p.LineTo(geom.Vec2{x("x2"), y("y2")})
		return p, true, nil
	case "polyline", "polygon":
		var p outline.Path
		points := numbers(n.attrs["points"])
		for i := 0; i+1 < len(points); i += 2 {
			if q := (geom.Vec2{points[i], points[i+1]}); i == 0 {
				p.MoveTo(q)
			} else {
				p.LineTo(q)
			}
		}
		if n.name == "polygon" {
			p.Close()
		}
		return p, true, nil
	}
	return nil, false, nil
}

func rect(n *node, v viewport) outline.Path {
	x, y, w, h := v.across(n.attrs["x"]), v.down(n.attrs["y"]), v.across(n.attrs["width"]), v.down(n.attrs["height"])
	if !(w > 0 && h > 0) {
		return nil
	}
	rx, okX := length(n.attrs["rx"], v.w)
	ry, okY := length(n.attrs["ry"], v.h)
	okX, okY = okX && rx >= 0, okY && ry >= 0
	switch {
	case !okX && !okY:
		rx, ry = 0, 0
	case !okX:
		rx = ry
	case !okY:
		ry = rx
	}
	rx, ry = math.Min(rx, w/2), math.Min(ry, h/2)
	if rx == 0 || ry == 0 {
		return rectangle(x, y, w, h)
	}
	var p outline.Path
	p.MoveTo(geom.Vec2{x + rx, y})
	for _, c := range [4][2]geom.Vec2{
		{{x + w - rx, y}, {x + w, y + ry}}, {{x + w, y + h - ry}, {x + w - rx, y + h}},
		{{x + rx, y + h}, {x, y + h - ry}}, {{x, y + ry}, {x + rx, y}},
	} {
		p.LineTo(c[0])
		p.ArcTo(rx, ry, 0, false, true, c[1])
	}
	p.Close()
	return p
}

// bounds is a box.
type bounds struct{ lo, hi geom.Vec2 }

// paintPath adds the fill, the stroke and the markers of a path.
func (r *reader) paintPath(p outline.Path, n *node, s *state, depth int) error {
	if v := s.set["visibility"]; len(p) == 0 || v == "hidden" || v == "collapse" {
		return nil
	}
	lo, hi, ok := p.Bounds()
	a, b := s.view.place.Point(lo), s.view.place.Point(hi)
	if far := 1e4 * math.Max(r.Size[0], r.Size[1]); !ok || !(math.Abs(a[0])+math.Abs(a[1])+math.Abs(b[0])+math.Abs(b[1]) < far) {
		r.left.Add("a shape that reaches too far beyond the page")
		return nil
	}
	box := bounds{lo, hi}
	if s.cutting {
		return r.add(Area{Shape: r.fill(p, s, s.set["clip-rule"])})
	}
	parts := map[string]func() error{
		"fill": func() error {
			if n.name == "line" {
				return nil
			}
			if c, ok := r.paint(s.set["fill"], s, s.opacity*share(s.set["fill-opacity"], 1), box); ok {
				return r.addPainted(s, s.name, c, share(s.set["fill-opacity"], 1), r.fill(p, s, s.set["fill-rule"]))
			}
			return nil
		},
		"stroke": func() error {
			c, ok := r.paint(s.set["stroke"], s, s.opacity*share(s.set["stroke-opacity"], 1), box)
			if !ok {
				return nil
			}
			name := s.name
			if name != "" {
				name += " line"
			}
			drawn, err := r.stroke(p, s)
			if err != nil {
				return err
			}
			return r.addPainted(s, name, c, share(s.set["stroke-opacity"], 1), drawn)
		},
		"markers": func() error { return r.markers(p, n, s, depth) },
	}
	order := append(strings.Fields(s.set["paint-order"]), "fill", "stroke", "markers")
	for _, k := range order {
		if do := parts[k]; do != nil {
			delete(parts, k)
			if err := do(); err != nil {
				return err
			}
		}
	}
	return nil
}

func (r *reader) fill(p outline.Path, s *state, rule string) outline.Area {
	k := planar.NonZero
	if rule == "evenodd" {
		k = planar.EvenOdd
	}
	return outline.Fill(p.Transform(s.view.place), k, r.tolerance)
}

// stroke returns what the pen draws. It is drawn in the shape's own units, which the page may stretch.
func (r *reader) stroke(p outline.Path, s *state) (outline.Area, error) {
	place := s.view.place
	pen := outline.Pen{
		Width: s.view.along(s.set["stroke-width"]), Cap: outline.Cap(s.set["stroke-linecap"]), Join: outline.Join(s.set["stroke-linejoin"]),
		MiterLimit: 4, Offset: s.view.along(s.set["stroke-dashoffset"]),
	}
	if v, err := strconv.ParseFloat(s.set["stroke-miterlimit"], 64); err == nil && v >= 1 {
		pen.MiterLimit = v
	}
	if d := s.set["stroke-dasharray"]; d != "none" {
		for _, f := range strings.FieldsFunc(d, func(c rune) bool { return strings.ContainsRune(", \t\r\n", c) }) {
			v, ok := length(f, s.view.diagonal())
			if !ok || v < 0 {
				pen.Dashes = nil
				break
			}
			pen.Dashes = append(pen.Dashes, v)
		}
	}
	if strings.Contains(s.set["vector-effect"], "non-scaling-stroke") {
		p, place = p.Transform(place), outline.Same
		pen.Width, pen.Offset = pen.Width*pixel, pen.Offset*pixel
		for i := range pen.Dashes {
			pen.Dashes[i] *= pixel
		}
	}
	if far := 10 * math.Max(s.view.w, s.view.h); pen.Width > far {
		pen.Width = far
	}
	tolerance := r.tolerance / place.Stretch()
	area, err := outline.Stroke(r.ctx, p.Flatten(tolerance), pen, tolerance)
	return area.Transform(place), err
}

// addPainted adds an area of an element: what it hides depends on whether it, and the groups round it, are seen through.
func (r *reader) addPainted(s *state, name string, c Paint, own float64, shape outline.Area) error {
	a := Area{Name: name, Paint: c, Shape: shape, Hides: len(r.areas)}
	opaque := c
	if own == 1 && s.opacity > 0 {
		if opaque.Gradient != nil {
			g := *opaque.Gradient
			g.opacity = 1
			opaque.Gradient = &g
		} else if s.opacity < 1 && math.Abs(float64(c.Color.A)-255*s.opacity) <= 0.5 {
			opaque.Color.A = 255
		}
		if opaque.Opaque() {
			a.Hides = s.group
		}
	}
	return r.add(a)
}

func (r *reader) add(a Area) error {
	if len(a.Shape.Lines) == 0 {
		return nil
	}
	if len(r.areas) >= maxAreas {
		return fmt.Errorf("it paints more than %d areas", maxAreas)
	}
	for _, l := range a.Shape.Lines {
		r.points += len(l)
	}
	if r.points > maxPoints {
		return fmt.Errorf("its lines have more than %d points; simplify it before it is exported", maxPoints)
	}
	r.areas = append(r.areas, a)
	return nil
}
