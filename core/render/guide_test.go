package render

import (
	"context"
	"math"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/scene"
)

// A guide line goes from end to end as the camera sees it, as wide as it is to be; a box before its middle hides it there; what is
// not to be seen in the picture is in the pass alone.
func TestGuideLines(t *testing.T) {
	from := &scene.Scene{
		Camera: &scene.Camera{At: geom.Translation(geom.Vec3{0, 0, 2}), Width: 0.5, Height: 0.5, Gain: 1},
		Sky:    scene.Sky{Zenith: [3]float64{1, 1, 1}, Horizon: [3]float64{1, 1, 1}, Ground: [3]float64{1, 1, 1}, Strength: 1, Rotation: geom.NoTurn},
		Guides: []scene.Guide{{Points: []geom.Vec3{{-0.8, 0, 0}, {0.8, 0, 0}}}, {Points: []geom.Vec3{{-0.8, 0.5, 0}, {0.8, 0.5, -1}}, Drawn: true}},
		Bodies: []scene.Body{{
			Mesh: scene.Mesh{Shape: &mesh.Shape{Kind: mesh.BoxShape, Size: geom.Vec3{0.4, 0.2, 0.2}}}, Surfaces: []scene.Surface{{Material: material.Default(), Opacity: 1}},
			At: geom.Translation(geom.Vec3{0, -0.1, 0.5}), Matte: -1,
		}},
	}
	s, err := NewScene(from, NewProps(nil))
	if err != nil {
		t.Fatal(err)
	}
	const side = 200
	for _, denoise := range []bool{false, true} {
		f, err := s.Expose(context.Background(), side, side, Options{Quality: Draft, Passes: []Pass{GuideLines}, Denoise: denoise})
		if err != nil {
			t.Fatal(err)
		}
		l := f.Layers[0].Pix
		alpha := func(x, y int) float32 { return l[4*(y*side+x)+3] }
		if alpha(40, 100) < 0.5 || alpha(160, 100) < 0.5 || alpha(100, 100) != 0 || alpha(10, 100) != 0 || alpha(40, 103) != 0 {
			t.Errorf("the straight line covers %g %g at its ends, %g behind the box, %g beyond, %g beside", alpha(40, 100), alpha(160, 100), alpha(100, 100), alpha(10, 100), alpha(40, 103))
		}
		sum := 0.0
		for y := 20; y < 80; y++ { // the second alone: from (20, 50) at a depth of 2 to (153, 67) at one of 3
			for x := range side {
				sum += float64(alpha(x, y))
			}
		}
		const width = 1.25
		if want := width * math.Hypot(0.8/1*100+0.8/1.5*100, 0.5/1*100-0.5/1.5*100); math.Abs(sum-want) > 0.05*want {
			t.Errorf("it covers %.1f pixels, not %.1f", sum, want)
		}
		if f.Pix[4*(100*side+40)+3] != 0 {
			t.Error("a line that is not to be seen in the picture is there")
		}
		if f.Pix[4*(50*side+22)+3] == 0 && f.Pix[4*(51*side+22)+3] == 0 {
			t.Error("a line that is to be seen in the picture is not")
		}
	}
}

// A label is drawn into its pass with its line and letters, and into the picture where it is to be seen there, as much as there is of it.
func TestLabels(t *testing.T) {
	label := func(y float64, drawn bool) scene.Label {
		return scene.Label{Text: "HHH", Size: 0.1, At: [2]float64{0.6, y + 0.036}, Line: [3][2]float64{{0.1, y}, {0.5, y}, {0.55, y}}, Strength: 0.5, Drawn: drawn, Dark: true}
	}
	from := &scene.Scene{
		Camera: &scene.Camera{At: geom.Translation(geom.Vec3{0, 0, 2}), Width: 0.5, Height: 0.5, Gain: 1},
		Sky:    scene.Sky{Rotation: geom.NoTurn},
		Labels: []scene.Label{label(0.25, false), label(0.75, true)},
	}
	s, err := NewScene(from, NewProps(nil))
	if err != nil {
		t.Fatal(err)
	}
	const side = 200
	f, err := s.Expose(context.Background(), side, side, Options{Quality: Draft, Passes: []Pass{Labels}})
	if err != nil {
		t.Fatal(err)
	}
	ink := func(pix []float32, x0, y0, x1, y1 int) (sum float32) {
		for y := y0; y < y1; y++ {
			for x := x0; x < x1; x++ {
				sum += pix[4*(y*side+x)+3]
			}
		}
		return sum
	}
	pass := f.Layers[0].Pix
	for _, y := range []int{0, 100} {
		line, letters := ink(pass, 30, y, 100, y+100), ink(pass, 118, y, 200, y+100)
		if math.Abs(float64(line)-0.5*70) > 0.1*35 || letters < 30 || letters > 300 {
			t.Errorf("the line covers %g pixels of 35, the letters %g", line, letters)
		}
	}
	if ink(f.Pix, 0, 0, 200, 100) != 0 || ink(f.Pix, 0, 100, 200, 200) != ink(pass, 0, 100, 200, 200) {
		t.Error("the picture does not have what is to be seen in it alone")
	}
}
