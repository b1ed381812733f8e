package mesh

import (
	"fmt"
	"math"

	"perigyre/core/geom"
)

// Gear is a spur gear with involute teeth (ISO 53 proportions: addendum 1 module, dedendum 1.25
// modules; from memory). An inside gear has its teeth on the inner side of a ring.
type Gear struct {
	Module   float64 `json:"module"`   // metres: pitch diameter over teeth
	Teeth    int     `json:"teeth"`    // 6 to 400
	Pressure float64 `json:"pressure"` // pressure angle in radians; 20 degrees is common
	Width    float64 `json:"width"`    // along the axis
	Bore     float64 `json:"bore"`     // radius of the hole; for an inside gear the ring's outer radius
	Inside   bool    `json:"inside"`
}

// Pitch returns the radius of the pitch circle.
func (g Gear) Pitch() float64 { return g.Module * float64(g.Teeth) / 2 }

// Base returns the radius of the base circle, from which the involutes unwind.
func (g Gear) Base() float64 { return g.Pitch() * math.Cos(g.Pressure) }

// Check returns an error in a sentence for measures that make no gear.
func (g Gear) Check() error {
	switch {
	case !(g.Module > 0 && g.Width > 0 && g.Module < 1e3 && g.Width < 1e6):
		return fmt.Errorf("a gear needs a module and a width of more than 0")
	case g.Teeth < 6 || g.Teeth > 400:
		return fmt.Errorf("a gear has 6 to 400 teeth, not %d", g.Teeth)
	case !(g.Pressure >= 0.17 && g.Pressure <= 0.53):
		return fmt.Errorf("a pressure angle is 10 to 30 degrees")
	case g.Inside && g.Bore <= g.Pitch()+1.3*g.Module:
		return fmt.Errorf("the outer radius of a ring of this module and these teeth is more than %.4g mm", (g.Pitch()+1.3*g.Module)*1000)
	case !g.Inside && !(g.Bore >= 0 && g.Bore < g.Pitch()-1.3*g.Module):
		return fmt.Errorf("the bore of a gear of this module and these teeth is less than %.4g mm", (g.Pitch()-1.3*g.Module)*1000)
	}
	return nil
}

// involute returns the angle inv(a) = tan a - a at which an involute has a pressure angle a.
func involute(a float64) float64 { return math.Tan(a) - a }

// flank returns the half angle of a tooth at a radius: pi / (2 z) at the pitch circle, and there the
// involutes approach each other outwards. Below the base circle the flank is radial.
func (g Gear) flank(r float64) float64 {
	half := math.Pi/(2*float64(g.Teeth)) + involute(g.Pressure)
	base := g.Base()
	if r <= base {
		return half
	}
	return half - involute(math.Acos(base/r))
}

// Outline returns the toothed outline in order, counter-clockwise, as points (x, z) with a tooth
// about the x axis. For an inside gear it is that of the wheel whose space it is.
func (g Gear) Outline() []geom.Vec2 {
	tip, root := g.Pitch()+g.Module, g.Pitch()-1.25*g.Module
	if g.Inside { // the space is deeper outwards
		tip, root = g.Pitch()+1.25*g.Module, g.Pitch()-g.Module
	}
	const steps = 10
	var out []geom.Vec2
	at := func(r, angle float64) {
		sin, cos := math.Sincos(angle)
		out = append(out, geom.Vec2{r * cos, r * sin})
	}
	pitch := 2 * math.Pi / float64(g.Teeth)
	for k := range g.Teeth {
		middle := pitch * float64(k)
		for i := range steps + 1 { // up one flank
			r := root + (tip-root)*float64(i)/steps
			at(r, middle-math.Max(0, g.flank(r)))
		}
		for i := range steps + 1 { // and down the other
			r := tip + (root-tip)*float64(i)/steps
			at(r, middle+math.Max(0, g.flank(r)))
		}
	}
	return out
}

// Build returns the gear, standing on y = 0 about the upright axis.
func (g Gear) Build() *Mesh {
	teeth := g.Outline()
	rim := g.Bore
	m := &Mesh{}
	if rim == 0 { // a hole too small to see keeps the caps simple
		rim = g.Module * 1e-3
	}
	n := uint32(len(teeth))
	add := func(p geom.Vec2, y float64) {
		m.Positions = append(m.Positions, [3]float32{float32(p[0]), float32(y), float32(-p[1])})
	}
	for _, y := range []float64{0, g.Width} {
		for _, p := range teeth {
			add(p, y)
		}
		for _, p := range teeth { // straight in from each point, so that the caps are plain quads
			l := p.Len()
			add(geom.Vec2{p[0] / l * rim, p[1] / l * rim}, y)
		}
	}
	quad := func(a, b, c, d uint32) { m.Indices = append(m.Indices, a, b, c, a, c, d) }
	for i := range n {
		j := (i + 1) % n
		t0, t1, r0, r1 := i, j, n+i, n+j
		up := 2 * n
		quad(t0, t1, t1+up, t0+up)       // the teeth, outwards
		quad(r1, r0, r0+up, r1+up)       // the bore, inwards
		quad(t0+up, t1+up, r1+up, r0+up) // above
		quad(t1, t0, r0, r1)             // below
	}
	if g.Inside { // the toothed side looks in
		for t := 0; t < len(m.Indices); t += 3 {
			m.Indices[t+1], m.Indices[t+2] = m.Indices[t+2], m.Indices[t+1]
		}
	}
	m.RemoveDegenerate()
	m.MakeNormals(DefaultCrease)
	return m
}
