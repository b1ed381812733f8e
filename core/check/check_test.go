package check

import (
	"context"
	"slices"
	"strings"
	"sync"
	"testing"

	"perigyre/core/edit"
	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/move"
	"perigyre/core/shot"
)

// nothing has no files, and shapes as they are made.
type nothing struct{}

// built are the shapes that have been made, by their keys.
var built sync.Map

type surface struct {
	points  []geom.Vec3
	indices []uint32
	support *mesh.Support
}

func (nothing) of(p *shot.Part) *surface {
	made := p.Shaped()
	if made == nil {
		return &surface{support: mesh.NewSupport(nil)}
	}
	if was, ok := built.Load(made.Key()); ok {
		return was.(*surface)
	}
	out, m := &surface{}, made.Build()
	for _, v := range m.Positions {
		out.points = append(out.points, geom.V3(v))
	}
	out.indices, out.support = m.Indices, mesh.NewSupport(out.points)
	built.Store(made.Key(), out)
	return out
}

func (n nothing) Surface(p *shot.Part) ([]geom.Vec3, []uint32, error) {
	s := n.of(p)
	return slices.Clone(s.points), s.indices, nil
}

func (nothing) Flesh(*shot.Part) (*mesh.Mesh, error) { return &mesh.Mesh{}, nil }

func (n nothing) Support(p *shot.Part) (*mesh.Support, error) { return n.of(p).support, nil }

// box is a shot of a box with moves, before a camera that stands still and does not follow.
func box(moves ...shot.Move) *shot.Shot {
	s := shot.New("t")
	for k := range moves {
		moves[k].ID = string(rune('a' + k))
	}
	s.Parts = []shot.Part{
		{ID: "box", Name: "Box", Kind: shot.Made, Rest: shot.AtRest, Moves: moves, Shape: &mesh.Shape{Kind: mesh.BoxShape, Size: geom.Vec3{0.4, 0.3, 0.2}}},
		{ID: "cam", Name: "Camera", Kind: shot.Camera, Rest: shot.Rest{Position: geom.Vec3{0, 0, 4}, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}}, Moves: []shot.Move{},
			Camera: &shot.Lens{Focal: 50, SensorWidth: 36, SensorHeight: 24, Sensor: shot.FitLonger, Margin: 8}},
	}
	s.Camera = "cam"
	return s
}

func of(list []Finding, kind string) []Finding {
	var out []Finding
	for _, f := range list {
		if f.Kind == kind {
			out = append(out, f)
		}
	}
	return out
}

func turning(turns float64) shot.Move {
	return shot.Move{Kind: "turn", After: shot.Stays, Data: &move.Turn{Axis: geom.Vec3{0, 1, 0}, Frame: shot.OwnFrame, Turns: turns, Direction: shot.Clockwise}}
}

func sliding(from, to, metres float64) shot.Move {
	return shot.Move{Kind: "slide", Span: &shot.Span{From: from, To: to}, After: shot.Stays, Data: &move.Slide{By: geom.Vec3{metres, 0, 0}, Frame: shot.ParentFrame}}
}

// Whether a loop closes is what is seen at its seam, in the verdict and in the findings alike.
func TestVerdictsAreWhatIsSeen(t *testing.T) {
	pins := box()
	pins.Parts[0].Tracks = []shot.Track{{Value: shot.TrackX, Pins: []shot.Pin{{Time: 0}, {Time: 90, Value: 0.5}}}}
	along := box(sliding(0, 96, 2))
	along.Parts[1].Moves = []shot.Move{sliding(0, 96, 2)}
	along.Parts[1].Moves[0].ID = "with it"
	once := box(turning(0.3))
	once.Ending = shot.Once
	for _, c := range []struct {
		name   string
		shot   *shot.Shot
		closes bool
		words  string
	}{
		{"a whole turn", box(turning(1)), true, "frame 96, which is not rendered, is frame 0"},
		{"a third of one", box(turning(1.0 / 3)), false, "Box jumps by"},
		{"pins that do not come back", pins, false, "Box jumps by"},
		{"there by one move and back by another", box(sliding(0, 40, 0.5), sliding(50, 90, -0.5)), true, "closes"},
		{"a camera that keeps pace", along, true, "closes"},
		{"a shot that plays once", once, true, "has no seam"},
	} {
		f, found := judge(t, c.shot)
		v := Judge(f)
		if v.Closes != c.closes || !strings.Contains(v.Words, c.words) {
			t.Errorf("%s: %+v", c.name, v)
		}
		if blocks := len(of(found, "seam")) > 0; blocks == c.closes {
			t.Errorf("%s: the verdict is %v, and what is found is %+v", c.name, c.closes, found)
		}
		for _, one := range of(found, "seam") {
			if one.Weight != Blocks || len(one.Mends) == 0 {
				t.Errorf("%s: %+v", c.name, one)
			}
		}
	}
}

// What is offered as a mend mends: carried out through the door that every change goes through, the loop closes, and what was
// found is not found any more.
func TestMendsMend(t *testing.T) {
	pins := box()
	pins.Parts[0].Tracks = []shot.Track{
		{Value: shot.TrackX, Pins: []shot.Pin{{Time: 0}, {Time: 30, Value: 0.2, Next: shot.Smooth}, {Time: 90, Value: 0.5}}},
		{Value: shot.TrackOrientation, Pins: []shot.Pin{{Time: 5, Turn: &geom.Quat{0, 0, 0, 1}}, {Time: 60, Turn: &geom.Quat{0, 0.6, 0, 0.8}}}},
	}
	row := box()
	row.Parts = append([]shot.Part{{ID: "row", Name: "Row", Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{
		{ID: "r", Kind: "reveal", Span: &shot.Span{From: 0, To: 60}, After: shot.Stays, Data: &move.Reveal{Order: "left", Delay: 3, Takes: 12, From: "slide", By: geom.Vec3{0, 0.3, 0}}}}}}, row.Parts...)
	row.Parts[1].Parent = "row"
	low := box()
	low.Parts[0].Rest.Position = geom.Vec3{0, 1.4, 0}
	for name, s := range map[string]*shot.Shot{
		"turn": box(turning(1.0 / 3)), "slide": box(sliding(10, 50, 0.5)), "pins": pins, "reveal": row,
		"float": box(shot.Move{Kind: "float", Data: &move.Float{Height: 0.1, Period: 36, Tilt: 0.1}}),
		"swing": box(shot.Move{Kind: "swing", Data: &move.Swing{Axis: geom.Vec3{0, 0, 1}, Frame: shot.ParentFrame, Amplitude: 1, Shape: "pendulum", Length: 0.3}}),
		"roll":  box(shot.Move{Kind: "roll", Data: &move.Roll{Radius: 0.1, Along: geom.Vec3{1, 0, 0}, Turns: 1.5, Contact: "ground"}}),
		"pace":  box(shot.Move{Kind: "turn", Pace: shot.Pace{Kind: shot.Sine, Way: "both"}, Data: turning(1).Data}),
		"edge":  low,
	} {
		_, found := judge(t, s)
		if len(found) == 0 {
			t.Errorf("%s: nothing is found", name)
		}
		for _, was := range found {
			for _, m := range was.Mends {
				got, err := edit.Apply(s, m.Edits, edit.Env{Assets: nothing{}})
				if err != nil {
					t.Fatalf("%s: %q: %v", name, m.Words, err)
				}
				f, now := judge(t, got.Shot)
				if was.Kind == "seam" && !Judge(f).Closes {
					t.Errorf("%s: after %q: %+v", name, m.Words, Judge(f))
				}
				if left := of(now, was.Kind); len(left) > 0 {
					t.Errorf("%s: after %q there is still %q", name, m.Words, left[0].Title)
				}
			}
		}
		if name != "edge" && name != "pace" && (len(of(found, "seam")) == 0 || len(of(found, "seam")[0].Mends) == 0) {
			t.Errorf("%s: %+v", name, found)
		}
	}
}

// Each kind of finding is found where it is and nowhere else, with its weight.
func TestEveryFindingIsFound(t *testing.T) {
	wobble := 2e-3
	for name, c := range map[string]struct {
		change func(s *shot.Shot)
		facts  func(f *Facts)
		kind   string
		weight Weight
		title  string
	}{
		"nothing wrong":     {kind: ""},
		"no camera":         {change: func(s *shot.Shot) { s.Camera = "" }, kind: "camera", weight: Blocks, title: "No camera"},
		"everything hidden": {change: func(s *shot.Shot) { s.Parts[0].Hidden = true }, kind: "empty", weight: Blocks, title: "Nothing to see"},
		"cut off":           {change: func(s *shot.Shot) { s.Parts[0].Rest.Position[0] = 1.4 }, kind: "margin", weight: Blocks, title: "Box is cut off at the right"},
		"in the margin":     {change: func(s *shot.Shot) { s.Parts[0].Rest.Position[1] = -1.25 }, kind: "margin", weight: Look, title: "Box is within the margin at the bottom"},
		"far away":          {change: func(s *shot.Shot) { s.Parts[1].Rest.Position[2] = 9 }, kind: "small", weight: Look, title: "Much of the picture is empty"},
		"off the axis":      {facts: func(f *Facts) { f.Wobble = &wobble }, kind: "wobble", weight: Look, title: "The turntable wobbles"},
		"eased": {change: func(s *shot.Shot) {
			m := turning(1)
			m.ID, m.Pace = "a", shot.Pace{Kind: shot.Sine, Way: "both"}
			s.Parts[0].Moves, s.Parts[0].Shape.Size = []shot.Move{m}, geom.Vec3{1.2, 0.9, 0.2}
		}, kind: "stop", weight: Blocks, title: "Box stops each lap"},
		"a picture that is missing": {change: func(s *shot.Shot) {
			m := material.Default()
			m.ID, m.BaseColorTexture = "m", &material.Texture{Missing: "blue.png"}
			s.Materials, s.Parts[0].Materials = []material.Material{m}, []string{"m"}
		}, kind: "texture", weight: Blocks},
	} {
		s := box()
		s.Parts[0].Shape.Size = geom.Vec3{1.4, 1, 0.2} // much of the picture; a box stands on y = 0
		if c.change != nil {
			c.change(s)
		}
		f, _ := judge(t, s)
		if c.facts != nil {
			c.facts(f)
		}
		found, _ := Find(context.Background(), f, Watch{})
		switch {
		case c.kind == "" && len(found) > 0:
			t.Errorf("%s: %+v", name, found)
		case c.kind != "" && (len(of(found, c.kind)) != 1 || len(found) != 1):
			t.Errorf("%s: %+v", name, found)
		case c.kind != "" && (found[0].Weight != c.weight || c.title != "" && found[0].Title != c.title || found[0].Why == ""):
			t.Errorf("%s: %+v", name, found[0])
		}
	}
}
