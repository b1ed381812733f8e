package mesh

import (
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"slices"

	"perigyre/core/geom"
)

// ShapeKind names a shape that is made from measures. What kinds there are, files of this package say, one each.
type ShapeKind string

// Shape is a shape by its measures, in metres and radians. It stands on y = 0 about the upright axis,
// but for a sphere's and torus's lower halves, which do too: the lowest point of every shape is at 0.
type Shape struct {
	Kind   ShapeKind   `json:"kind"`
	Size   geom.Vec3   `json:"size,omitzero"`    // edges of a box, slab, plane or sweep
	Radius float64     `json:"radius,omitempty"` // of what is round; of a torus's ring; of a sweep's bend
	Top    float64     `json:"top,omitempty"`    // radius of a cone's top
	Thick  float64     `json:"thick,omitempty"`  // radius of a torus's and tube's round section
	Height float64     `json:"height,omitempty"` // of what is upright; of a capsule without its ends
	Bevel  float64     `json:"bevel,omitempty"`  // radius of rounded edges
	Gap    float64     `json:"gap,omitempty"`    // of a slotted ring, radians
	Sides  int         `json:"sides,omitempty"`  // segments round; 0 for 96
	Points []geom.Vec3 `json:"points,omitempty"` // a lathe's profile (radius, height, 0), a tube's path
	Gear   *Gear       `json:"gear,omitempty"`
}

const (
	maxSides  = 1024
	maxPoints = 4096
	maxSize   = 1e6 // metres
)

// shapeSpec says all about a kind of shape.
type shapeSpec struct {
	kind     ShapeKind
	find     string // further words that it is found by
	measures []measure
	first    func(s float64) Shape // first measures for a set of about a size in metres
	lacks    func(s *Shape) bool   // whether its measures are not there at all; nil for never
	check    func(s *Shape) error  // what the measures' own bounds do not say; nil for nothing
	build    func(s *Shape, sides int) *Mesh
}

// measure is a number of a shape that can be set: At or Whole says where it is. Whole numbers of 0 stand for their usual.
type measure struct {
	Measure
	at    func(s *Shape) *float64
	whole func(s *Shape) *int
	flag  func(s *Shape) *bool
	then  func(s *Shape) // what has to change with it; nil for nothing
}

// Measure is how a measure is shown and set.
type Measure struct {
	Name  string  `json:"name"`
	Label string  `json:"label"`
	Unit  string  `json:"unit"` // length, angle, count or flag
	Least float64 `json:"least"`
	Most  float64 `json:"most"`
	Usual int     `json:"usual,omitempty"` // what 0 of a count stands for
}

// Description is what the interface draws a kind of shape from.
type Description struct {
	Kind     ShapeKind `json:"kind"`
	Find     string    `json:"find"`
	Measures []Measure `json:"measures"`
	Points   []string  `json:"points,omitempty"` // what the first two numbers of each point are called
}

var shapes = map[ShapeKind]shapeSpec{}

func defineShape(s shapeSpec) ShapeKind {
	shapes[s.kind] = s
	return s.kind
}

const tiny = 1e-9 // metres: the least of what has to be more than 0

// length is a measure of more than 0, and rounding one that may be 0.
func length(name, label string, at func(s *Shape) *float64) measure {
	return measure{Measure: Measure{Name: name, Label: label, Unit: "length", Least: tiny, Most: maxSize}, at: at}
}

func rounding(name, label string, at func(s *Shape) *float64) measure {
	m := length(name, label, at)
	m.Least = 0
	return m
}

var (
	radiusOf = func(s *Shape) *float64 { return &s.Radius }
	heightOf = func(s *Shape) *float64 { return &s.Height }
	thickOf  = func(s *Shape) *float64 { return &s.Thick }
	bevelOf  = rounding("bevel", "Rounded edges", func(s *Shape) *float64 { return &s.Bevel })
	sidesOf  = measure{Measure: Measure{Name: "sides", Label: "Sides", Unit: "count", Least: 3, Most: maxSides, Usual: 96}, whole: func(s *Shape) *int { return &s.Sides }}
	widthOf  = length("width", "Width", func(s *Shape) *float64 { return &s.Size[0] })
	tallOf   = length("tall", "Height", func(s *Shape) *float64 { return &s.Size[1] })
	depthOf  = length("deep", "Depth", func(s *Shape) *float64 { return &s.Size[2] })
)

// two rounds a measure to two digits.
func two(v float64) float64 {
	if !(v > 0) {
		return 0.1
	}
	p := math.Pow(10, math.Floor(math.Log10(v))-1)
	return math.Round(v/p) * p
}

// Shapes returns the descriptions of all kinds, in the order of their names.
func Shapes() []Description {
	out := []Description{}
	for _, kind := range slices.Sorted(maps.Keys(shapes)) {
		s := shapes[kind]
		d := Description{Kind: kind, Find: s.find, Measures: []Measure{}}
		for _, m := range s.measures {
			d.Measures = append(d.Measures, m.Measure)
		}
		d.Points = pointNames[kind]
		out = append(out, d)
	}
	return out
}

// pointNames are of kinds that have points.
var pointNames = map[ShapeKind][]string{}

// FirstShape returns a shape with first measures for a set of about a size in metres.
func FirstShape(kind ShapeKind, size float64) (Shape, error) {
	s, ok := shapes[kind]
	if !ok {
		return Shape{}, fmt.Errorf("there is no shape %q", kind)
	}
	out := s.first(two(size))
	out.Kind = kind
	return out, nil
}

// Set changes a measure by its name, and what has to change with it.
func (s *Shape) Set(name string, v float64) error {
	for _, m := range shapes[s.Kind].measures {
		if m.Name != name {
			continue
		}
		switch {
		case m.at != nil:
			*m.at(s) = v
		case m.flag != nil:
			*m.flag(s) = v != 0
		case v == math.Trunc(v) && math.Abs(v) < 1e9:
			*m.whole(s) = int(v)
		default:
			return fmt.Errorf("the %s of a %s are a whole number", m.Label, s.Kind)
		}
		if m.then != nil {
			m.then(s)
		}
		return nil
	}
	return fmt.Errorf("a %s has no measure %q", s.Kind, name)
}

// Measures returns what can be set of a shape, by name; flags are 0 or 1.
func (s *Shape) Measures() map[string]float64 {
	out := map[string]float64{}
	for _, m := range shapes[s.Kind].measures {
		switch {
		case m.at != nil:
			out[m.Name] = *m.at(s)
		case m.flag != nil:
			out[m.Name] = map[bool]float64{true: 1, false: 0}[*m.flag(s)]
		case *m.whole(s) == 0:
			out[m.Name] = float64(m.Usual)
		default:
			out[m.Name] = float64(*m.whole(s))
		}
	}
	return out
}

// Check returns an error in a sentence for measures that make no shape.
func (s Shape) Check() error {
	spec, ok := shapes[s.Kind]
	if !ok {
		return fmt.Errorf("there is no shape %q", s.Kind)
	}
	if spec.lacks != nil && spec.lacks(&s) {
		return fmt.Errorf("a %s needs its measures", s.Kind)
	}
	for _, v := range []float64{s.Size[0], s.Size[1], s.Size[2], s.Radius, s.Top, s.Thick, s.Height, s.Bevel} {
		if !(v >= 0 && v < maxSize) { // what its kind does not use is bounded too
			return fmt.Errorf("the measures of a %s are 0 to %g m", s.Kind, maxSize)
		}
	}
	for _, m := range spec.measures {
		v := s.Measures()[m.Name]
		if !(v >= m.Least && v <= m.Most) {
			return fmt.Errorf("the %s of a %s is %.4g to %.4g, not %.4g", m.Label, s.Kind, m.Least, m.Most, v)
		}
	}
	if names := pointNames[s.Kind]; names != nil {
		if len(s.Points) < 2 || len(s.Points) > maxPoints {
			return fmt.Errorf("a %s has 2 to %d points", s.Kind, maxPoints)
		}
		for i, p := range s.Points {
			if !(p.Len() < maxSize) || i > 0 && p == s.Points[i-1] {
				return fmt.Errorf("point %d of a %s is not a number, or the one before again", i+1, s.Kind)
			}
		}
	}
	if spec.check != nil {
		return spec.check(&s)
	}
	return nil
}

// Key returns a text that is the same for the same shape.
func (s Shape) Key() string {
	b, err := json.Marshal(s)
	if err != nil {
		return fmt.Sprintf("%+v", s) // measures that are no numbers, which Check refuses
	}
	return string(b)
}

// Build returns the shape's mesh. The shape must have passed Check.
func (s Shape) Build() *Mesh {
	sides := s.Sides
	if sides == 0 {
		sides = sidesOf.Usual
	}
	if spec, ok := shapes[s.Kind]; ok {
		return spec.build(&s, sides)
	}
	return &Mesh{}
}
