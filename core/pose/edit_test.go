package pose

import (
	"bytes"
	"encoding/json"
	"math"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/shot"
)

// varied is a shot with a move of every kind.
func varied(t testing.TB) *shot.Shot {
	x, z := geom.Vec3{1, 0, 0}, geom.Vec3{0, 0, 1}
	moves := []shot.Move{
		{Kind: shot.KindTurntable, Turntable: &shot.Turntable{Moves: shot.ObjectMoves, Direction: shot.Clockwise, Turns: 1}},
		{Kind: shot.KindTurn, Turn: &shot.Turn{Axis: x, Frame: shot.OwnFrame, Turns: 0.5, Direction: shot.Clockwise, Stops: 3, Rest: 0.2}, Laps: 2},
		{Kind: shot.KindSlide, Slide: &shot.Slide{By: x, Frame: shot.ParentFrame}, Span: &shot.Span{From: 4, To: 20}, After: shot.Mirrored,
			Pins: []shot.Track{{Value: "by x", Pins: []shot.Pin{{Time: 0, Value: 1, Next: shot.Curves, Out: &shot.Handle{Time: 3, Value: 1}}, {Time: 12, Value: 2, In: &shot.Handle{Time: -3}}}}}},
		{Kind: shot.KindFloat, Float: &shot.Float{Height: 0.1, Period: 24, Tilt: 0.1}},
		{Kind: shot.KindSwing, Swing: &shot.Swing{Axis: z, Frame: shot.OwnFrame, Amplitude: 1, Shape: "pendulum", Length: 0.3}},
		{Kind: shot.KindRoll, Roll: &shot.Roll{Radius: 0.1, Along: x, Turns: 2, Contact: "in", Other: 0.4}},
		{Kind: shot.KindTopple, Topple: &shot.Topple{Along: x, Sides: 4, Width: 0.1, High: 0.2, Steps: 3}},
		{Kind: shot.KindTravel, Travel: &shot.Travel{Path: "drawn", Width: 1, Drawing: "M 0 0 C 10 0 20 10 20 20", To: 1, Lay: true, Bank: 0.2}},
		{Kind: shot.KindGear, Gear: &shot.Geared{Driver: "p2", Axis: x, Frame: shot.OwnFrame, Num: 16, Den: 20, Mesh: "outside"}},
		{Kind: shot.KindFollow, Follow: &shot.Follow{Of: "p3", Position: true, Rotation: true, Lag: 2}},
		{Kind: shot.KindOrbit, Orbit: &shot.Orbit{Target: "p4", Turns: 1, Radius: 2, Height: 1, Wave: 0.1, Waves: 2}},
		{Kind: shot.KindFlight, Flight: &shot.Flight{Stops: []shot.Stop{{At: 2, Rest: 3, Rotation: geom.NoTurn}, {At: 20, Position: x, Rotation: geom.NoTurn}}}},
		{Kind: shot.KindReveal, Reveal: &shot.Reveal{Order: "centre", Delay: 2, Takes: 5, From: "fade"}},
		{Kind: shot.KindUnfold, Unfold: &shot.Unfold{Angle: 1.5, Order: "list", Share: 0.5}},
		{Kind: shot.KindBurst, Burst: &shot.Burst{Spread: 1, Turn: 2, Seed: 3}},
		{Kind: shot.KindSquash, Squash: &shot.Squash{Axis: 1, Amount: 0.5}},
		{Kind: shot.KindFlex, Flex: &shot.Flex{Shape: "bend", Axis: 0, Towards: 1, Length: 1, Angle: 1}},
		{Kind: shot.KindLook, Look: &shot.Look{What: "opacity", From: [3]float64{1}, To: [3]float64{0.2}}},
	}
	s := shot.New("varied")
	s.Frames = 24
	id := func(k int) string { return "p" + string(rune('1'+k)) }
	for k := range moves {
		m := moves[k]
		m.ID = "m" + string(rune('a'+k))
		s.Parts = append(s.Parts, shot.Part{ID: id(k), Name: "Part " + id(k), Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{m}})
		child := shot.Part{ID: id(k) + "c", Name: "In " + id(k), Parent: id(k), Kind: shot.Made, Rest: shot.AtRest, Shape: &mesh.Shape{Kind: mesh.CylinderShape, Radius: 0.1, Height: 0.2, Sides: 12}}
		child.Tracks = []shot.Track{{Value: shot.TrackX, Pins: []shot.Pin{{Time: 3, Value: 1}, {Time: 12, Value: 2, Next: shot.Holds}}}}
		s.Parts = append(s.Parts, child)
	}
	s.Parts = append(s.Parts, shot.Part{ID: "cam", Name: "Camera", Kind: shot.Camera, Rest: shot.AtRest, Camera: &shot.Lens{Focal: 50, SensorWidth: 36, SensorHeight: 24, Sensor: shot.FitLonger}})
	s.Camera = "cam"
	if err := s.Validate(); err != nil {
		t.Fatal(err)
	}
	return s
}

// edits are one of each kind.
func edits(base *shot.Shot) (list []shot.Edit) {
	for _, p := range base.Parts {
		for _, m := range p.Moves {
			list = append(list, shot.Edit{SetMove: &shot.SetMove{Move: m}})
		}
	}
	return append(list,
		shot.Edit{SetTiming: &shot.SetTiming{Frames: 48, Rate: shot.Rate{Num: 30, Den: 1}, Ending: shot.Once}},
		shot.Edit{SetPart: &shot.SetPart{Part: base.Parts[1]}}, shot.Edit{SetPart: &shot.SetPart{Part: *base.Part("cam")}}, shot.Edit{RemovePart: &shot.RemovePart{Part: "p9"}},
		shot.Edit{Retime: &shot.Retime{Frames: 12, KeepSeconds: true}}, shot.Edit{Reverse: &shot.Reverse{Parts: []string{"p3", "p3c"}}}, shot.Edit{Shift: &shot.Shift{Frames: 1.5}},
		shot.Edit{Stretch: &shot.Stretch{From: 4, To: 12, About: 4, Scale: 2}}, shot.Edit{MoveMove: &shot.MoveMove{Move: "mc", Onto: []string{"p1", "p2"}, ID: "new"}},
		shot.Edit{MovePins: &shot.MovePins{Pins: []shot.PinRef{{Part: "p3c", Value: shot.TrackX, Time: 3}}, By: 3, Scale: -1, Copy: true, Onto: "p5c"}},
		shot.Edit{RemovePins: &shot.RemovePins{Pins: []shot.PinRef{{Part: "p3", Move: "mc", Value: "by x", Time: 12}}}}, shot.Edit{SetTracks: &shot.SetTracks{Part: "p1c", Tracks: base.Parts[1].Tracks}},
		shot.Edit{SetPicture: &shot.SetPicture{Format: &shot.Format{Width: 640, Height: 360}, View: "neutral", Camera: "cam"}},
	)
}

// tried applies an edit to a document. Whatever it says, it leaves that document as it was, and gives a valid one that
// reads back as it was written and can be evaluated, or an error.
func tried(t *testing.T, base *shot.Shot, edit []byte) {
	var e shot.Edit
	if json.Unmarshal(edit, &e) != nil {
		return
	}
	before, _ := json.Marshal(base)
	s, words, err := e.Apply(base)
	if after, _ := json.Marshal(base); !bytes.Equal(before, after) {
		t.Fatalf("%s: the document that was edited is not what it was", edit)
	}
	if err != nil {
		return
	}
	if words == "" {
		t.Errorf("%s: the history has no words for it", edit)
	}
	once, err := json.Marshal(s)
	if err != nil {
		t.Fatalf("%s: %v", edit, err)
	}
	if twice, _ := json.Marshal(s.Clone()); !bytes.Equal(once, twice) {
		t.Errorf("%s: it is read back as %s", edit, twice)
	}
	ev := New(s)
	for _, at := range []float64{0, 7.5, float64(s.Frames - 1)} {
		for i, m := range ev.At(at) {
			for _, v := range m {
				if math.IsNaN(v) {
					t.Errorf("%s: on frame %g %s is at %v", edit, at, s.Parts[i].Name, m)
				}
			}
			ev.Flexed(i, at)(geom.Vec3{1, 1, 1})
		}
		ev.Looks(at)
	}
}

// Every number of every kind of edit, at the ends of what it can be and beyond.
func TestEditsWithOddNumbers(t *testing.T) {
	base := varied(t)
	for _, e := range edits(base) {
		b, err := json.Marshal(e)
		if err != nil {
			t.Fatal(err)
		}
		var tree any
		if err := json.Unmarshal(b, &tree); err != nil {
			t.Fatal(err)
		}
		var visit func(at any, put func(any))
		visit = func(at any, put func(any)) {
			switch v := at.(type) {
			case map[string]any:
				for k, one := range v {
					visit(one, func(x any) { v[k] = x })
				}
			case []any:
				for k, one := range v {
					visit(one, func(x any) { v[k] = x })
				}
			case float64:
				for _, odd := range []float64{0, -1, 1, 1e-300, 3, 0.3, -7.5, 1e9, -1e9, 9e18, 1e300, -1e308} {
					put(odd)
					b, _ := json.Marshal(tree)
					tried(t, base, b)
				}
				put(v)
			}
		}
		visit(tree, nil)
	}
}

// Edits come over the wire.
func FuzzEdit(f *testing.F) {
	base := varied(f)
	for _, e := range edits(base) {
		b, _ := json.Marshal(e)
		f.Add(b)
	}
	f.Fuzz(func(t *testing.T, data []byte) { tried(t, base, data) })
}
