package framing

import (
	"perigyre/core/geom"
	"perigyre/core/shot"
)

// Project returns where a point of the room is seen through a camera with a world matrix: pixels from the left and
// from the top of a format, and the depth along the view axis in metres. A point that is not before the camera is
// not seen.
func Project(camera geom.Mat4, l *shot.Lens, f shot.Format, p geom.Vec3) (x, y, depth float64, seen bool) {
	x, y, depth = Optics(l, f).Seen(orientation(camera).Inverse().Rotate(p.Sub(camera.Column(3))))
	if depth <= 0 {
		return 0, 0, depth, false
	}
	return (x + 1) / 2 * float64(f.Width), (1 - y) / 2 * float64(f.Height), depth, true
}
