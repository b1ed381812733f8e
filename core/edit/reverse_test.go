package edit

import (
	"reflect"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/move"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// Reversed, a shot is at each time where it was at the mirrored time; reversed twice, it is as it was.
func TestReverseMirrorsTime(t *testing.T) {
	s := shot.New("t")
	slide := shot.Move{Kind: "slide", Span: &shot.Span{From: 20, To: 60}, Pace: shot.Pace{Kind: shot.Power, Way: "in", Power: 3}, Data: &move.Slide{By: geom.Vec3{1, 0, 0}, Frame: shot.ParentFrame}}
	a := shot.Part{ID: "a", Name: "A", Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{slide, shot.Move{Kind: "swing", Data: &move.Swing{Axis: geom.Vec3{0, 0, 1}, Frame: shot.ParentFrame, Amplitude: 1, Shape: "pendulum", Period: 40}}}}
	a.Moves[0].ID, a.Moves[1].ID = "one", "two"
	a.Tracks = []shot.Track{{Value: shot.TrackY, Pins: []shot.Pin{{Time: 10, Value: 1, Next: shot.Smooth}, {Time: 30, Value: 2, Next: shot.Curves, Out: &shot.Handle{Time: 5, Value: 1}}, {Time: 50, Value: 0, In: &shot.Handle{Time: -8, Value: 0.5}}, {Time: 70, Value: 3}}}}
	s.Parts = []shot.Part{a}
	r := apply(t, s, &Reverse{})
	e, back := pose.New(s), pose.New(r)
	for f := 0.5; f < 96; f += 3.7 {
		if d := e.At(f)[0].Column(3).Sub(back.At(96 - f)[0].Column(3)).Len(); d > 1e-9 {
			t.Fatalf("frame %g: off by %g", f, d)
		}
	}
	if again := apply(t, r, &Reverse{}); !reflect.DeepEqual(again.Parts, s.Clone().Parts) {
		t.Error("reversed twice it is not as it was")
	}
}
