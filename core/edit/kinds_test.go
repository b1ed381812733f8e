package edit

import (
	"bytes"
	"encoding/json"
	"maps"
	"math"
	"slices"
	"strings"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/move"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

// varied is a shot with a move of every kind.
func varied(t testing.TB) *shot.Shot {
	x, z := geom.Vec3{1, 0, 0}, geom.Vec3{0, 0, 1}
	moves := []shot.Move{
		{Kind: "turntable", Data: &move.Turntable{Moves: "object", Direction: shot.Clockwise, Turns: 1}},
		{Kind: "turn", Data: &move.Turn{Axis: x, Frame: shot.OwnFrame, Turns: 0.5, Direction: shot.Clockwise, Stops: 3, Rest: 0.2}, Laps: 2},
		{Kind: "slide", Data: &move.Slide{By: x, Frame: shot.ParentFrame}, Span: &shot.Span{From: 4, To: 20}, After: shot.Mirrored,
			Pins: []shot.Track{{Value: "by x", Pins: []shot.Pin{{Time: 0, Value: 1, Next: shot.Curves, Out: &shot.Handle{Time: 3, Value: 1}}, {Time: 12, Value: 2, In: &shot.Handle{Time: -3}}}}}},
		{Kind: "float", Data: &move.Float{Height: 0.1, Period: 24, Tilt: 0.1}},
		{Kind: "swing", Data: &move.Swing{Axis: z, Frame: shot.OwnFrame, Amplitude: 1, Shape: "pendulum", Length: 0.3}},
		{Kind: "roll", Data: &move.Roll{Radius: 0.1, Along: x, Turns: 2, Contact: "in", Other: 0.4}},
		{Kind: "topple", Data: &move.Topple{Along: x, Sides: 4, Width: 0.1, High: 0.2, Steps: 3}},
		{Kind: "roll", Data: &move.Roll{Radius: 0.1, Along: x, Contact: "path", Laps: 2, Route: move.Route{Path: "rounded", Width: 1, Depth: 0.6, Corner: 0.2}}},
		{Kind: "travel", Data: &move.Travel{Route: move.Route{Path: "drawn", Width: 1, Drawing: "M 0 0 C 10 0 20 10 20 20"}, To: 1, Lay: true, Bank: 0.2}},
		{Kind: "gear", Data: &move.Gear{Driver: "p2", Axis: x, Frame: shot.OwnFrame, Num: 16, Den: 20, Mesh: "outside"}},
		{Kind: "follow", Data: &move.Follow{Of: "p3", Position: true, Rotation: true, Lag: 2}},
		{Kind: "orbit", Data: &move.Orbit{Target: "p4", Turns: 1, Radius: 2, Height: 1, Wave: 0.1, Waves: 2}},
		{Kind: "flight", Data: &move.Flight{Stops: []move.Stop{{At: 2, Rest: 3, Rotation: geom.NoTurn}, {At: 20, Position: x, Rotation: geom.NoTurn}}}},
		{Kind: "reveal", Data: &move.Reveal{Order: "centre", Delay: 2, Takes: 5, From: "fade"}},
		{Kind: "unfold", Data: &move.Unfold{Angle: 1.5, Order: "list", Share: 0.5}},
		{Kind: "burst", Data: &move.Burst{Spread: 1, Turn: 2, Seed: 3}},
		{Kind: "squash", Data: &move.Squash{Axis: 1, Amount: 0.5}},
		{Kind: "flex", Data: &move.Flex{Shape: "bend", Axis: 0, Towards: 1, Length: 1, Angle: 1}},
		{Kind: "cage", Data: &move.Cage{N: [3]int{2, 2, 2}, Size: geom.Vec3{1, 1, 1}, Points: make([]geom.Vec3, 8), Amount: 1, Mirror: "none"}, Pins: []shot.Track{{Value: "point 3 y", Pins: []shot.Pin{{Time: 0}, {Time: 9, Value: 0.1}}}}},
		{Kind: "nod", Data: &move.Nod{Axis: x, Frame: shot.OwnFrame, Amplitude: 0.3, Swings: 3, Decrement: 0.5}},
		{Kind: "aim", Data: &move.Aim{Target: "p2", Offset: x}},
		{Kind: "look", Data: &move.Look{What: "opacity", From: [3]float64{1}, To: [3]float64{0.2}}},
	}
	s := shot.New("varied")
	s.Frames = 24
	id := func(k int) string { return "p" + string(rune('1'+k)) }
	for k := range moves {
		m := moves[k]
		m.ID = "m" + string(rune('a'+k))
		s.Parts = append(s.Parts, shot.Part{ID: id(k), Name: "Part " + id(k), Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{m}})
		if id(k) == "p3" {
			s.Parts[len(s.Parts)-1].Moves = append(s.Parts[len(s.Parts)-1].Moves, shot.Move{ID: "second", Kind: "squash", Data: &move.Squash{Axis: 1, Amount: 0.2}})
		}
		child := shot.Part{ID: id(k) + "c", Name: "In " + id(k), Parent: id(k), Kind: shot.Made, Rest: shot.AtRest, Moves: []shot.Move{}, Shape: &mesh.Shape{Kind: mesh.CylinderShape, Radius: 0.1, Height: 0.2, Sides: 12}}
		child.Rest.Position = geom.Vec3{0.1, 0.2, 0.3}
		child.Tracks = []shot.Track{{Value: shot.TrackX, Pins: []shot.Pin{{Time: 3, Value: 1}, {Time: 12, Value: 2, Next: shot.Holds}}}}
		s.Parts = append(s.Parts, child)
	}
	s.Parts = append(s.Parts, shot.Part{ID: "bare", Name: "Bare", Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{}})
	s.Parts = append(s.Parts, shot.Part{ID: "tube", Name: "Tube", Kind: shot.Made, Rest: shot.AtRest, Moves: []shot.Move{},
		Shape: &mesh.Shape{Kind: mesh.TubeShape, Thick: 0.1, Sides: 12, Points: []geom.Vec3{{0, 1, 0}, {0, 2, 0}, {1, 2, 0}}}})
	s.Parts = append(s.Parts, shot.Part{ID: "cam", Name: "Camera", Kind: shot.Camera, Rest: shot.AtRest, Moves: []shot.Move{}, Camera: &shot.Lens{Focal: 50, SensorWidth: 36, SensorHeight: 24, Sensor: shot.FitLonger}})
	s.Camera = "cam"
	m := material.Default()
	m.ID, m.Name = "mat", "Brass"
	s.Part("cam").Rest.Position = geom.Vec3{0, 1, 6}
	s.Parts = append(s.Parts, shot.Part{ID: "lamp", Name: "Lamp", Kind: shot.Light, Rest: shot.AtRest, Moves: []shot.Move{}, Light: &shot.LightSpec{Kind: shot.Bulb, Radius: 0.1, Color: [3]float64{1, 1, 1}, Strength: 2}})
	s.Part("lamp").Rest.Position = geom.Vec3{-4, 5, 3}
	s.Angles = []shot.Angle{{ID: "side", Name: "Side", Position: geom.Vec3{6, 1, 0}, Rotation: geom.AxisAngle(geom.Vec3{0, 1, 0}, math.Pi/2), Lens: *s.Part("cam").Camera, Format: s.Format}}
	s.Rigs = []shot.Rig{{Name: "kept", Lights: []shot.RigLight{}}}
	worn := material.Default()
	worn.ID, worn.Name = "worn", "Paint"
	s.Materials = []material.Material{m, worn}
	s.Part("tube").Materials = []string{"worn"}
	s.Finishes = []shot.Finish{{ID: "day", Name: "Day", Swaps: []shot.Swap{}}}
	if err := s.Validate(); err != nil {
		t.Fatal(err)
	}
	return s
}

// edits are some of each kind that are carried out, by the names of their kinds.
func edits(base *shot.Shot) map[string][]Change {
	patch := func(s string) Patch { return Patch(s) }
	x, frame := shot.TrackX, 7.0
	two := 2.0
	next := "curve"
	yes, tag := true, "#d2a94e"
	pin := []PinRef{{Part: "p3c", Value: x, Time: 3}}
	float := base.Part("p4").Moves[0]
	return map[string][]Change{
		"rename":         {&Rename{Name: "Front"}},
		"setTiming":      {&SetTiming{Frames: ptr(48), Rate: &shot.Rate{Num: 30, Den: 1}, Ending: ptr(shot.Once)}},
		"setPicture":     {&SetPicture{Patch: patch(`{"format": {"width": 640, "height": 360}, "view": "neutral", "backdrop": [0.5, 0.5, 0.5]}`)}},
		"setFinish":      {&SetFinish{Finish: ""}},
		"setMaterial":    {&SetMaterial{Material: base.Materials[0].ID, Patch: patch(`{"oneSided": true}`)}, &SetMaterial{Material: base.Materials[0].ID, Patch: patch(`{"roughness": 0.31, "sheenColor": [0.1, 0.2, 0.3]}`)}},
		"wear":           {&Wear{Parts: []string{"p1"}, Dress: Dress{Preset: "brass"}}, &Wear{Parts: []string{"p1c"}, Dress: Dress{Material: "mat", Own: true}}},
		"removeMaterial": {&RemoveMaterial{Material: "mat"}},
		"addFinish":      {&AddFinish{Name: "Night"}},
		"renameFinish":   {&RenameFinish{Finish: "day", Name: "Noon"}},
		"removeFinish":   {&RemoveFinish{Finish: "day"}},
		"swap":           {&Swap{Finish: "day", Of: "worn", Dress: Dress{Preset: "rubber"}}, &Swap{Finish: "day", Of: "worn", Dress: Dress{Material: "worn", Color: &[3]float64{1, 0, 0}}}},
		"addLight":       {&AddLight{}, &AddLight{Kind: shot.Round}, &AddLight{Kind: shot.Bulb}, &AddLight{Kind: shot.Spot}, &AddLight{Kind: shot.Sun, ID: "n"}},
		"placeLight":     {&PlaceLight{Part: "lamp", Left: ptr(0.5), High: ptr(0.2)}, &PlaceLight{Part: "lamp", Aim: ptr("p1")}},
		"highlight":      {&Highlight{Part: "lamp", Point: geom.Vec3{0, 1, 0}, Normal: geom.Vec3{0, 1, 1}}},
		"shadowAt":       {&ShadowAt{Part: "lamp", Point: geom.Vec3{5, -2, 0}}},
		"useRig":         {&UseRig{Rig: "tent"}, &UseRig{Rig: "low sun", Bind: "cam"}, &UseRig{Rig: "window left", Bind: "p1"}},
		"keepRig":        {&KeepRig{Name: "Mine"}},
		"removeRig":      {&RemoveRig{Name: "kept"}},
		"addCutter":      {&AddCutter{}, &AddCutter{Of: "p1"}, &AddCutter{Of: "p1", Opens: true, ID: "n"}},
		"addCamera":      {&AddCamera{}, &AddCamera{From: &View{geom.Vec3{1, 2, 3}, geom.NoTurn}}},
		"accept":         {&Accept{Accepted: shot.Accepted{Kind: "margin", Parts: []string{"p1"}, Value: 3, Reason: "it is cropped"}}, &Accept{Accepted: shot.Accepted{Kind: "margin", Parts: []string{"p1"}, Value: 4, Reason: "so"}}},
		"aimAt":          {&AimAt{Part: "cam", At: "p1c"}, &AimAt{Part: "cam", Point: &geom.Vec3{3, 0, 1}}},
		"keepAngle":      {&KeepAngle{Name: "Front"}, &KeepAngle{From: &View{geom.Vec3{1, 2, 3}, geom.NoTurn}}},
		"setAngle":       {&SetAngle{Angle: "side", Name: ptr("Left"), To: ptr(0)}, &SetAngle{Angle: "side", Note: ptr("the good one")}},
		"removeAngle":    {&RemoveAngle{Angle: "side"}},
		"setSize":        {&SetSize{Parts: []string{"p1c"}, Axis: 1, To: 0.5}, &SetSize{Parts: []string{"p1c", "p2c"}, Axis: 0, Factor: 2, Even: true, At: &frame}},
		"useAngle":       {&UseAngle{Angle: "side"}},
		"setPart":        {&SetPart{Part: "p1c", Patch: patch(`{"name": "Rod", "rest": {"position": [0.1, 0, 0]}, "shape": {"radius": 0.2}}`)}, &SetPart{Part: "cam", Patch: patch(`{"camera": {"focal": 35}}`)}},
		"add":            {&AddPart{Part: shot.Part{ID: "n", Name: "New", Kind: shot.Group, Rest: shot.AtRest}}},
		"remove":         {&RemoveParts{Parts: []string{"p9"}}},
		"group":          {&Group{Parts: []string{"p1", "p2"}, ID: "n", Name: "Both"}},
		"ungroup":        {&Ungroup{Part: "bare"}},
		"putIn":          {&PutIn{Parts: []string{"p5"}, Parent: "p6", Keep: true}},
		"duplicate":      {&Duplicate{Parts: []string{"p5"}, ID: "n"}},
		"renameParts":    {&RenameParts{Parts: []string{"p1", "p2"}, Pattern: "{name} {n}"}},
		"stand":          {&Stand{Parts: []string{"p1c"}, Sink: 0.01}},
		"centre":         {&Centre{Parts: []string{"p1c"}}},
		"align":          {&Align{Parts: []string{"p1c", "p2c"}, Axis: 0, To: "low"}},
		"distribute":     {&Distribute{Parts: []string{"p1c", "p2c", "p3c"}, Axis: 2}},
		"resize":         {&Resize{Part: "p1c", Height: 0.3}},
		"transform":      {&Transform{Parts: []string{"p1c"}, Move: geom.Vec3{1, 2, 3}, Turn: geom.NoTurn, Size: 1.5}, &Transform{Parts: []string{"p1c"}, Move: geom.Vec3{1, 2, 3}, Turn: geom.NoTurn, Size: 1, At: &frame}},
		"faceTo":         {&FaceTo{Part: "p1c", From: geom.Vec3{0, 1, 0}, Normal: geom.Vec3{0, 1, 0}, To: geom.Vec3{1, 0, 0}, Facing: geom.Vec3{1, 0, 0}}},
		"faceCamera":     {&FaceCamera{Parts: []string{"p1c"}}},
		"reset":          {&Reset{Parts: []string{"p1c"}}},
		"restHere":       {&RestHere{Parts: []string{"p1c"}, Frame: 5}},
		"pivot":          {&SetPivot{Part: "p1c", To: "middle"}, &SetPivot{Part: "p1c", To: "top"}, &SetPivot{Part: "p1c", To: "point", Point: geom.Vec3{1, 1, 1}}},
		"flag":           {&SetFlags{Parts: []string{"p1"}, Hidden: &yes, Away: &yes, Tag: &tag}},
		"addMove":        {&AddMove{Part: "p1", Kind: "nod"}},
		"combine":        {&Combine{Name: "Hover and turn", Parts: []string{"p1"}}},
		"setMove":        {&SetMove{Move: "mb", Patch: patch(`{"span": {"from": 2, "to": 9}, "pace": {"kind": "sine", "way": "in"}, "laps": 3}`)}, &SetMove{Move: "mb", Values: map[string]json.RawMessage{"turns": json.RawMessage("2")}, Frame: 3, Record: true}},
		"replaceMoves":   {&ReplaceMoves{Moves: []shot.Move{float}}},
		"removeMoves":    {&RemoveMoves{Moves: []string{"ma"}}},
		"moveMove":       {&MoveMove{Move: "mc", To: 1}},
		"copyMove":       {&CopyMove{Move: "mc", Onto: []string{"p1", "p2"}}},
		"movePins":       {&MovePins{Pins: pin, By: 3, Scale: -1, Copy: true, Onto: "p5c"}},
		"removePins":     {&RemovePins{Pins: []PinRef{{Part: "p3", Move: "mc", Value: "by x", Time: 12}}}},
		"setPin":         {&SetPin{PinRef: PinRef{Part: "p3c", Value: x, Time: 9}, To: &two}, &SetPin{PinRef: PinRef{Part: "p3c", Value: x, Time: 9}, From: ptr(3.0), To: &two}, &SetPin{PinRef: PinRef{Part: "p2", Move: "mb", Value: "turns", Time: 4}}},
		"pinPose":        {&PinPose{Parts: []string{"p1"}, Time: 4, Whole: true, Deep: true}},
		"setPins":        {&SetPins{Pins: pin, Next: &next, After: ptr(shot.Beyond("repeat"))}},
		"matchEnds":      {&MatchEnds{Part: "p3c"}},
		"strip":          {&Strip{Parts: []string{"p3"}}},
		"removeTracks":   {&RemoveTracks{Parts: []string{"p3c"}}},
		"setHandle":      {&SetHandle{Pin: PinRef{Part: "p3", Move: "mc", Value: "by x", Time: 0}, Side: "out", Time: 2, Value: 3}},
		"retime":         {&Retime{Frames: 12, KeepSeconds: true}},
		"shift":          {&Shift{Frames: 1.5}},
		"reverse":        {&Reverse{Parts: []string{"p3", "p3c"}}},
		"stretch":        {&Stretch{From: 4, To: 12, About: 4, Scale: 2}},
		"addGround":      {&AddGround{ID: "n"}},
		"addShape":       {&AddShape{Kind: mesh.GearShape}},
		"addCopies":      {&AddCopies{Of: "p1c", ID: "n"}},
		"setShape":       {&SetShape{Part: "p1c", Measures: map[string]float64{"radius": 0.3, "sides": 9}}},
		"setPoints":      {&SetPoints{Part: "tube", At: 1, Add: true}, &SetPoints{Part: "tube", At: 1, To: &geom.Vec3{0, 3, 0}}},
	}
}

func ptr[T any](v T) *T { return &v }

// fromElsewhere are kinds that need files, whose tests are with the library, and those of a set from an import.
var fromElsewhere = map[string]bool{"setReading": true, "stage": true, "paste": true, "addWord": true, "asLongAs": true, "clipToPins": true, "findHinges": true}

// Every kind of edit is carried out: it changes something, says what, and leaves the document that it was asked of as it
// was; named parts and moves that are not there are a sentence.
func TestEveryKindOfEdit(t *testing.T) {
	base := varied(t)
	list := edits(base)
	for name := range kinds {
		if len(list[name]) == 0 && !fromElsewhere[name] {
			t.Errorf("no test carries out %s", name)
		}
	}
	before, _ := json.Marshal(base)
	float := base.Part("p4").Moves[0]
	float.ID = "copy"
	list["addMove"] = append(list["addMove"], &AddMove{Part: "p1", Move: &float})
	for name, some := range list {
		for _, c := range some {
			b, err := json.Marshal(Edit{c})
			if err != nil || !bytes.HasPrefix(b, []byte(`{"`+name+`"`)) {
				t.Fatalf("%s is written as %s, %v", name, b, err)
			}
			var e Edit
			if err := json.Unmarshal(b, &e); err != nil {
				t.Fatalf("%s: %v", name, err)
			}
			r, err := Apply(base, []Edit{e}, env())
			if err != nil {
				t.Errorf("%s: %v", b, err)
				continue
			}
			after, _ := json.Marshal(r.Shot)
			if bytes.Equal(before, after) != (name == "setFinish" || name == "replaceMoves") || r.Words == "" {
				t.Errorf("%s changes nothing or too much, and says %q", b, r.Words)
			}
			for _, id := range []string{"p1c", "p1", "p3c", "p3", "p5", "p9", "bare", "ma", "mb", "mc", "cam", "tube"} {
				if w := bytes.ReplaceAll(b, []byte(`"`+id+`"`), []byte(`"gone"`)); !bytes.Equal(w, b) {
					var e Edit
					if json.Unmarshal(w, &e) == nil {
						if _, err := Apply(base, []Edit{e}, env()); err == nil {
							t.Errorf("%s is let through", w)
						}
					}
				}
			}
			tried(t, base, b)
		}
	}
	if after, _ := json.Marshal(base); !bytes.Equal(before, after) {
		t.Error("the document that was edited is not what it was")
	}
	for says, text := range map[string]string{
		"there is no edit": `{"wave": {}}`, "says one thing": `{"rename": {"name": "a"}, "shift": {"frames": 1}}`,
		"unknown field": `{"rename": {"name": "a", "colour": 1}}`, "cannot be": `{"rename": {"name": 3}}`,
	} {
		var e Edit
		if err := json.Unmarshal([]byte(text), &e); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%s: %v", text, err)
		}
	}
	// All of a list or none of it.
	if _, err := Apply(base, []Edit{{&Rename{Name: "Front"}}, {&RemoveParts{Parts: []string{"gone"}}}}, env()); err == nil {
		t.Error("a list with a wrong edit is carried out")
	}
}

// What two people change apart is kept of both; what both change is refused to the later one, and nothing is merged by
// guess.
func TestFresh(t *testing.T) {
	older := varied(t)
	newer := apply(t, older, &SetPart{Part: "p1c", Patch: Patch(`{"rest": {"position": [5, 0, 0]}}`)})
	newer = apply(t, newer, &SetMove{Move: "mb", Values: map[string]json.RawMessage{"turns": json.RawMessage("7")}})
	newer = apply(t, newer, &SetPin{PinRef: PinRef{Part: "p3c", Value: shot.TrackX, Time: 3}, To: ptr(4.0)})
	for _, c := range []struct {
		change Change
		fresh  bool
	}{
		{&SetPart{Part: "p1c", Patch: Patch(`{"rest": {"position": [6, 0, 0]}}`)}, false},
		{&SetPart{Part: "p1c", Patch: Patch(`{"rest": {"rotation": [0, 0, 0, 1]}}`)}, true},
		{&SetPart{Part: "p1c", Patch: Patch(`{"name": "Rod"}`)}, true},
		{&SetMove{Move: "mb", Values: map[string]json.RawMessage{"turns": json.RawMessage("1")}}, false},
		{&SetMove{Move: "mb", Values: map[string]json.RawMessage{"stops": json.RawMessage("1")}}, true},
		{&SetMove{Move: "mb", Patch: Patch(`{"muted": true}`)}, true},
		{&SetPin{PinRef: PinRef{Part: "p3c", Value: shot.TrackX, Time: 5}, To: ptr(4.0)}, true}, // one more pin
		{&SetPin{PinRef: PinRef{Part: "p3c", Value: shot.TrackX, Time: 5}, From: ptr(12.0), To: ptr(4.0)}, false},
		{&SetPin{PinRef: PinRef{Part: "p4c", Value: shot.TrackX, Time: 5}, To: ptr(4.0)}, true},
		{&RemoveParts{Parts: []string{"p1c"}}, true}, // it works on what is there
	} {
		if got := Fresh([]Edit{{c.change}}, older, newer); got != c.fresh {
			b, _ := json.Marshal(Edit{c.change})
			t.Errorf("%s: %v", b, got)
		}
	}
}

// tried applies an edit to a document. Whatever it says, it leaves that document as it was, and gives a valid one that
// reads back as it was written and can be evaluated, or an error.
func tried(t *testing.T, base *shot.Shot, text []byte) {
	var e Edit
	if json.Unmarshal(text, &e) != nil {
		return
	}
	before, _ := json.Marshal(base)
	r, err := Apply(base, []Edit{e}, env())
	if after, _ := json.Marshal(base); !bytes.Equal(before, after) {
		t.Fatalf("%s: the document that was edited is not what it was", text)
	}
	if err != nil {
		return
	}
	s := r.Shot
	if r.Words == "" {
		t.Errorf("%s: the history has no words for it", text)
	}
	once, err := json.Marshal(s)
	if err != nil {
		t.Fatalf("%s: %v", text, err)
	}
	var again shot.Shot
	if err := json.Unmarshal(once, &again); err != nil {
		t.Fatalf("%s: %v", text, err)
	}
	if twice, _ := json.Marshal(&again); !bytes.Equal(once, twice) {
		t.Errorf("%s: it is read back as %s", text, twice)
	}
	ev := pose.New(s)
	for _, at := range []float64{0, 7.5, float64(s.Frames - 1)} {
		for i, m := range ev.At(at) {
			for _, v := range m {
				if math.IsNaN(v) {
					t.Errorf("%s: on frame %g %s is at %v", text, at, s.Parts[i].Name, m)
				}
			}
		}
		ev.Looks(at)
	}
}

// Every number of every kind of edit, at the ends of what it can be and beyond.
func TestEditsWithOddNumbers(t *testing.T) {
	base := varied(t)
	for _, e := range slices.Concat(slices.Collect(maps.Values(edits(base)))...) {
		b, err := json.Marshal(Edit{e})
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
	for _, e := range slices.Concat(slices.Collect(maps.Values(edits(base)))...) {
		b, _ := json.Marshal(Edit{e})
		f.Add(b)
	}
	f.Add([]byte(`{"add": {"part": {"id": "", "name": "New", "kind": "group", "rest": {"rotation": [0, 0, 0, 1], "size": [1, 1, 1]}}}}`)) // it was in itself
	f.Add([]byte(`{"group": {"parts": ["p1", "p2"], "id": "p1"}}`))
	f.Fuzz(func(t *testing.T, data []byte) { tried(t, base, data) })
}
