package loop

import (
	"math"

	"perigyre/core/framing"
	"perigyre/core/geom"
	"perigyre/core/motion"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// Proved is the largest jump, in pixels, that counts as none.
const Proved = 0.01

// Gap is how far something jumps between where frame N would be and frame 0.
type Gap struct {
	Part   string  `json:"part"`
	Pixels float64 `json:"pixels"` // of its surface, through the render camera at the size of the format
	Change float64 `json:"change"` // of its colours, glow, opacity or strength, or of the place of a light, as a share
}

// Jumps reports whether the gap is more than what counts as none.
func (g Gap) Jumps() bool { return g.Pixels > Proved || g.Change > maxShare }

// Seam is what the picture does where the shot begins anew.
type Seam struct {
	Closes bool  `json:"closes"`
	Gaps   []Gap `json:"gaps"` // of all that moves or changes, in the order of the document
}

// Prove compares what the render camera sees where frame N would be with what it sees on frame 0: every body that moves,
// bent ones and copies too, and everything that changes looks or lights. The jump of a rigid body is taken at the points
// that reach furthest in 26 directions, so that it is exact for boxes and near it for other shapes. A shot that ends has
// no seam, and one without a camera is seen by nobody: both close.
func Prove(e *pose.Evaluator, bodies []framing.Body) Seam {
	out := Seam{Closes: true, Gaps: []Gap{}}
	s := e.Shot
	cam := e.Index.Part(s.Camera)
	if s.Ending != shot.Loop || cam < 0 {
		return out
	}
	view := framing.Optics(s.Parts[cam].Camera, s.Format)
	before, after := e.BeforeSeam(), e.At(0)
	eyes := [2]geom.Mat4{}
	eyes[0], _ = before[cam].Inverse()
	eyes[1], _ = after[cam].Inverse()
	apart := func(a, b geom.Vec3) float64 { // of a point before and after, in the room
		var seen [2]geom.Vec2
		for k, p := range [2]geom.Vec3{a, b} {
			q := eyes[k].Point(p)
			q[2] = math.Min(q[2], -1e-9)
			x, y, _ := view.Seen(q)
			seen[k] = geom.Vec2{x * float64(s.Format.Width) / 2, y * float64(s.Format.Height) / 2}
		}
		return seen[0].Sub(seen[1]).Len()
	}
	gaps := map[int]*Gap{}
	gap := func(part int) *Gap {
		if gaps[part] == nil {
			gaps[part] = &Gap{Part: s.Parts[part].ID}
		}
		return gaps[part]
	}
	moves := cam >= 0 && before[cam] != after[cam]
	for k := range bodies {
		b := &bodies[k]
		part := b.Part
		if b.Carrier < 0 && !moves && !b.Bends() {
			continue
		}
		was, is := geom.Identity, geom.Identity
		if b.Carrier >= 0 {
			was, is = before[b.Carrier], after[b.Carrier]
		}
		g := gap(part)
		b.Apart(e, func(p, q geom.Vec3) { g.Pixels = math.Max(g.Pixels, apart(was.Point(p), is.Point(q))) })
	}
	if a, b := e.LooksBeforeSeam(), e.Looks(0); a != nil {
		for i := range a {
			if a[i] != motion.AsItIs || b[i] != motion.AsItIs {
				gap(i).Change = a[i].Apart(b[i])
			}
		}
	}
	for i := range s.Parts {
		if s.Parts[i].Kind == shot.Light && before[i] != after[i] {
			far := 0.0
			for k := range before[i] {
				far = math.Max(far, math.Abs(before[i][k]-after[i][k]))
			}
			if far > maxShare {
				gap(i).Change = math.Max(gap(i).Change, far)
			}
		}
	}
	for i := range s.Parts {
		if g := gaps[i]; g != nil {
			out.Gaps = append(out.Gaps, *g)
			out.Closes = out.Closes && !g.Jumps()
		}
	}
	return out
}
