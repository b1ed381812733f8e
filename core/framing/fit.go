package framing

import (
	"fmt"
	"math"

	"perigyre/core/geom"
	"perigyre/core/pose"
)

// Fitted is where a camera stands that just keeps everything inside its margins.
type Fitted struct {
	At     geom.Vec3 // the position in the room on frame 0, or the offset of a camera that moves
	Across float64   // metres that the picture of an orthographic camera is wide; 0 with perspective
}

// Fit returns the position, in the room and on frame 0, of the tightest camera with the direction
// and lens of the shot's camera that keeps every point inside the margins at every moment.
//
// In the camera's frame (right, up, back) a point (X, Y, Z) lies inside the right margin of a
// camera at (x, y, z) if X - x <= (c + h) (z - Z), where h is the tangent of the half field of view less
// the margin and c that of the lens's shift; and so for the other three sides. Over all points and moments these are
// four half spaces, so the linear program for the least z has a closed form: opposite sides give a lower
// bound on z each, the larger one holds, and the other direction is centred in the play it has. An orthographic
// camera has a width in place of the distance. A camera that goes round a turntable is solved for in its own
// turning frame.
func Fit(e *pose.Evaluator, bodies []Body) (Fitted, error) {
	s := e.Shot
	cam := e.Index.Part(s.Camera)
	if cam < 0 || s.Parts[cam].Camera == nil {
		return Fitted{}, fmt.Errorf("the shot has no camera to fit")
	}
	lens := s.Parts[cam].Camera
	view := Optics(lens, s.Format)
	start := orientation(e.At(0)[cam])
	out, err := tightest(e, bodies, lens.Margin, view, func(world []geom.Mat4) geom.Mat4 { return turningFrame(world[cam], start) })
	out.At = geom.TRS(geom.Vec3{}, start, geom.Vec3{1, 1, 1}).Point(out.At)
	return out, err
}

// FitMoving returns the offset, in the camera's own axes at every moment, that keeps every point inside the
// margins of a camera that moves by itself: one fit for the whole move, so that the framing is steady. The
// camera must have no offset yet.
func FitMoving(e *pose.Evaluator, bodies []Body) (Fitted, error) {
	s := e.Shot
	cam := e.Index.Part(s.Camera)
	lens := s.Parts[cam].Camera
	return tightest(e, bodies, lens.Margin, Optics(lens, s.Format), func(world []geom.Mat4) geom.Mat4 {
		return geom.TRS(geom.Vec3{}, orientation(world[cam]).Inverse(), geom.Vec3{1, 1, 1}).Mul(geom.Translation(world[cam].Column(3).Mul(-1)))
	})
}

// tightest solves for the offset of the nearest camera in the axes (right, up, back) that frame gives for
// every moment.
func tightest(e *pose.Evaluator, bodies []Body, margin float64, view View, frame func(world []geom.Mat4) geom.Mat4) (Fitted, error) {
	clear := 1 - 2*margin/100
	h, v, cx, cy := view.Width*clear, view.Height*clear, view.X, view.Y
	if view.Flat {
		h, v, cx, cy = 0, 0, 0, 0
	}
	inf := math.Inf(-1)
	right, left, top, bottom, near := inf, inf, inf, inf, inf
	err := sweep(e, bodies, func(_ float64, world []geom.Mat4) {
		toCamera := frame(world)
		for _, b := range bodies {
			right = b.reach(world, toCamera, geom.Vec3{1, 0, cx + h}, right)
			left = b.reach(world, toCamera, geom.Vec3{-1, 0, h - cx}, left)
			top = b.reach(world, toCamera, geom.Vec3{0, 1, cy + v}, top)
			bottom = b.reach(world, toCamera, geom.Vec3{0, -1, v - cy}, bottom)
			near = b.reach(world, toCamera, geom.Vec3{0, 0, 1}, near)
		}
	})
	if err != nil {
		return Fitted{}, err
	}
	if math.IsInf(near, -1) {
		return Fitted{}, fmt.Errorf("there is nothing visible to fit the camera to")
	}
	if view.Flat { // as far away as what it sees is large, before everything
		width := math.Max(right+left, (top+bottom)*view.Width/view.Height)
		return Fitted{geom.Vec3{(right - left) / 2, (top - bottom) / 2, near + math.Max(width, 1e-6)}, math.Max(width/clear, 1e-9)}, nil
	}
	// x + (c + h) z >= right and -x + (h - c) z >= left, and the same upright.
	z := math.Max((right+left)/(2*h), (top+bottom)/(2*v))
	z = math.Max(z, near+1e-6*math.Max(1, math.Abs(near)))
	return Fitted{At: geom.Vec3{(right-left)/2 - cx*z, (top-bottom)/2 - cy*z, z}}, nil
}

// orientation returns the rotation of a camera's world matrix, without any resizing above it.
func orientation(m geom.Mat4) geom.Quat {
	_, r, _, _ := m.Decompose()
	return r
}

// turningFrame returns the matrix that takes room points to axes (right, up, back) that turn with
// the camera about the room's origin, from the orientation it has on frame 0.
func turningFrame(camera geom.Mat4, start geom.Quat) geom.Mat4 {
	turned := orientation(camera).Mul(start.Inverse())
	return geom.TRS(geom.Vec3{}, start.Inverse().Mul(turned.Inverse()), geom.Vec3{1, 1, 1})
}

// Margins is the room that is left between what is visible and the edge of the picture.
type Margins struct {
	Tightest float64 `json:"tightest"` // percent of the format's width or height; below 0 something is cut off
	Frame    float64 `json:"frame"`    // when
	Side     string  `json:"side"`     // left, right, top or bottom
	Filled   float64 `json:"filled"`   // share of the width or height, whichever is more, that is used over the whole move, percent
}

// Measure returns the margins over the whole shot, or false where nothing is visible or there is
// no camera.
func Measure(e *pose.Evaluator, bodies []Body) (Margins, bool, error) {
	s := e.Shot
	cam := e.Index.Part(s.Camera)
	if cam < 0 || len(bodies) == 0 {
		return Margins{}, false, nil
	}
	view := Optics(s.Parts[cam].Camera, s.Format)
	sides := [4]string{"right", "left", "top", "bottom"}
	axes := [4]geom.Vec3{{1, 0, 0}, {-1, 0, 0}, {0, 1, 0}, {0, -1, 0}}
	var when, edge [4]float64 // furthest reach towards each side, as a share of half the format
	for i := range edge {
		edge[i] = -2
	}
	err := sweep(e, bodies, func(t float64, world []geom.Mat4) {
		position := world[cam].Column(3)
		toCamera := geom.TRS(geom.Vec3{}, orientation(world[cam]).Inverse(), geom.Vec3{1, 1, 1}).Mul(geom.Translation(position.Mul(-1)))
		for side, axis := range axes {
			tangent := view.Width
			if side >= 2 {
				tangent = view.Height
			}
			if view.Flat {
				far := math.Inf(-1)
				for _, b := range bodies {
					far = b.reach(world, toCamera, axis, far)
				}
				if k := far / tangent; k > edge[side] {
					edge[side], when[side] = k, t
				}
				continue
			}
			shift := axis[0]*view.X + axis[1]*view.Y
			if k := extent(bodies, world, toCamera, axis, edge[side]*tangent+shift, 4*tangent+shift) - shift; k > edge[side]*tangent {
				edge[side], when[side] = k/tangent, t
			}
		}
	})
	if err != nil {
		return Margins{}, false, err
	}
	out := Margins{Tightest: math.Inf(1), Filled: 50 * math.Max(edge[0]+edge[1], edge[2]+edge[3])}
	for side := range edge {
		if room := (1 - edge[side]) * 50; room < out.Tightest {
			out.Tightest, out.Frame, out.Side = room, when[side], sides[side]
		}
	}
	return out, true, nil
}

// extent returns the largest ratio (axis.p) / depth over all points, if it is between lo and hi, and
// the nearer of the two if not. A point is inside slope k if axis.p + k z <= 0, so the ratio is
// where the furthest reach over all points changes its sign; it is found by bisection.
func extent(bodies []Body, world []geom.Mat4, toCamera geom.Mat4, axis geom.Vec3, lo, hi float64) float64 {
	over := func(k float64) float64 {
		most := -1e-300 // it is its sign that matters
		for _, b := range bodies {
			if b.flexed == nil {
				most = b.reach(world, toCamera, axis.Add(geom.Vec3{0, 0, k}), most)
			}
		}
		return most
	}
	for _, b := range bodies {
		if b.flexed != nil {
			lo = b.ratio(world, toCamera, axis, lo, hi)
		}
	}
	if over(lo) <= 0 {
		return lo
	}
	if over(hi) > 0 {
		return hi
	}
	for hi-lo > 1e-9 {
		k := (lo + hi) / 2
		if over(k) > 0 {
			lo = k
		} else {
			hi = k
		}
	}
	return (lo + hi) / 2
}
