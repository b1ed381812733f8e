package loop

import (
	"math"

	"perigyre/core/framing"
	"perigyre/core/geom"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// Proved is the largest jump, in pixels, that counts as none.
const Proved = 0.01

// Gap is how far a body's surface jumps between where frame N would be and frame 0.
type Gap struct {
	Part   string  `json:"part"`
	Pixels float64 `json:"pixels"` // through the render camera at the size of the format
}

// Seam returns the gap of every body that moves. The jump is taken at the points of the body that
// reach furthest in 26 directions, so that it is exact for boxes and near it for other shapes.
func Seam(e *pose.Evaluator, bodies []framing.Body) []Gap {
	gaps := []Gap{}
	s := e.Shot
	cam := s.Index(s.Camera)
	if s.Ending != shot.Loop || cam < 0 {
		return gaps
	}
	view := framing.Optics(s.Parts[cam].Camera, s.Format)
	before, after := e.BeforeSeam(), e.At(0)
	project := func(world []geom.Mat4, p geom.Vec3) geom.Vec2 {
		inv, _ := world[cam].Inverse()
		q := inv.Point(p)
		q[2] = math.Min(q[2], -1e-9)
		x, y, _ := view.Seen(q)
		return geom.Vec2{x * float64(s.Format.Width) / 2, y * float64(s.Format.Height) / 2}
	}
	for _, b := range bodies {
		if b.Carrier < 0 {
			continue
		}
		g := Gap{Part: s.Parts[b.Carrier].ID}
		if b.Reach == nil {
			continue // copies do what their source does, and what flexes is looked at by its move
		}
		for _, p := range b.Reach.Extremes() {
			jump := project(before, before[b.Carrier].Point(p)).Sub(project(after, after[b.Carrier].Point(p))).Len()
			g.Pixels = math.Max(g.Pixels, jump)
		}
		gaps = append(gaps, g)
	}
	return gaps
}
