package framing

import (
	"math"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// Geometry gives the points of a part's surface in the part's own frame, none for a part that has
// no surface.
type Geometry interface {
	Points(p *shot.Part) ([]geom.Vec3, error)
}

// Body is everything visible that moves rigidly together.
type Body struct {
	Carrier int           // the part whose world matrix carries it, -1 for the room
	Reach   *mesh.Support // its points in the carrier's frame
}

// Bodies gathers the visible surfaces of a shot.
func Bodies(e *pose.Evaluator, g Geometry) ([]Body, error) {
	carrier, world := e.Carrier(), e.At(0)
	points := map[int][]geom.Vec3{}
	var order []int
	for i := range e.Shot.Parts {
		p := &e.Shot.Parts[i]
		if hidden(e.Shot, i) {
			continue
		}
		own, err := g.Points(p)
		if err != nil {
			return nil, err
		}
		if len(own) == 0 {
			continue
		}
		c, m := carrier[i], world[i]
		if c >= 0 {
			inv, _ := world[c].Inverse()
			m = inv.Mul(m)
		}
		if points[c] == nil {
			order = append(order, c)
		}
		for _, v := range own {
			points[c] = append(points[c], m.Point(v))
		}
	}
	bodies := make([]Body, len(order))
	for k, c := range order {
		bodies[k] = Body{c, mesh.NewSupport(points[c])}
	}
	return bodies, nil
}

func hidden(s *shot.Shot, i int) bool {
	for ; i >= 0; i = s.Index(s.Parts[i].Parent) {
		if s.Parts[i].Hidden {
			return true
		}
	}
	return false
}

// sweep calls visit for moments that cover the whole shot: every frame, and enough moments between
// frames that a turn is looked at at least every degree, so that what lies between frames, where a
// shutter would be open, is inside too.
func sweep(e *pose.Evaluator, visit func(t float64, world []geom.Mat4)) {
	n := e.Shot.Frames
	last := n
	if e.Shot.Ending == shot.Once {
		last = n - 1
	}
	between := 1
	for _, m := range e.Carrier() {
		if m >= 0 {
			between = max(1, (360+n-1)/n)
		}
	}
	if last == 0 {
		visit(0, e.At(0))
	}
	for k := 0; k < last*between; k++ {
		t := float64(k) / float64(between)
		visit(t, e.At(t))
	}
	if e.Shot.Ending == shot.Once && last > 0 {
		visit(float64(last), e.At(float64(last)))
	}
}

// reach returns the most that d.p is for the points p of the body, seen through the matrix m that
// takes the room to the frame in which d is given.
func (b Body) reach(world []geom.Mat4, m geom.Mat4, d geom.Vec3) float64 {
	if b.Carrier >= 0 {
		m = m.Mul(world[b.Carrier])
	}
	r := b.Reach.Max(m.Transposed(d))
	if math.IsInf(r, -1) {
		return r
	}
	return r + d.Dot(m.Column(3))
}
