package check

import (
	"image"
	"image/color"
	"math"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/move"
	"perigyre/core/shot"
)

// painted is a shot of 12 rehearsed frames: a grey square that goes round in the middle, as a change lets it be.
func painted(change func(k int, p *image.NRGBA)) (out []Rehearsed) {
	for k := range 12 {
		p := image.NewNRGBA(image.Rect(0, 0, 32, 32))
		a := 2 * math.Pi * float64(k) / 12
		for y := range 8 {
			for x := range 8 {
				p.Set(x+12+int(math.Round(4*math.Cos(a))), y+12+int(math.Round(4*math.Sin(a))), color.NRGBA{120, 120, 120, 255})
			}
		}
		if change != nil {
			change(k, p)
		}
		out = append(out, Rehearsed{8 * k, p})
	}
	return out
}

func fill(p *image.NRGBA, c color.NRGBA) {
	for y := range 32 {
		for x := range 32 {
			p.Set(x, y, c)
		}
	}
}

// Each thing that pictures are looked at for is found where it is, and nothing in a shot that is as it should be.
func TestPictures(t *testing.T) {
	sound, _ := judge(t, box(turning(1)))
	for name, c := range map[string]struct {
		change func(k int, p *image.NRGBA)
		kind   string
		from   float64
		to     float64
	}{
		"sound": {},
		"two black frames": {func(k int, p *image.NRGBA) {
			if k == 4 || k == 5 {
				fill(p, color.NRGBA{1, 1, 1, 255})
			}
		}, "black", 32, 40},
		"burnt out": {func(k int, p *image.NRGBA) { fill(p, color.NRGBA{255, 255, 255, 255}) }, "burnt", 0, 88},
		"a shadow to the edge": {func(k int, p *image.NRGBA) {
			for x := range 16 {
				p.Set(x, 25, color.NRGBA{0, 0, 0, 60})
			}
		}, "shadow", 0, 88},
		"a frame that flickers": {func(k int, p *image.NRGBA) {
			if k == 7 {
				fill(p, color.NRGBA{90, 90, 90, 255})
			}
		}, "flicker", 56, 56},
		"a seam that shows": {func(k int, p *image.NRGBA) {
			if k >= 6 { // it comes in slowly, and is gone at once
				fill(p, color.NRGBA{uint8(20 * (k - 5)), 60, 60, uint8(40 * (k - 5))})
			}
		}, "hitch", 95, 0},
	} {
		var found []Finding
		for _, f := range Pictures(sound, painted(c.change)) {
			if f.Kind == c.kind || f.Kind != "shadow" && f.Kind != "burnt" { // a picture that is filled whole touches the edge, too
				found = append(found, f)
			}
		}
		if c.kind == "" && len(found) > 0 || c.kind != "" && len(of(found, c.kind)) != 1 {
			t.Errorf("%s: %+v", name, found)
			continue
		}
		for _, f := range of(found, c.kind) {
			if f.Frames[0] != c.from || f.Frames[1] != c.to {
				t.Errorf("%s: %v", name, *f.Frames)
			}
		}
	}
}

// Meters against what is known of simple moves: 0.9 m in 96 frames at 24 a second are 225 mm/s; a ball that is pushed slides by all of
// it; a turn in 4 s is 90 degrees a second; the way in the picture follows from the lens; the distance is that of the faces.
func TestMeters(t *testing.T) {
	pushed := box()
	rolling(pushed, 0)
	pushed.Parts = append(pushed.Parts, shot.Part{ID: "post", Name: "Post", Kind: shot.Made, Rest: shot.Rest{Position: geom.Vec3{1, 0, 0}, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}}, Moves: []shot.Move{}, Shape: box().Parts[0].Shape})
	f, _ := judge(t, pushed)
	meter := func(f *Facts, part, other, name string, frame int) float64 {
		t.Helper()
		list, err := Meters(f, part, other)
		if err != nil {
			t.Fatal(err)
		}
		for _, m := range list {
			if m.Name == name {
				return m.Values[frame]
			}
		}
		t.Errorf("%s of %s is not measured", name, part)
		return 0
	}
	turned, _ := judge(t, box(turning(1)))
	ahead := box(shot.Move{Kind: "slide", Span: &shot.Span{From: 0, To: 96}, After: shot.Mirrored, Laps: 2, Data: &move.Slide{By: geom.Vec3{0.6, 0, 0}, Frame: shot.ParentFrame}})
	ahead.Parts[0].Front = geom.Vec3{0, 0, 1}
	drifts, _ := judge(t, ahead)
	for _, c := range []struct {
		what      string
		got, want float64
	}{
		{"speed", meter(f, "box", "", "Speed", 48), 225},
		{"speed on the first frame", meter(f, "box", "", "Speed", 0), 225},
		{"slip", meter(f, "box", "", "Slip", 48), 9.375},
		{"turning", meter(turned, "box", "", "Turning", 30), 90},
		// 0.9 m / 96 at 4 m, 50 mm on 36 mm, 1080 px
		{"way in the picture", meter(f, "box", "", "In the picture", 48), 0.9 / 96 / 4 * 50 / 36 * 1080},
		// The ball's right side is at -0.4 + 0.45 + 0.1, the post's left one at 1 - 0.2; both reach the height of its middle.
		{"distance", meter(f, "box", "post", "Distance", 48), 650},
		{"drift", meter(drifts, "box", "", "Drift", 20), 90},
	} {
		if math.Abs(c.got-c.want) > 2e-3*c.want {
			t.Errorf("%s: %g, want %g", c.what, c.got, c.want)
		}
	}
}
