package render

import (
	"math"

	"perigyre/core/lettering"
	"perigyre/core/scene"
)

// Colours of letters and their lines, scene-linear.
var (
	lightLetters = [3]float32{0.9, 0.9, 0.9}
	darkLetters  = [3]float32{0.015, 0.015, 0.015}
)

// label draws a label with its line, a dot at the end of it, over a picture.
func label(l *scene.Label, pix []float32, width, height int) {
	side, color := float64(min(width, height)), lightLetters
	if l.Dark {
		color = darkLetters
	}
	half := math.Max(1, guideWidth*side*0.8) / 2
	// All of a line together: where its pieces meet, they do not cover twice.
	most := map[int]float32{}
	lay := func(pixel int, cover float32) { most[pixel] = max(most[pixel], cover) }
	at := func(p [2]float64) [2]float64 { return [2]float64{p[0] * side, p[1] * side} }
	for k := range l.Line[1:] {
		stroke(at(l.Line[k]), at(l.Line[k+1]), half, width, height, func(pixel int, _ float64, cover float32) { lay(pixel, cover) })
	}
	dot := at(l.Line[0])
	stroke(dot, [2]float64{dot[0] + 0.01, dot[1]}, 3*half, width, height, func(pixel int, _ float64, cover float32) { lay(pixel, cover) })
	err := lettering.Cover(l.Text, l.At[0]*side, l.At[1]*side, l.Size*side, func(x, y int, cover float32) {
		if x >= 0 && y >= 0 && x < width && y < height {
			lay(y*width+x, cover)
		}
	})
	if err != nil {
		return // a size of no letters: there is nothing to be seen of it
	}
	for pixel, cover := range most {
		over(pix[4*pixel:4*pixel+4], color, cover*float32(l.Strength))
	}
}
