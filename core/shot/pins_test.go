package shot

import (
	"math"
	"testing"

	"perigyre/core/geom"
)

func pinnedShot(t *testing.T) *Shot {
	t.Helper()
	s := New("t")
	s.Frames, s.Ending = 48, Loop
	s.Parts = []Part{
		{ID: "a", Name: "A", Kind: Group, Rest: AtRest, Moves: []Move{{
			ID: "m", Kind: KindSlide, Slide: &Slide{By: geom.Vec3{1, 0, 0}, Frame: ParentFrame}, Span: &Span{10, 20},
			Pins: []Track{{Value: "by x", Pins: []Pin{{Time: 0, Value: 1}, {Time: 24, Value: 2}}}},
		}}, Tracks: []Track{{Value: TrackX, Pins: []Pin{
			{Time: 4, Value: 1, Next: Curves, Out: &Handle{Time: 4, Value: 1}},
			{Time: 12, Value: 3, In: &Handle{Time: -4}, Next: Holds},
			{Time: 40, Value: 5},
		}}}},
		{ID: "b", Name: "B", Kind: Group, Rest: AtRest},
	}
	if err := s.Validate(); err != nil {
		t.Fatal(err)
	}
	return s
}

func times(track Track) (out []float64) {
	for _, p := range track.Pins {
		out = append(out, p.Time)
	}
	return out
}

func TestMovePins(t *testing.T) {
	first := []PinRef{{Part: "a", Value: TrackX, Time: 4}, {Part: "a", Value: TrackX, Time: 12}}
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
		s, _, err := Edit{MovePins: &c.edit}.Apply(pinnedShot(t))
		if err != nil {
			t.Fatalf("%s: %v", c.name, err)
		}
		got := times(s.Parts[0].Tracks[0])
		for i := range got {
			if len(got) != len(c.want) || math.Abs(got[i]-c.want[i]) > 1e-9 {
				t.Fatalf("%s: pins at %v, not %v", c.name, got, c.want)
			}
		}
	}

	s, _, err := Edit{MovePins: &MovePins{Pins: first, Scale: -1, About: 8}}.Apply(pinnedShot(t))
	if err != nil {
		t.Fatal(err)
	}
	// Reversed about their middle: the values change places, and the curve is run from its other end.
	p := s.Parts[0].Tracks[0].Pins
	if p[0].Value != 3 || p[1].Value != 1 || p[0].Next != Curves || p[0].Out.Time != 4 || p[1].In.Time != -4 || p[1].In.Value != 1 {
		t.Errorf("reversed pins are %+v", p[:2])
	}
	s, _, err = Edit{MovePins: &MovePins{Pins: first, Scale: 1, By: 1, Copy: true, Onto: "b", Mirror: true}}.Apply(pinnedShot(t))
	if err != nil {
		t.Fatal(err)
	}
	if b := s.Parts[1].Tracks[0]; b.Pins[0].Time != 5 || b.Pins[1].Value != -3 || b.Pins[0].Out.Value != -1 {
		t.Errorf("pins copied to another part and mirrored are %+v", b.Pins)
	}
	s, _, err = Edit{MovePins: &MovePins{Pins: []PinRef{{Part: "a", Move: "m", Value: "by x", Time: 24}}, Bars: []string{"m"}, By: 6, Scale: 1}}.Apply(pinnedShot(t))
	if err != nil {
		t.Fatal(err)
	}
	if m := s.Parts[0].Moves[0]; m.Pins[0].Pins[1].Time != 30 || *m.Span != (Span{16, 26}) {
		t.Errorf("a parameter's pin and its bar went to %v and %v", m.Pins[0].Pins[1].Time, *m.Span)
	}
	s, _, err = Edit{RemovePins: &RemovePins{Pins: first[:1]}}.Apply(pinnedShot(t))
	if err != nil || len(s.Parts[0].Tracks[0].Pins) != 2 {
		t.Errorf("a removed pin is still there: %v", err)
	}
}

func TestStretch(t *testing.T) {
	s, _, err := Edit{Stretch: &Stretch{From: 4, To: 12, About: 4, Scale: 2}}.Apply(pinnedShot(t))
	if err != nil {
		t.Fatal(err)
	}
	want := []float64{4, 20, 48}
	for i, v := range times(s.Parts[0].Tracks[0]) {
		if v != want[i] {
			t.Errorf("pin %d stands on %g after the stretch, not %g", i, v, want[i])
		}
	}
	if h := s.Parts[0].Tracks[0].Pins[0].Out.Time; h != 8 {
		t.Errorf("a handle inside is %g frames long, not 8", h)
	}
	if m := s.Parts[0].Moves[0]; *m.Span != (Span{16, 28}) {
		t.Errorf("a span across the end went to %v", *m.Span)
	}
}

func TestFlexesAreBounded(t *testing.T) {
	s := pinnedShot(t)
	s.Parts[1].Parent = "a"
	for k := range MostFlexes + 1 {
		if err := s.Validate(); err != nil {
			t.Fatal(err)
		}
		p := &s.Parts[k%2] // own and of what it is in
		p.Moves = append(p.Moves, Move{ID: string(rune('p' + k)), Kind: KindFlex, Flex: &Flex{Shape: "twist", Towards: 1, Length: 1}})
	}
	if err := s.Validate(); err == nil {
		t.Error("five flexes on one mesh are let through")
	}
}
