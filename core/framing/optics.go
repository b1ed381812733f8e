// Package framing is about what the picture shows: the optics of the camera, the exact fit that
// keeps everything inside the margins at every frame, and how much room is left.
package framing

import (
	"math"

	"perigyre/core/geom"
	"perigyre/core/shot"
)

// View is the pyramid that a camera sees: at distance 1 it is 2 Width wide and 2 Height high about X, Y. What an
// orthographic camera sees is a box, 2 Width wide and 2 Height high everywhere.
type View struct {
	Width  float64 `json:"width"`  // tangent of half the horizontal field of view, or metres
	Height float64 `json:"height"` // tangent of half the vertical field of view, or metres
	X      float64 `json:"x"`      // tangents of the shift
	Y      float64 `json:"y"`
	Flat   bool    `json:"flat"` // orthographic
}

// Optics returns what a lens sees in a format: field of view 2 atan(s / 2f), with the sensor fitted
// to the format by width, by height or by the format's longer side.
func Optics(l *shot.Lens, f shot.Format) View {
	aspect := float64(f.Width) / float64(f.Height)
	if l.Across > 0 {
		return View{Width: l.Across / 2, Height: l.Across / 2 / aspect, Flat: true}
	}
	x, y := l.ShiftX/l.Focal, l.ShiftY/l.Focal
	if l.Sensor == shot.FitHeight || l.Sensor == shot.FitLonger && aspect < 1 {
		side := l.SensorHeight
		if l.Sensor == shot.FitLonger {
			side = l.SensorWidth // turned upright, the sensor's long side is its height
		}
		h := side / 2 / l.Focal
		return View{Width: h * aspect, Height: h, X: x, Y: y}
	}
	w := l.SensorWidth / 2 / l.Focal
	return View{Width: w, Height: w / aspect, X: x, Y: y}
}

// Seen returns where a point of the camera's frame (right, up, back) is in the picture, from -1 at the left and the
// bottom to 1, and its depth along the view axis. Depths of 0 and below are not before the camera.
func (v View) Seen(p geom.Vec3) (x, y, depth float64) {
	if depth = -p[2]; v.Flat {
		return p[0] / v.Width, p[1] / v.Height, depth
	}
	return (p[0]/depth - v.X) / v.Width, (p[1]/depth - v.Y) / v.Height, depth
}

// Degrees returns the horizontal and vertical field of view in degrees.
func (v View) Degrees() (h, w float64) {
	return 2 * math.Atan(v.Width) * 180 / math.Pi, 2 * math.Atan(v.Height) * 180 / math.Pi
}
