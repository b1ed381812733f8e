package runs

import (
	"image"
	"testing"

	"perigyre/core/color"
	"perigyre/core/render"
	"perigyre/formats/exr"
)

// What the player shows of a pass: distances from white to black and nothing where nothing is, directions as colours,
// light through the view transform, and a window of data where it lies in the picture.
func TestShownPass(t *testing.T) {
	show := func(pass render.Pass, pix map[string][]float32) *image.NRGBA {
		p := &exr.Picture{Display: image.Rect(0, 0, 4, 2), Data: image.Rect(1, 1, 4, 2)}
		for name, v := range pix {
			p.Channels = append(p.Channels, exr.Channel{Name: name, Pix: v})
		}
		return shownPass(p, pass, color.Plain)
	}
	for _, c := range []struct {
		pass render.Pass
		pix  map[string][]float32
		want [3][4]uint8
	}{
		{render.Depth, map[string][]float32{"depth.Z": {2, 4, 0}, "R": {9, 9, 9}}, [3][4]uint8{{255, 255, 255, 255}, {0, 0, 0, 255}, {255, 255, 255, 0}}},
		{render.CameraNormal, map[string][]float32{"camera_normal.X": {1, 0, 0}, "camera_normal.Y": {0, -1, 0}, "camera_normal.Z": {0, 0, 0}}, [3][4]uint8{{255, 128, 128, 255}, {128, 0, 128, 255}, {128, 128, 128, 0}}},
		{render.Emission, map[string][]float32{"emission.R": {0.2140, 1, 0}, "emission.G": {0, 1, 0}, "emission.B": {0, 4, 0}}, [3][4]uint8{{127, 0, 0, 255}, {255, 255, 255, 255}, {0, 0, 0, 255}}},
		{render.Motion, map[string][]float32{"motion.X": {5, 0, -2.5}, "motion.Y": {0, 0, 0}}, [3][4]uint8{{255, 128, 128, 255}, {128, 128, 128, 255}, {64, 128, 128, 255}}},
	} {
		got := show(c.pass, c.pix)
		for x, want := range c.want {
			if v := got.NRGBAAt(x+1, 1); v.A != want[3] || v.A != 0 && [4]uint8{v.R, v.G, v.B, v.A} != want {
				t.Errorf("%s: pixel %d is shown as %v, want %v", c.pass, x, v, want)
			}
		}
		if v := got.NRGBAAt(0, 0); v.A != 0 {
			t.Errorf("%s: outside its window there is %v", c.pass, v)
		}
	}
}
