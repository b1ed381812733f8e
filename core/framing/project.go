package framing

import (
	"perigyre/core/geom"
	"perigyre/core/shot"
)

// Project returns where a point of the room is seen through a camera with a world matrix: pixels from the left and
// from the top of a format, and the depth along the view axis in metres. A point that is not before the camera is
// not seen.
func Project(camera geom.Mat4, l *shot.Lens, f shot.Format, p geom.Vec3) (x, y, depth float64, seen bool) {
	v := Optics(l, f)
	q := orientation(camera).Inverse().Rotate(p.Sub(camera.Column(3)))
	depth = -q[2]
	if depth <= 0 {
		return 0, 0, depth, false
	}
	x = (q[0]/depth/v.Width + 1) / 2 * float64(f.Width)
	y = (1 - q[1]/depth/v.Height) / 2 * float64(f.Height)
	return x, y, depth, true
}
