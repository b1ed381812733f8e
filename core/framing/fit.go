package framing

import (
	"fmt"
	"math"

	"perigyre/core/geom"
)

// Fitted is where a camera stands that just keeps everything inside its margins.
type Fitted struct {
	At     geom.Vec3 // the position in the room on frame 0, or the offset of a camera that moves
	Across float64   // metres that the picture of an orthographic camera is wide; 0 with perspective
}

// Fit returns where the tightest camera with the direction and lens of the shot's camera stands that keeps every point inside
// the margins at every moment: its position, in the room and on frame 0. For a camera that moves by itself, which must have
// no offset yet, it returns the offset in the camera's own axes at every moment: one fit for the whole move, so that the
// framing is steady.
//
// In the camera's frame (right, up, back) a point (X, Y, Z) lies inside the right margin of a
// camera at (x, y, z) if X - x <= (c + h) (z - Z), where h is the tangent of the half field of view less
// the margin and c that of the lens's shift; and so for the other three sides. Over all points and moments these are
// four half spaces, so the linear program for the least z has a closed form: opposite sides give a lower
// bound on z each, the larger one holds, and the other direction is centred in the play it has. An orthographic
// camera has a width in place of the distance. A camera that goes round a turntable is solved for in its own
// turning frame.
func (u *Subject) Fit() (Fitted, error) {
	s := u.Pose.Shot
	if u.frame.cam < 0 {
		return Fitted{}, fmt.Errorf("the shot has no camera to fit")
	}
	lens := s.Parts[u.frame.cam].Camera
	view := Optics(lens, s.Format)
	clear := 1 - 2*lens.Margin/100
	h, v, cx, cy := view.Width*clear, view.Height*clear, view.X, view.Y
	if view.Flat {
		h, v, cx, cy = 0, 0, 0, 0
	}
	right, left, top, bottom, near, err := u.furthest([5]geom.Vec3{{1, 0, cx + h}, {-1, 0, h - cx}, {0, 1, cy + v}, {0, -1, v - cy}, {0, 0, 1}})
	if err != nil {
		return Fitted{}, err
	}
	if math.IsInf(near, -1) {
		return Fitted{}, fmt.Errorf("there is nothing visible to fit the camera to")
	}
	var out Fitted
	if view.Flat { // as far away as what it sees is large, before everything
		width := math.Max(right+left, (top+bottom)*view.Width/view.Height)
		out = Fitted{geom.Vec3{(right - left) / 2, (top - bottom) / 2, near + math.Max(width, 1e-6)}, math.Max(width/clear, 1e-9)}
	} else {
		// x + (c + h) z >= right and -x + (h - c) z >= left, and the same upright.
		z := math.Max((right+left)/(2*h), (top+bottom)/(2*v))
		z = math.Max(z, near+1e-6*math.Max(1, math.Abs(near)))
		out = Fitted{At: geom.Vec3{(right-left)/2 - cx*z, (top-bottom)/2 - cy*z, z}}
	}
	if !u.frame.own {
		out.At = geom.TRS(geom.Vec3{}, u.frame.start, geom.Vec3{1, 1, 1}).Point(out.At)
	}
	return out, nil
}

// furthest returns the largest d.p over all points and moments in the camera's frame, for five directions d.
func (u *Subject) furthest(dirs [5]geom.Vec3) (a, b, c, d, e float64, err error) {
	var before *extremes
	if u.before != nil {
		before = u.before.fit
	}
	bound := func(box geom.Box, k int) float64 { return reach(box, dirs[k]) }
	u.fit, err = u.search(dirs, len(dirs), math.Inf(-1), before, bound, func(of []int, boxes []geom.Box, found [][]extreme) (int, error) {
		return u.sweep(of, boxes, func(w int, t float64, camera geom.Mat4, at []geom.Mat4) {
			for k, i := range of {
				for side, d := range dirs {
					x := &found[w][side]
					if far := u.Bodies[i].reach(at[k], d, x.far); far > x.far {
						*x = extreme{far, t, i}
					}
				}
			}
		})
	})
	if err != nil {
		return
	}
	u.remember()
	x := u.fit.side
	return x[0].far, x[1].far, x[2].far, x[3].far, x[4].far, nil
}

// Margins is the room that is left between what is visible and the edge of the picture.
type Margins struct {
	Tightest float64 `json:"tightest"` // percent of the format's width or height; below 0 something is cut off
	Frame    float64 `json:"frame"`    // when
	Side     string  `json:"side"`     // left, right, top or bottom
	Part     string  `json:"part"`     // what is nearest to it
	Filled   float64 `json:"filled"`   // share of the width or height, whichever is more, that is used over the whole move, percent
}

// sides of the picture, and the axes of the camera's frame that point to them.
var (
	sides = [4]string{"right", "left", "top", "bottom"}
	axes  = [4]geom.Vec3{{1, 0, 0}, {-1, 0, 0}, {0, 1, 0}, {0, -1, 0}}
)

// maxBeyond is how far beyond the edge anything is followed, as a share of half the format.
const maxBeyond = 4

// bisected is how near a furthest reach is found, as a share of half the format: what is more by less is not later, but the same.
const bisected = 2e-9

// Margins returns the margins over the whole shot, or false where nothing is visible or there is no camera.
func (u *Subject) Margins() (Margins, bool, error) {
	s := u.Pose.Shot
	if u.frame.cam < 0 || len(u.Bodies) == 0 {
		return Margins{}, false, nil
	}
	view := Optics(s.Parts[u.frame.cam].Camera, s.Format)
	tangent := [4]float64{view.Width, view.Width, view.Height, view.Height}
	var shift [4]float64
	for k, axis := range axes {
		shift[k] = axis[0]*view.X + axis[1]*view.Y
	}
	eye := u.eye()
	bound := func(box geom.Box, k int) float64 {
		side := reach(box, axes[k]) + reach(eye, axes[k].Mul(-1))
		if view.Flat {
			return side / tangent[k]
		}
		nearest, furthest := eye.Min[2]-box.Max[2], eye.Max[2]-box.Min[2]
		if nearest <= 0 {
			return maxBeyond
		}
		ratio := side / nearest
		if side < 0 {
			ratio = side / furthest
		}
		return math.Min(maxBeyond, (ratio-shift[k])/tangent[k]+1e-9)
	}
	var before *extremes
	if u.before != nil {
		before = u.before.edges
	}
	type seen struct {
		View
		eye geom.Box
	}
	// What is found is the furthest reach towards each side, as a share of half the format.
	found, err := u.search(seen{view, eye}, len(axes), -2, before, bound, func(of []int, boxes []geom.Box, found [][]extreme) (int, error) {
		seen := make([][]geom.Mat4, len(found))
		return u.sweep(of, boxes, func(w int, t float64, camera geom.Mat4, at []geom.Mat4) {
			// From the camera's frame to those of the camera: it stands elsewhere.
			place := u.frame.frame(camera).Point(camera.Column(3))
			m := append(seen[w][:0], at...)
			seen[w] = m
			for k := range m {
				for r := range 3 {
					m[k][12+r] -= place[r]
				}
			}
			for side, axis := range axes {
				x, k := &found[w][side], tangent[side]
				if view.Flat {
					for j, i := range of {
						if far := u.Bodies[i].reach(m[j], axis, x.far*k) / k; far > x.far {
							*x = extreme{far, t, i}
						}
					}
					continue
				}
				if slope, body := u.extent(of, m, axis, x.far*k+shift[side], maxBeyond*k+shift[side]); (slope-shift[side])/k > x.far+bisected {
					*x = extreme{(slope - shift[side]) / k, t, body}
				}
			}
		})
	})
	if err != nil {
		return Margins{}, false, err
	}
	u.edges = found
	u.remember()
	edge := found.side
	out := Margins{Tightest: math.Inf(1), Filled: 50 * math.Max(edge[0].far+edge[1].far, edge[2].far+edge[3].far)}
	for k, x := range edge {
		if room := (1 - x.far) * 50; room < out.Tightest {
			out.Tightest, out.Frame, out.Side, out.Part = room, x.when, sides[k], ""
			if x.body >= 0 { // else nothing is anywhere near
				out.Part = s.Parts[u.Bodies[x.body].Part].ID
			}
		}
	}
	return out, true, nil
}

// eye returns a box round the places of the camera in the camera's frame, which are one place unless something carries it that
// does not turn about the room's origin.
func (u *Subject) eye() geom.Box {
	box := geom.EmptyBox()
	at := u.Pose.Some(0)
	for _, t := range u.moments() {
		at.Go(t)
		camera := at.Of(u.frame.cam)
		p := u.frame.frame(camera).Point(camera.Column(3))
		box = box.Union(geom.Box{Min: p, Max: p})
	}
	return box
}

// extent returns the largest ratio (axis.p) / depth over all points of some bodies, each seen through a matrix, if it is
// between lo and hi, and the nearer of the two if not; and a body that has it. A point is inside slope k if axis.p + k z <= 0,
// so the ratio is where the furthest reach over all points changes its sign; it is found by bisection.
func (u *Subject) extent(of []int, at []geom.Mat4, axis geom.Vec3, lo, hi float64) (float64, int) {
	last := -1 // the body that was out last
	over := func(k float64) bool {
		d := axis.Add(geom.Vec3{0, 0, k})
		const least = -1e-300 // it is the sign that matters
		for j, i := range of {
			if b := &u.Bodies[i]; b.flexed == nil && b.reach(at[j], d, least) > 0 {
				last = i
				return true
			}
		}
		return false
	}
	for j, i := range of {
		if b := &u.Bodies[i]; b.flexed != nil {
			if k := b.ratio(at[j], axis, lo, hi); k > lo {
				lo, last = k, i
			}
		}
	}
	if !over(lo) {
		return lo, last
	}
	if over(hi) {
		return hi, last
	}
	for hi-lo > 1e-9 {
		if k := (lo + hi) / 2; over(k) {
			lo = k
		} else {
			hi = k
		}
	}
	return (lo + hi) / 2, last
}
