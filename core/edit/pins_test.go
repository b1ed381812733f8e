package edit

import (
	"math"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/move"
	"perigyre/core/shot"
)

func pinnedShot(t *testing.T) *shot.Shot {
	t.Helper()
	s := shot.New("t")
	s.Frames, s.Ending = 48, shot.Loop
	s.Parts = []shot.Part{
		{ID: "a", Name: "A", Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{{
			ID: "m", Kind: "slide", Data: &move.Slide{By: geom.Vec3{1, 0, 0}, Frame: shot.ParentFrame}, Span: &shot.Span{From: 10, To: 20},
			Pins: []shot.Track{{Value: "by x", Pins: []shot.Pin{{Time: 0, Value: 1}, {Time: 24, Value: 2}}}},
		}}, Tracks: []shot.Track{{Value: shot.TrackX, Pins: []shot.Pin{
			{Time: 4, Value: 1, Next: shot.Curves, Out: &shot.Handle{Time: 4, Value: 1}},
			{Time: 12, Value: 3, In: &shot.Handle{Time: -4}, Next: shot.Holds},
			{Time: 40, Value: 5},
		}}}},
		{ID: "b", Name: "B", Kind: shot.Group, Rest: shot.AtRest},
	}
	if err := s.Validate(); err != nil {
		t.Fatal(err)
	}
	return s
}

func timesOf(track shot.Track) (out []float64) {
	for _, p := range track.Pins {
		out = append(out, p.Time)
	}
	return out
}

func TestMovePins(t *testing.T) {
	first := []PinRef{{Part: "a", Value: shot.TrackX, Time: 4}, {Part: "a", Value: shot.TrackX, Time: 12}}
	for _, c := range []struct {
		name string
		edit MovePins
		want []float64
	}{
		{"move", MovePins{Pins: first, By: 3, Scale: 1}, []float64{7, 15, 40}},
		{"over the seam", MovePins{Pins: first, By: -6, Scale: 1}, []float64{6, 40, 46}},
		{"with what comes later", MovePins{Pins: first[:1], By: 2, Scale: 1, Ripple: true}, []float64{6, 14, 42}},
		{"scaled about the first", MovePins{Pins: first, Scale: 0.5, About: 4}, []float64{4, 8, 40}},
		{"onto another pin", MovePins{Pins: first[:1], By: 36, Scale: 1}, []float64{12, 40}},
		{"copied", MovePins{Pins: first, By: 16, Scale: 1, Copy: true}, []float64{4, 12, 20, 28, 40}},
	} {
		s := apply(t, pinnedShot(t), &c.edit)
		got := timesOf(s.Parts[0].Tracks[0])
		for i := range got {
			if len(got) != len(c.want) || math.Abs(got[i]-c.want[i]) > 1e-9 {
				t.Fatalf("%s: pins at %v, not %v", c.name, got, c.want)
			}
		}
	}

	s := apply(t, pinnedShot(t), &MovePins{Pins: first, Scale: -1, About: 8})
	// Reversed about their middle: the values change places, and the curve is run from its other end.
	p := s.Parts[0].Tracks[0].Pins
	if p[0].Value != 3 || p[1].Value != 1 || p[0].Next != shot.Curves || p[0].Out.Time != 4 || p[1].In.Time != -4 || p[1].In.Value != 1 {
		t.Errorf("reversed pins are %+v", p[:2])
	}
	s = apply(t, pinnedShot(t), &MovePins{Pins: first, Scale: 1, By: 1, Copy: true, Onto: "b", Mirror: true})
	if b := s.Parts[1].Tracks[0]; b.Pins[0].Time != 5 || b.Pins[1].Value != -3 || b.Pins[0].Out.Value != -1 {
		t.Errorf("pins copied to another part and mirrored are %+v", b.Pins)
	}
	s = apply(t, pinnedShot(t), &MovePins{Pins: []PinRef{{Part: "a", Move: "m", Value: "by x", Time: 24}}, Bars: []string{"m"}, By: 6, Scale: 1})
	if m := s.Parts[0].Moves[0]; m.Pins[0].Pins[1].Time != 30 || *m.Span != (shot.Span{From: 16, To: 26}) {
		t.Errorf("a parameter's pin and its bar went to %v and %v", m.Pins[0].Pins[1].Time, *m.Span)
	}
	s = apply(t, pinnedShot(t), &RemovePins{Pins: first[:1]})
	if len(s.Parts[0].Tracks[0].Pins) != 2 {
		t.Errorf("a removed pin is still there")
	}
}

func TestStretch(t *testing.T) {
	s := apply(t, pinnedShot(t), &Stretch{From: 4, To: 12, About: 4, Scale: 2})
	want := []float64{4, 20, 48}
	for i, v := range timesOf(s.Parts[0].Tracks[0]) {
		if v != want[i] {
			t.Errorf("pin %d stands on %g after the stretch, not %g", i, v, want[i])
		}
	}
	if h := s.Parts[0].Tracks[0].Pins[0].Out.Time; h != 8 {
		t.Errorf("a handle inside is %g frames long, not 8", h)
	}
	if m := s.Parts[0].Moves[0]; *m.Span != (shot.Span{From: 16, To: 28}) {
		t.Errorf("a span across the end went to %v", *m.Span)
	}
}
