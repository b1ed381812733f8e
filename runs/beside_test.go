package runs

import (
	"bytes"
	"context"
	"errors"
	"slices"
	"testing"

	"perigyre/core/check"
	"perigyre/core/geom"
	"perigyre/core/render"
	"perigyre/core/shot"
)

// swinging is a sequence in final quality of a box that turns askew, so that each frame shows another picture.
func swinging(t *testing.T, frames int, ending shot.Ending) *Plan {
	t.Helper()
	s := boxShot()
	s.Frames, s.Ending = frames, ending
	s.Part("b").Rest.Rotation = geom.AxisAngle(geom.Vec3{1, 0, 0}, 0.3)
	o := Defaults(s)
	o.Of(render.Final)
	o.Noise = 0.3
	p, err := NewPlan(s, Names{}, o, "", Stock{Props: boxes})
	if err != nil {
		t.Fatal(err)
	}
	return p
}

// Frames of a sequence have those beside them as neighbours, across the seam of a loop and inwards at an end; samples have as many
// phases as go into the loop, so that any three have the same in them. A still has none.
func TestNeighboursOfFrames(t *testing.T) {
	for _, c := range []struct {
		frames int
		ending shot.Ending
		frame  int
		beside []int
		phases []int // of the frame and of those
	}{
		{6, shot.Loop, 0, []int{1, 5}, []int{0, 1, 2}},
		{6, shot.Loop, 4, []int{3, 5}, []int{1, 0, 2}},
		{8, shot.Loop, 7, []int{0, 6}, []int{1, 0, 0}},
		{7, shot.Loop, 6, []int{0, 5}, []int{0, 0, 0}},
		{8, shot.Once, 0, []int{1, 2}, []int{0, 1, 2}},
		{8, shot.Once, 7, []int{5, 6}, []int{0, 2, 0}}, // the turn is whole: it shows what frame 0 shows
	} {
		p := swinging(t, c.frames, c.ending)
		o, err := p.Order(c.frame)
		if err != nil {
			t.Fatal(err)
		}
		numbers := map[string]int{}
		for f := range c.frames {
			sc, err := p.scene(f)
			if err != nil {
				t.Fatal(err)
			}
			numbers[sc.Fingerprint()] = f
		}
		phases := map[int]int{}
		var got []int
		for _, m := range o.Beside {
			f := numbers[m.Scene.Fingerprint()]
			got, phases[f] = append(got, f), m.Phase
		}
		slices.Sort(got)
		own := []int{o.Phase}
		for _, f := range got {
			own = append(own, phases[f])
		}
		if !slices.Equal(got, c.beside) || !slices.Equal(own, c.phases) {
			t.Errorf("frame %d of %d (%s) has the neighbours %v with the phases %v", c.frame, c.frames, c.ending, got, own)
		}
	}
	p := swinging(t, 6, shot.Loop)
	p.Settings.To = 0
	if o, err := p.Order(0); err != nil || len(o.Beside) > 0 {
		t.Errorf("a still has neighbours (%v)", err)
	}
	p = swinging(t, 6, shot.Loop)
	gone, cancel := context.WithCancel(t.Context())
	cancel()
	if err := p.Compare(gone, nil); !errors.Is(err, context.Canceled) {
		t.Errorf("comparing goes on when it is not wanted any more: %v", err)
	}
	var shares []float64 // told one after the other
	if err := p.Compare(t.Context(), func(share float64) { shares = append(shares, share) }); err != nil {
		t.Error(err)
	}
	if len(shares) != 6 || shares[5] != 1 || !slices.IsSorted(shares) || !slices.Equal(p.firsts, []int{0, 1, 2, 3, 4, 5}) {
		t.Errorf("frames first shown are %v, and told is %v", p.firsts, shares)
	}
	p = swinging(t, 6, shot.Loop)
	p.Settings.Width, p.Settings.Height = 3001, 3000
	told := slices.ContainsFunc(p.Settings.Findings(Names{}, p.Document, t.TempDir()), func(f check.Finding) bool { return f.Title == "Frames are denoised one by one" })
	if o, err := p.Order(0); err != nil || len(o.Beside) > 0 || !told {
		t.Errorf("a frame that is too large has neighbours, or it is not told (%v)", err)
	}
}

// A frame's fingerprint covers its neighbours; where all stands still there are none, and all frames are one picture. Files are the
// same in whatever order they are drawn.
func TestFingerprintsCoverNeighbours(t *testing.T) {
	p := swinging(t, 6, shot.Loop)
	o, err := p.Order(2)
	if err != nil {
		t.Fatal(err)
	}
	before := o.Fingerprint()
	moved := *o.Beside[0].Scene
	moved.Sky.Strength += 0.1
	changed := &Order{Touching: o.Touching, Scene: o.Scene, Phase: o.Phase, Beside: []render.Moment{{Scene: &moved, Phase: o.Beside[0].Phase}, o.Beside[1]}}
	if changed.Fingerprint() == before {
		t.Error("another neighbour gives the same fingerprint")
	}
	rests := swinging(t, 6, shot.Loop)
	rests.Document.Part("b").Moves = nil
	rests, err = NewPlan(rests.Document, Names{}, rests.Settings, "", rests.stock)
	if err != nil {
		t.Fatal(err)
	}
	a, err := rests.Order(1)
	if err != nil {
		t.Fatal(err)
	}
	b, err := rests.Order(4)
	if err != nil {
		t.Fatal(err)
	}
	if len(a.Beside) > 0 || a.Fingerprint() != b.Fingerprint() {
		t.Error("frames that show the same are drawn more than once")
	}
	files := map[int][]byte{}
	for pass, list := range [][]int{{0, 1, 2, 3, 4, 5}, {4, 1, 5, 0, 3, 2}} {
		p := swinging(t, 6, shot.Loop)
		p.stock.Props.Rest()
		for _, f := range list {
			o, err := p.Order(f)
			if err != nil {
				t.Fatal(err)
			}
			got, _, err := o.Draw(t.Context(), p.stock.Props, 1+f%3, nil)
			if err != nil {
				t.Fatal(err)
			}
			if pass == 1 && !bytes.Equal(got[0], files[f]) {
				t.Errorf("frame %d is another file when it is drawn in another order", f)
			}
			files[f] = got[0]
		}
	}
}
