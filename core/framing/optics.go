// Package framing is about what the picture shows: the optics of the camera, the exact fit that
// keeps everything inside the margins at every frame, and how much room is left.
package framing

import (
	"math"

	"perigyre/core/shot"
)

// View is the pyramid that a camera sees: at distance 1 it is 2 Width wide and 2 Height high.
type View struct {
	Width  float64 `json:"width"`  // tangent of half the horizontal field of view
	Height float64 `json:"height"` // tangent of half the vertical field of view
}

// Optics returns what a lens sees in a format: field of view 2 atan(s / 2f), with the sensor fitted
// to the format by width, by height or by the format's longer side.
func Optics(l *shot.Lens, f shot.Format) View {
	aspect := float64(f.Width) / float64(f.Height)
	if l.Sensor == shot.FitHeight || l.Sensor == shot.FitLonger && aspect < 1 {
		side := l.SensorHeight
		if l.Sensor == shot.FitLonger {
			side = l.SensorWidth // turned upright, the sensor's long side is its height
		}
		h := side / 2 / l.Focal
		return View{h * aspect, h}
	}
	w := l.SensorWidth / 2 / l.Focal
	return View{w, w / aspect}
}

// Degrees returns the horizontal and vertical field of view in degrees.
func (v View) Degrees() (h, w float64) {
	return 2 * math.Atan(v.Width) * 180 / math.Pi, 2 * math.Atan(v.Height) * 180 / math.Pi
}
