package exploded

import (
	"math"

	"perigyre/core/assembly"
	"perigyre/core/framing"
	"perigyre/core/geom"
	"perigyre/core/pose"
)

// view is how the render camera looks at a group over the shot, in the room as everything is at rest.
type view struct {
	along geom.Vec3  // the mean of the squares of the directions' coordinates
	cross [3]float64 // of xy, yz and zx of them
	pixel float64    // how many metres a pixel is at the group, on the mean
}

// viewOf looks along the shot at the middle of a group at rest; nil without a camera, or for one that does not see it.
func viewOf(e *pose.Evaluator, group int, middle geom.Vec3) *view {
	camera := e.Index.Part(e.Shot.Camera)
	if e.Shot.Camera == "" || camera < 0 {
		return nil
	}
	const looks = 24
	lens, n := framing.Optics(e.Shot.Parts[camera].Camera, e.Shot.Format), 0.0
	rest, ok := e.AtRest(group).Inverse()
	if !ok {
		return nil
	}
	out := &view{}
	for k := range looks {
		world := e.At(float64(k*e.Shot.Frames) / looks)
		now := world[group].Mul(rest) // from rest to this frame
		back, ok := now.Inverse()
		if !ok {
			continue
		}
		eye, at := world[camera], now.Point(middle)
		towards, metres := eye.Column(2), 2*lens.Height
		if !lens.Flat {
			towards = eye.Column(3).Sub(at)
			metres *= towards.Dot(eye.Column(2).Unit())
		}
		if !(metres > 0) {
			continue
		}
		d := back.Vector(towards).Unit()
		for i := range 3 {
			out.along[i] += d[i] * d[i]
			out.cross[i] += d[i] * d[(i+1)%3]
		}
		out.pixel += metres / float64(e.Shot.Format.Height)
		n++
	}
	if n == 0 {
		return nil
	}
	out.along, out.pixel = out.along.Mul(1/n), out.pixel/n
	for i := range out.cross {
		out.cross[i] /= n
	}
	return out
}

// hides is the mean square of the cosine between a way and the direction to the camera: 1 for one that hides what leaves behind what stays
// or the other way round, 0 for one across.
func (v *view) hides(way geom.Vec3) (out float64) {
	if v == nil {
		return 0
	}
	for i := range 3 {
		out += v.along[i]*way[i]*way[i] + 2*v.cross[i]*way[i]*way[(i+1)%3]
	}
	return math.Max(0, math.Min(1, out))
}

// foreshortened is how short a way may look at least; gaps along shorter ones would grow beyond use.
const foreshortened = 0.25

// gap is so many pixels wide as the camera sees it, whichever way it is.
func (v *view) gap(pixels float64) func(geom.Vec3) float64 {
	even := assembly.Even(pixels * v.pixel)
	return func(way geom.Vec3) float64 {
		return even(way) / math.Max(foreshortened, math.Sqrt(1-v.hides(way)))
	}
}
