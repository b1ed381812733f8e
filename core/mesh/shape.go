package mesh

import (
	"encoding/json"
	"fmt"
	"math"

	"perigyre/core/geom"
)

// ShapeKind names a shape that is made from measures.
type ShapeKind string

const (
	BoxShape      ShapeKind = "box"
	CylinderShape ShapeKind = "cylinder"
	ConeShape     ShapeKind = "cone"
	SphereShape   ShapeKind = "sphere"
	TorusShape    ShapeKind = "torus"
	CapsuleShape  ShapeKind = "capsule"
	PlaneShape    ShapeKind = "plane"
	LatheShape    ShapeKind = "lathe"
	TubeShape     ShapeKind = "tube"
	GearShape     ShapeKind = "gear"
	SteppedShape  ShapeKind = "stepped disc"
	SlabShape     ShapeKind = "slab"
	ColumnShape   ShapeKind = "column"
	SweepShape    ShapeKind = "sweep"
)

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
	Sides  int         `json:"sides,omitempty"`  // segments round; 0 for 96
	Points []geom.Vec3 `json:"points,omitempty"` // a lathe's profile (radius, height, 0), a tube's path
	Gear   *Gear       `json:"gear,omitempty"`
}

const (
	mostSides  = 1024
	mostPoints = 4096
)

// Check returns an error in a sentence for measures that make no shape.
func (s Shape) Check() error {
	for _, v := range []float64{s.Size[0], s.Size[1], s.Size[2], s.Radius, s.Top, s.Thick, s.Height, s.Bevel} {
		if !(v >= 0 && v < 1e6) {
			return fmt.Errorf("the measures of a %s are not below 0", s.Kind)
		}
	}
	if s.Sides < 0 || s.Sides == 1 || s.Sides == 2 || s.Sides > mostSides {
		return fmt.Errorf("a %s has 3 to %d sides", s.Kind, mostSides)
	}
	need := func(ok bool, what string) error {
		if !ok {
			return fmt.Errorf("a %s needs %s of more than 0", s.Kind, what)
		}
		return nil
	}
	switch s.Kind {
	case BoxShape, SlabShape, SweepShape:
		return need(s.Size[0] > 0 && s.Size[1] > 0 && s.Size[2] > 0, "a width, height and depth")
	case PlaneShape:
		return need(s.Size[0] > 0 && s.Size[2] > 0, "a width and depth")
	case CylinderShape, ConeShape, SteppedShape, ColumnShape:
		return need(s.Radius > 0 && s.Height > 0, "a radius and height")
	case SphereShape:
		return need(s.Radius > 0, "a radius")
	case TorusShape:
		if s.Thick >= s.Radius {
			return fmt.Errorf("a torus's section, of radius %g, is smaller than its ring, of radius %g", s.Thick, s.Radius)
		}
		return need(s.Thick > 0, "a section")
	case CapsuleShape:
		return need(s.Radius > 0, "a radius")
	case LatheShape, TubeShape:
		if len(s.Points) < 2 || len(s.Points) > mostPoints {
			return fmt.Errorf("a %s has 2 to %d points", s.Kind, mostPoints)
		}
		for i, p := range s.Points {
			if !p.Finite() || s.Kind == LatheShape && p[0] < 0 || i > 0 && p == s.Points[i-1] {
				return fmt.Errorf("point %d of a %s is not a number, behind the axis, or the one before again", i+1, s.Kind)
			}
		}
		return need(s.Kind == LatheShape || s.Thick > 0, "a section")
	case GearShape:
		if s.Gear == nil {
			return fmt.Errorf("a gear needs its teeth")
		}
		return s.Gear.Check()
	}
	return fmt.Errorf("there is no shape %q", s.Kind)
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
		sides = 96
	}
	lathe := func(stops ...geom.Vec2) *Mesh { return Lathe(stops, sides, DefaultCrease) }
	switch s.Kind {
	case BoxShape, SlabShape:
		return roundedBox(s.Size, s.Bevel, s.Kind == SlabShape)
	case CylinderShape:
		return lathe(roundedProfile([]geom.Vec2{{0, 0}, {s.Radius, 0}, {s.Radius, s.Height}, {0, s.Height}}, s.Bevel)...)
	case ConeShape:
		return lathe(roundedProfile([]geom.Vec2{{0, 0}, {s.Radius, 0}, {s.Top, s.Height}, {0, s.Height}}, s.Bevel)...)
	case SphereShape:
		return Lathe(arc(0, s.Radius, s.Radius, -math.Pi/2, math.Pi/2, max(8, sides/2)), sides, math.Pi)
	case CapsuleShape:
		n := max(4, sides/4)
		profile := arc(0, s.Radius, s.Radius, -math.Pi/2, 0, n)
		profile = append(profile, arc(0, s.Radius+s.Height, s.Radius, 0, math.Pi/2, n)...)
		if s.Height == 0 {
			profile = append(profile[:n], profile[n+1:]...)
		}
		return Lathe(profile, sides, math.Pi)
	case TorusShape:
		path := make([]geom.Vec3, sides)
		for i := range path {
			sin, cos := math.Sincos(2 * math.Pi * float64(i) / float64(sides))
			path[i] = geom.Vec3{s.Radius * sin, s.Thick, s.Radius * cos}
		}
		return Tube(path, s.Thick, max(12, sides/12*4), true)
	case PlaneShape:
		return plane(s.Size[0], s.Size[2])
	case LatheShape:
		profile := make([]geom.Vec2, len(s.Points))
		for i, p := range s.Points {
			profile[i] = geom.Vec2{p[0], p[1]}
		}
		return lathe(profile...)
	case TubeShape:
		return Tube(s.Points, s.Thick, max(12, sides/4), false)
	case GearShape:
		return s.Gear.Build()
	case SteppedShape:
		step := math.Min(s.Height/3, s.Radius/4)
		return lathe(roundedProfile([]geom.Vec2{{0, 0}, {s.Radius, 0}, {s.Radius, s.Height - step}, {s.Radius - step, s.Height - step}, {s.Radius - step, s.Height}, {0, s.Height}}, s.Bevel)...)
	case ColumnShape:
		w, h, r := s.Radius*0.16, s.Radius*0.22, s.Radius
		return lathe(roundedProfile([]geom.Vec2{{0, 0}, {r, 0}, {r, h}, {r - w, h}, {r - w, s.Height - h}, {r, s.Height - h}, {r, s.Height}, {0, s.Height}}, s.Bevel)...)
	case SweepShape:
		return sweep(s.Size, math.Min(s.Radius, math.Min(s.Size[1], s.Size[2])))
	}
	return &Mesh{}
}

// arc returns n + 1 points of a circle in a profile's plane, from one angle to another.
func arc(x, y, radius, from, to float64, n int) []geom.Vec2 {
	out := make([]geom.Vec2, n+1)
	for i := range out {
		sin, cos := math.Sincos(from + (to-from)*float64(i)/float64(n))
		out[i] = geom.Vec2{x + radius*cos, y + radius*sin}
		if math.Abs(out[i][0]) < 1e-12*radius {
			out[i][0] = 0 // on the axis exactly
		}
	}
	return out
}

// roundedProfile replaces the corners of a profile, but for its ends, by arcs of a radius, or of as
// much of it as the sides leave room for.
func roundedProfile(stops []geom.Vec2, radius float64) []geom.Vec2 {
	if radius == 0 {
		return stops
	}
	out := []geom.Vec2{stops[0]}
	for i := 1; i+1 < len(stops); i++ {
		out = append(out, Fillet(stops[i-1], stops[i], stops[i+1], radius, 6)...)
	}
	return append(out, stops[len(stops)-1])
}

// Fillet returns steps + 1 points of the arc that rounds the corner at b between a and c, with the
// radius or as much of it as half of each side leaves room for.
func Fillet(a, b, c geom.Vec2, radius float64, steps int) []geom.Vec2 {
	u, v := a.Sub(b), c.Sub(b)
	lu, lv := u.Len(), v.Len()
	if lu == 0 || lv == 0 {
		return []geom.Vec2{b}
	}
	u, v = geom.Vec2{u[0] / lu, u[1] / lu}, geom.Vec2{v[0] / lv, v[1] / lv}
	half := math.Acos(math.Max(-1, math.Min(1, u[0]*v[0]+u[1]*v[1]))) / 2
	if radius == 0 || half < 1e-6 || half > math.Pi/2-1e-6 {
		return []geom.Vec2{b}
	}
	cut := math.Min(radius/math.Tan(half), 0.49*math.Min(lu, lv))
	radius = cut * math.Tan(half)
	middle := geom.Vec2{u[0] + v[0], u[1] + v[1]}
	d := radius / math.Sin(half) / middle.Len()
	centre := geom.Vec2{b[0] + middle[0]*d, b[1] + middle[1]*d}
	from := math.Atan2(b[1]+u[1]*cut-centre[1], b[0]+u[0]*cut-centre[0])
	to := math.Atan2(b[1]+v[1]*cut-centre[1], b[0]+v[0]*cut-centre[0])
	return arc(centre[0], centre[1], radius, from, from+math.Remainder(to-from, 2*math.Pi), steps)
}

// roundedBox is a box with rounded edges standing on y = 0; a slab keeps its lower edges hard.
func roundedBox(size geom.Vec3, bevel float64, slab bool) *Mesh {
	bevel = math.Min(bevel, 0.499*math.Min(size[0], math.Min(size[1], size[2])))
	if bevel == 0 {
		m := Box(size)
		m.Transform(geom.Translation(geom.Vec3{0, size[1] / 2, 0}))
		return m
	}
	// Rings of a rounded rectangle, inset along a profile of the edge.
	const corner = 8
	ring := func(inset float64) []geom.Vec2 {
		r := bevel - inset
		x, z := size[0]/2-bevel, size[2]/2-bevel
		var out []geom.Vec2
		for q, c := range []geom.Vec2{{x, z}, {-x, z}, {-x, -z}, {x, -z}} {
			out = append(out, arc(c[0], c[1], r, float64(q)*math.Pi/2, float64(q+1)*math.Pi/2, corner)...)
		}
		return out
	}
	type level struct{ inset, y float64 }
	var levels []level
	const steps = 8
	if slab {
		levels = append(levels, level{0, 0})
	} else {
		for i := range steps + 1 {
			sin, cos := math.Sincos(math.Pi / 2 * float64(i) / steps)
			levels = append(levels, level{bevel * (1 - sin), bevel * (1 - cos)})
		}
	}
	for i := range steps + 1 {
		sin, cos := math.Sincos(math.Pi / 2 * float64(i) / steps)
		levels = append(levels, level{bevel * (1 - cos), size[1] - bevel*(1-sin)})
	}
	m := &Mesh{}
	n := uint32(4 * (corner + 1))
	for _, l := range levels {
		for _, p := range ring(l.inset) {
			m.Positions = append(m.Positions, [3]float32{float32(p[0]), float32(l.y), float32(p[1])})
		}
	}
	for l := range uint32(len(levels) - 1) {
		for i := range n {
			a, b := l*n+i, l*n+(i+1)%n
			m.Indices = append(m.Indices, a, a+n, b, b, a+n, b+n)
		}
	}
	last := uint32(len(levels)-1) * n
	for i := uint32(1); i+1 < n; i++ {
		m.Indices = append(m.Indices, 0, i, i+1, last, last+i+1, last+i)
	}
	m.RemoveDegenerate()
	m.MakeNormals(DefaultCrease)
	return m
}

// plane faces up at y = 0, with its texture once over it.
func plane(width, depth float64) *Mesh {
	x, z := float32(width/2), float32(depth/2)
	return &Mesh{
		Positions: [][3]float32{{-x, 0, z}, {x, 0, z}, {x, 0, -z}, {-x, 0, -z}},
		Normals:   [][3]float32{{0, 1, 0}, {0, 1, 0}, {0, 1, 0}, {0, 1, 0}},
		UV:        [][2]float32{{0, 1}, {1, 1}, {1, 0}, {0, 0}},
		Indices:   []uint32{0, 1, 2, 0, 2, 3},
	}
}

// sweep is a floor that bends up into a wall behind: width, height and depth, with the bend's radius.
func sweep(size geom.Vec3, radius float64) *Mesh {
	profile := []geom.Vec2{{size[2] / 2, 0}}
	back := -size[2] / 2
	for _, p := range arc(back+radius, radius, radius, -math.Pi/2, -math.Pi, 32) {
		profile = append(profile, p)
	}
	if size[1] > radius {
		profile = append(profile, geom.Vec2{back, size[1]})
	}
	m := &Mesh{}
	for i, p := range profile {
		for k, x := range []float64{-size[0] / 2, size[0] / 2} {
			m.Positions = append(m.Positions, [3]float32{float32(x), float32(p[1]), float32(p[0])})
			m.UV = append(m.UV, [2]float32{float32(k), float32(i) / float32(len(profile)-1)})
		}
	}
	for i := range uint32(len(profile) - 1) {
		a := 2 * i
		m.Indices = append(m.Indices, a, a+1, a+2, a+1, a+3, a+2)
	}
	m.RemoveDegenerate()
	m.MakeNormals(DefaultCrease)
	return m
}
