package check

import (
	"context"
	"math"
	"slices"
	"strings"
	"sync"
	"testing"

	"perigyre/core/edit"
	"perigyre/core/framing"
	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/move"
	"perigyre/core/scene"
	"perigyre/core/shot"
)

var looked sync.Map // what has been told of shapes, by their keys

// alike tells shapes that look the same turned, as the renderer does.
type alike struct{}

func (alike) Turns(m scene.Mesh) (turns, axis int, through geom.Vec3, size float64) {
	turns = 1
	if m.Shape == nil {
		return
	}
	type seen struct {
		turns, axis int
		through     geom.Vec3
		size        float64
	}
	if was, ok := looked.Load(m.Shape.Key()); ok {
		w := was.(seen)
		return w.turns, w.axis, w.through, w.size
	}
	defer func() { looked.Store(m.Shape.Key(), seen{turns, axis, through, size}) }()
	list := []*mesh.Mesh{m.Shape.Build()}
	for a := range 3 {
		if n, c := mesh.Turns(list, a); n > turns {
			turns, axis, through, size = n, a, c, list[0].Bounds().Size().Len()
		}
	}
	return
}

func pinned(v shot.Value, next shot.Between, pins ...float64) shot.Track {
	t := shot.Track{Value: v}
	for k := 0; k+1 < len(pins); k += 2 {
		t.Pins = append(t.Pins, shot.Pin{Time: pins[k], Value: pins[k+1], Next: next})
	}
	return t
}

func lamp() shot.Part {
	return shot.Part{ID: "lamp", Name: "Lamp", Kind: shot.Light, Rest: shot.Rest{Position: geom.Vec3{1, 2, 2}, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}}, Moves: []shot.Move{},
		Light: &shot.LightSpec{Kind: shot.Bulb, Radius: 0.1, Color: [3]float64{1, 1, 1}, Strength: 5}}
}

// row is a row of 12 boxes across the picture and far beyond its sides, 0.5 apart.
func row(s *shot.Shot, moves ...shot.Move) {
	s.Parts[0].Shape.Size = geom.Vec3{0.2, 0.2, 0.2}
	s.Parts = slices.Insert(s.Parts, 1, shot.Part{ID: "row", Name: "Row", Kind: shot.Copies, Rest: shot.Rest{Position: geom.Vec3{-4, 0.4, 0}, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}}, Moves: moves,
		Copies: &shot.Spread{Of: "box", Kind: "row", Count: [3]int{17, 1, 1}, Step: geom.Vec3{0.5, 0, 0}}})
	for k := range s.Parts[1].Moves {
		s.Parts[1].Moves[k].ID = "row" + string(rune('a'+k))
	}
	s.Parts[0].Hidden = true
}

// Shots with a fault: each is found, with its kind, its part, its frames, and its number; every mend that is offered makes it
// vanish and brings no other thing that blocks. What each number must be is said beside it.
func TestFaultsAreFound(t *testing.T) {
	for name, c := range map[string]struct {
		change func(s *shot.Shot)
		kind   string
		part   string
		value  [2]float64 // from and to, in the finding's unit
	}{
		"a third of a turn": {func(s *shot.Shot) { s.Parts[0].Moves = []shot.Move{named("a", turning(1.0/3))} }, "seam", "box", [2]float64{100, 900}},
		// 0.1 m at 3.9 m (the front of the box), 50 mm on 36 mm, 1080 px: 0.1/3.9 * 50/36 * 1080.
		"pins that end elsewhere": {func(s *shot.Shot) {
			s.Parts[0].Tracks = []shot.Track{pinned(shot.TrackX, shot.Straight, 0, 0, 96, 0.1)}
		}, "seam", "box", [2]float64{38.4, 38.5}},
		"a camera that does not come back": {func(s *shot.Shot) { s.Parts[1].Moves = []shot.Move{named("a", sliding(0, 96, 0.1))} }, "seam", "cam", [2]float64{38.4, 38.5}},
		"a light that is elsewhere in the end": {func(s *shot.Shot) {
			l := lamp()
			l.Moves = []shot.Move{named("a", sliding(0, 96, 1))}
			s.Parts = append(s.Parts, l)
		}, "seam", "lamp", [2]float64{10, 60}},
		"a colour that stays another": {func(s *shot.Shot) {
			s.Parts[0].Moves = []shot.Move{{ID: "a", Kind: "look", After: shot.Stays, Data: &move.Look{What: "colour", Own: true, To: [3]float64{0, 0, 1}}}}
		}, "seam", "box", [2]float64{5, 100}},
		"a bend that stays": {func(s *shot.Shot) {
			s.Parts[0].Moves = []shot.Move{{ID: "a", Kind: "flex", After: shot.Stays, Data: &move.Flex{Shape: "bend", Axis: 1, Length: 0.3, Angle: 1}}}
		}, "seam", "box", [2]float64{10, 200}},
		"a row that goes half a step": {func(s *shot.Shot) { row(s, sliding(0, 96, 0.25)) }, "seam", "row", [2]float64{90, 110}},
		"a square that turns a sixth": {func(s *shot.Shot) {
			s.Parts[0].Shape.Size = geom.Vec3{0.4, 0.3, 0.4}
			s.Parts[0].Moves = []shot.Move{named("a", turning(1.0/6))}
		}, "seam", "box", [2]float64{50, 200}},
		"a turntable whose last frame is its first": {func(s *shot.Shot) {
			s.Parts[0].Tracks = []shot.Track{pinned(shot.TrackTurnY, shot.Straight, 0, 0, 95, 2*math.Pi)}
		}, "doubled", "box", [2]float64{1, 1}},
		"a slide along that stops a frame early": {func(s *shot.Shot) {
			s.Parts[0].Moves = []shot.Move{{ID: "a", Kind: "travel", Span: &shot.Span{From: 0, To: 95}, After: shot.Stays, Data: &move.Travel{Route: move.Route{Path: "circle", Width: 0.4, Depth: 0.4}, To: 1}}}
		}, "doubled", "box", [2]float64{1, 1}},
		"an eased turntable by pins": {func(s *shot.Shot) {
			s.Parts[0].Tracks = []shot.Track{pinned(shot.TrackTurnY, shot.Smooth, 0, 0, 96, 2*math.Pi)}
		}, "stop", "box", [2]float64{80, 100}},
		"an eased turntable": {func(s *shot.Shot) {
			m := named("a", turning(1))
			m.Pace = shot.Pace{Kind: shot.Sine, Way: "both"}
			s.Parts[0].Moves = []shot.Move{m}
		}, "stop", "box", [2]float64{80, 100}},
		// Each copy jumps back by 0.3 m, as late as it plays: 0.3/3.9 * 50/36 * 1080.
		"copies that start anew one after another": {func(s *shot.Shot) {
			row(s)
			s.Parts[0].Moves = []shot.Move{named("a", sliding(0, 96, 0.3))}
			s.Parts[1].Copies.Delay = 4
		}, "jump", "row", [2]float64{100, 130}},
		"a camera within the box":  {func(s *shot.Shot) { s.Parts[1].Rest.Position = geom.Vec3{0, 0.1, 0.02} }, "inside", "box", [2]float64{1, 96}},
		"a camera that looks away": {func(s *shot.Shot) { s.Parts[1].Rest.Rotation = geom.AxisAngle(geom.Vec3{0, 1, 0}, math.Pi) }, "blind", "cam", [2]float64{96, 96}},
		"a cutter that ends tilted": {func(s *shot.Shot) {
			s.Parts = append(s.Parts, shot.Part{ID: "cut", Name: "Cut", Kind: shot.Cutter, Rest: shot.AtRest, Cut: &shot.Cut{Shape: "slab", Size: geom.Vec3{0, 0.1, 0}},
				Moves: []shot.Move{{ID: "a", Kind: "turn", After: shot.Stays, Data: &move.Turn{Axis: geom.Vec3{1, 0, 0}, Frame: shot.OwnFrame, Turns: 0.1, Direction: shot.Clockwise}}}})
		}, "seam", "cut", [2]float64{30, 90}},
		// A box 0.3 high that stands on the floor, and is 0.2 m lower on frame 48.
		"a box that sinks": {func(s *shot.Shot) {
			s.Parts = append(s.Parts, shot.Part{ID: "floor", Name: "Floor", Kind: shot.Floor, Rest: shot.AtRest, Moves: []shot.Move{}})
			s.Parts[0].Tracks = []shot.Track{pinned(shot.TrackY, shot.Straight, 0, 0, 48, -0.2, 96, 0)}
		}, "floor", "box", [2]float64{199, 201}},
		// Two boxes 0.4 wide whose paths cross: no point of one is deeper in the other than the half of its depth, 0.1.
		"boxes on crossing paths": {func(s *shot.Shot) { crossing(s, 0, 5) }, "clearance", "box", [2]float64{30, 101}},
		// It creeps 3 mm into its twin of 0.54 m, by 0.03 mm a frame.
		"a box that creeps into another": {func(s *shot.Shot) {
			twin := s.Parts[0]
			twin.ID, twin.Name, twin.Rest.Position = "twin", "Twin", geom.Vec3{0.4, 0, 0}
			s.Parts[0].Moves = []shot.Move{{ID: "a", Kind: "slide", After: shot.Mirrored, Laps: 2, Span: &shot.Span{From: 0, To: 96}, Data: &move.Slide{By: geom.Vec3{0.003, 0, 0}, Frame: shot.ParentFrame}}}
			s.Parts = append(s.Parts, twin)
		}, "clearance", "box", [2]float64{2.9, 3.05}},
		// A wall of 1 mm that a ball of 10 mm passes within a frame: 5 mm of its middle at most.
		"a ball that is shot through a wall": {func(s *shot.Shot) {
			s.Parts[0].Shape.Size = geom.Vec3{0.001, 0.5, 0.5}
			s.Parts = append(s.Parts, shot.Part{ID: "shot", Name: "Ball", Kind: shot.Made, Rest: shot.Rest{Position: geom.Vec3{-0.5, 0.2, 0}, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}},
				Moves: []shot.Move{{ID: "a", Kind: "slide", Span: &shot.Span{From: 40, To: 44}, After: shot.Mirrored, Laps: 2, Data: sliding(0, 1, 1.1).Data}}, Shape: &mesh.Shape{Kind: mesh.SphereShape, Radius: 0.01, Sides: 24}})
		}, "clearance", "shot", [2]float64{4, 10.5}},
		// A ball of 0.1 that goes 0.9 m in 96 frames and turns by 7.5 rad, as one of 0.12 would: 0.9/96 - 0.1 * 7.5/96 = 1.5625 mm.
		"a ball that is pinned as if it were larger": {func(s *shot.Shot) { rolling(s, -7.5) }, "slip", "box", [2]float64{1.55, 1.575}},
		// It does not turn at all: 0.9/96 = 9.375 mm.
		"a ball that is pushed": {func(s *shot.Shot) { rolling(s, 0) }, "slip", "box", [2]float64{9.37, 9.38}},
		// The move's own radius is wrong, in a shot whose last frame is 95: (0.12 - 0.1) * 2 * 2 pi / 95 = 2.646 mm.
		"a ball that rolls by a wrong radius": {func(s *shot.Shot) {
			rolling(s, 0)
			s.Parts[0].Tracks = nil
			s.Parts[0].Moves = []shot.Move{{ID: "a", Kind: "roll", After: shot.Stays, Data: &move.Roll{Radius: 0.12, Along: geom.Vec3{1, 0, 0}, Turns: 2, Contact: "ground"}}}
		}, "slip", "box", [2]float64{2.64, 2.65}},
		// 0.4 turns in 64 frames and 0.6 in 32, three times as fast: the front corners are 0.1 m before the axis, so that
		// (1.2 pi / 32 - 0.8 pi / 64) * 0.1 / 3.9 * 50/36 * 1080 = 3.02 px a frame, and a little as they come nearer.
		"a turn that goes on three times as fast": {func(s *shot.Shot) {
			s.Parts[0].Tracks = []shot.Track{pinned(shot.TrackTurnY, shot.Straight, 0, 0, 64, 0.8*math.Pi, 96, 2*math.Pi)}
		}, "kink", "box", [2]float64{3.02, 3.4}},
		// Friction wheels of 0.1 and 0.2 at 2 and 0.9 turns in 95 frames: (2 * 0.1 - 0.9 * 0.2) * 2 pi / 95 = 1.323 mm.
		"friction wheels of another ratio": {func(s *shot.Shot) { wheels(s, 0.9) }, "slip", "box", [2]float64{1.32, 1.326}},
		// Its way turns by a quarter and it does not: from ahead to 90 degrees aside, the last half of it told.
		"a front that does not follow its way": {func(s *shot.Shot) { heading(s, 0) }, "drift", "box", [2]float64{80, 90}},
		"pins that are eased one by one": {func(s *shot.Shot) {
			level := &shot.Handle{Time: 12}
			come := &shot.Handle{Time: -12}
			s.Parts[0].Tracks = []shot.Track{{Value: shot.TrackX, Pins: []shot.Pin{{Time: 0, Next: shot.Curves, Out: level}, {Time: 32, Value: 0.2, Next: shot.Curves, In: come, Out: level}, {Time: 64, Value: 0.4, In: come}, {Time: 96}}}}
		}, "rest", "box", [2]float64{1, 1}},
		"a part that is left a mile away": {func(s *shot.Shot) {
			p := s.Parts[0]
			p.ID, p.Name, p.Rest.Position = "far", "Far", geom.Vec3{0, 0, 1600}
			s.Parts = append(s.Parts, p)
		}, "leftover", "far", [2]float64{1, 1}},
		"a part a hundred times too small": {func(s *shot.Shot) {
			p := s.Parts[0]
			p.ID, p.Name, p.Rest.Position, p.Rest.Size = "tiny", "Tiny", geom.Vec3{0, 0.5, 0}, geom.Vec3{1e-3, 1e-3, 1e-3}
			s.Parts = append(s.Parts, p)
		}, "leftover", "tiny", [2]float64{1, 1}},
		"a cutter opens a sheet": {func(s *shot.Shot) {
			p := s.Parts[0]
			p.ID, p.Name, p.Shape = "sheet", "Sheet", &mesh.Shape{Kind: mesh.PlaneShape, Size: geom.Vec3{0.3, 0, 0.3}}
			p.Rest.Position = p.Rest.Position.Add(geom.Vec3{0, 0.5, 0})
			s.Parts = append(s.Parts, p, shot.Part{ID: "cut", Name: "Cut", Kind: shot.Cutter, Rest: p.Rest, Moves: []shot.Move{}, Cut: &shot.Cut{Shape: "sphere", Radius: 0.1, Parts: []string{}}})
		}, "open mesh", "sheet", [2]float64{1, 1}},
		"a lamp on the turntable": {func(s *shot.Shot) {
			s.Parts[0].Moves = []shot.Move{named("a", turning(1))}
			l := lamp()
			l.Parent = "box"
			s.Parts = append(s.Parts, l)
		}, "bound", "lamp", [2]float64{1, 1}},
		"another camera moves": {func(s *shot.Shot) {
			c := s.Parts[1]
			c.ID, c.Name, c.Moves = "other", "Other", []shot.Move{back()}
			s.Parts = append(s.Parts, c)
		}, "camera", "other", [2]float64{1, 1}},
		"a wall before it": {func(s *shot.Shot) {
			p := s.Parts[0]
			p.ID, p.Name, p.Set, p.Rest.Position = "wall", "Wall", true, geom.Vec3{0, 0, 1}
			s.Parts = append(s.Parts, p)
		}, "between", "wall", [2]float64{100, 100}},
		"no light": {func(s *shot.Shot) { s.Environment.Strength = 0 }, "dark", "", [2]float64{}},
	} {
		s := box()
		c.change(s)
		f, found := judge(t, s)
		list := of(found, c.kind)
		if len(list) == 0 {
			t.Errorf("%s: found %+v", name, found)
			continue
		}
		one := list[0]
		if (one.Weight != Blocks) != slices.Contains([]string{"floor", "slip", "drift", "rest", "leftover", "bound", "camera", "between", "kink", "open mesh"}, c.kind) || c.part != "" && !slices.Contains(one.Parts, c.part) || one.Value < c.value[0] || one.Value > c.value[1] || one.Why == "" || one.Unit == "" {
			t.Errorf("%s: %+v", name, one)
		}
		if c.kind == "seam" == Judge(f).Closes {
			t.Errorf("%s: %+v", name, Judge(f))
		}
		for _, m := range one.Mends {
			done, err := edit.Apply(s, m.Edits, edit.Env{Assets: nothing{}})
			if err != nil {
				t.Fatalf("%s: %q: %v", name, m.Words, err)
			}
			_, now := judge(t, done.Shot)
			for _, left := range now {
				if left.Kind == c.kind || left.Weight == Blocks && len(of(found, left.Kind)) == 0 {
					t.Errorf("%s: after %q: %+v", name, m.Words, left)
				}
			}
		}
	}
}

// Sound shots that look suspicious: nothing blocks in any.
func TestSoundShotsAreLeftAlone(t *testing.T) {
	for name, change := range map[string]func(s *shot.Shot){
		"a camera that travels along": func(s *shot.Shot) {
			s.Parts[0].Moves = []shot.Move{named("a", sliding(0, 96, 2))}
			s.Parts[1].Moves = []shot.Move{named("b", sliding(0, 96, 2))}
		},
		"a row that marches a step":      func(s *shot.Shot) { row(s, sliding(0, 96, 0.5)) },
		"a row that marches three":       func(s *shot.Shot) { row(s, sliding(0, 96, -1.5)) },
		"a camera that goes along a row": func(s *shot.Shot) { row(s); s.Parts[2].Moves = []shot.Move{named("b", sliding(0, 96, 0.5))} },
		"a square that turns a quarter":  func(s *shot.Shot) { square(s); s.Parts[0].Moves = []shot.Move{named("a", turning(0.25))} },
		"there and back by two moves": func(s *shot.Shot) {
			s.Parts[0].Moves = []shot.Move{named("a", sliding(0, 48, 0.4)), named("b", sliding(48, 96, -0.4))}
		},
		"a muted move that would jump":    func(s *shot.Shot) { m := named("a", turning(0.3)); m.Muted = true; s.Parts[0].Moves = []shot.Move{m} },
		"a move in the group's stead":     cancelled,
		"eased, there and back":           func(s *shot.Shot) { s.Parts[0].Moves = []shot.Move{back()} },
		"a swing that turns at the seam":  func(s *shot.Shot) { s.Parts[0].Moves = []shot.Move{swinging(0.25)} },
		"a swing that turns at half past": func(s *shot.Shot) { s.Parts[0].Moves = []shot.Move{swinging(0.25 + 0.5/48)} },
		"held poses": func(s *shot.Shot) {
			s.Parts[0].Tracks = []shot.Track{pinned(shot.TrackX, shot.Holds, 0, 0, 30, 0.2, 60, -0.2, 90, 0)}
		},
		"a turn in steps": func(s *shot.Shot) {
			m := named("a", turning(1))
			m.Pace = shot.Pace{Kind: shot.Steps, Steps: 8, Jump: "jump-end"}
			s.Parts[0].Moves = []shot.Move{m}
		},
		"a turn with four rests": func(s *shot.Shot) {
			m := named("a", turning(1))
			m.Data.(*move.Turn).Stops, m.Data.(*move.Turn).Rest = 4, 0.5
			s.Parts[0].Moves = []shot.Move{m}
		},
		"pins that end on N": func(s *shot.Shot) {
			s.Parts[0].Tracks = []shot.Track{pinned(shot.TrackTurnY, shot.Straight, 0, 0, 96, 2*math.Pi)}
		},
		"something hidden that jumps": func(s *shot.Shot) {
			p := s.Parts[0]
			p.ID, p.Name, p.Hidden, p.Moves = "other", "Other", true, []shot.Move{named("a", turning(0.3))}
			s.Parts = append(s.Parts, p)
		},
		"a light that goes round": func(s *shot.Shot) {
			l := lamp()
			l.Pivot = geom.Vec3{-1, -2, -2}
			l.Moves = []shot.Move{named("a", turning(1))}
			s.Parts = append(s.Parts, l)
		},
		"a shot that plays once and ends elsewhere": func(s *shot.Shot) {
			s.Ending = shot.Once
			s.Parts[0].Moves = []shot.Move{named("a", turning(0.3))}
		},
		"a move across the seam": func(s *shot.Shot) {
			s.Parts[0].Moves = []shot.Move{named("a", turning(1))}
			s.Parts[0].Moves[0].Span = &shot.Span{From: 80, To: 110}
		},
		"copies that play late": func(s *shot.Shot) {
			row(s)
			s.Parts[0].Moves = []shot.Move{back()}
			s.Parts[1].Copies.Delay = 4
		},
		"a part that goes back while it has faded away": func(s *shot.Shot) {
			s.Parts[0].Moves = []shot.Move{named("a", sliding(0, 96, 0.5)), {ID: "b", Kind: "look", After: shot.Mirrored, Laps: 2, Data: &move.Look{What: "opacity", To: [3]float64{1}}}}
		},
		"a camera in a room with what it shows": func(s *shot.Shot) {
			s.Parts = append(s.Parts, shot.Part{ID: "room", Name: "Room", Kind: shot.Made, Rest: shot.Rest{Position: geom.Vec3{0, -2, 0}, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}}, Moves: []shot.Move{}, Shape: &mesh.Shape{Kind: mesh.BoxShape, Size: geom.Vec3{10, 5, 10}}})
		},
		"a lid that lifts off and comes back": func(s *shot.Shot) {
			lid := s.Parts[0]
			lid.ID, lid.Name, lid.Rest.Position = "lid", "Lid", geom.Vec3{0, 0.3, 0}
			up := back()
			up.Data = &move.Slide{By: geom.Vec3{0, 0.2, 0}, Frame: shot.ParentFrame}
			lid.Moves = []shot.Move{up}
			s.Parts = append(s.Parts, lid)
		},
		"a wheel on an axle that fits it exactly":      func(s *shot.Shot) { axle(s) },
		"boxes on crossing paths, one after the other": func(s *shot.Shot) { crossing(s, 0, 40) },
		"a drawer that slides in its carcass":          func(s *shot.Shot) { drawer(s) },
		"a ball that rolls by its radius":              func(s *shot.Shot) { rolling(s, -9) },
		"friction wheels of their ratio":               func(s *shot.Shot) { wheels(s, 1) },
		"a front that follows its way":                 func(s *shot.Shot) { heading(s, -math.Pi/2) },
		"a part that is in the picture for two frames": func(s *shot.Shot) {
			p := s.Parts[0]
			p.ID, p.Name, p.Rest.Position = "fly", "Fly", geom.Vec3{0, 0.5, 1600}
			p.Tracks = []shot.Track{pinned(shot.TrackZ, shot.Holds, 0, 0, 45, -1600, 47, 0)}
			s.Parts = append(s.Parts, p)
		},
		"a lamp that turns by itself": func(s *shot.Shot) {
			l := lamp()
			l.Moves = []shot.Move{named("a", turning(1))}
			s.Parts = append(s.Parts, l)
		},
		"a ball that turns any way": func(s *shot.Shot) {
			s.Parts[0].Moves = []shot.Move{{ID: "a", Kind: "float", Data: &move.Float{Height: 0.05, Period: 48}}}
		},
	} {
		s := box()
		change(s)
		f, found := judge(t, s)
		if !Judge(f).Closes {
			t.Errorf("%s: %+v %+v", name, Judge(f), f.Seam)
		}
		for _, one := range found {
			if one.Weight == Blocks && one.Kind != "margin" || slices.Contains([]string{"slip", "drift", "rest", "leftover", "bound", "between", "kink", "open mesh"}, one.Kind) {
				t.Errorf("%s: %+v", name, one)
			}
		}
	}
}

func named(id string, m shot.Move) shot.Move {
	m.ID = id
	return m
}

// crossing gives the box a twin, and both a way across that of the other, begun so many frames one after the other.
func crossing(s *shot.Shot, first, second float64) {
	twin := s.Parts[0]
	shape := *twin.Shape
	twin.ID, twin.Name, twin.Shape = "twin", "Twin", &shape
	across := func(id string, from float64, by geom.Vec3) []shot.Move {
		return []shot.Move{{ID: id, Kind: "slide", Span: &shot.Span{From: from, To: from + 40}, After: shot.Returns, Data: &move.Slide{By: by, Frame: shot.ParentFrame}}}
	}
	s.Parts[0].Rest.Position, twin.Rest.Position = geom.Vec3{-0.6, 0, 0}, geom.Vec3{0, 0, -0.8}
	s.Parts[0].Moves, twin.Moves = across("a", first, geom.Vec3{1.2, 0, 0}), across("b", second, geom.Vec3{0, 0, 1.6})
	s.Parts = append(s.Parts, twin)
}

// rolling makes the box a ball of 0.1 on a floor that is pinned to go 0.9 m to the right and to turn by an angle about z; it plays once.
func rolling(s *shot.Shot, angle float64) {
	s.Ending = shot.Once
	s.Parts[0].Shape = &mesh.Shape{Kind: mesh.SphereShape, Radius: 0.1}
	s.Parts[0].Pivot, s.Parts[0].Rest.Position = geom.Vec3{0, 0.1, 0}, geom.Vec3{-0.4, 0, 0}
	s.Parts[0].Tracks = []shot.Track{pinned(shot.TrackX, shot.Straight, 0, 0, 96, 0.9), pinned(shot.TrackTurnZ, shot.Straight, 0, 0, 96, angle)}
	s.Parts = append(s.Parts, shot.Part{ID: "floor", Name: "Floor", Kind: shot.Floor, Rest: shot.AtRest, Moves: []shot.Move{}})
}

// wheels makes the box a wheel of 0.1 that turns twice beside one of 0.2 that it touches, and that turns so often the other way.
func wheels(s *shot.Shot, turns float64) {
	s.Ending = shot.Once
	s.Parts[0].Shape = &mesh.Shape{Kind: mesh.CylinderShape, Radius: 0.1, Height: 0.05}
	s.Parts[0].Moves = []shot.Move{named("a", turning(2))}
	big := s.Parts[0]
	big.ID, big.Name, big.Rest.Position, big.Moves = "big", "Big", geom.Vec3{0.3, 0, 0}, []shot.Move{named("b", turning(-turns))}
	big.Shape = &mesh.Shape{Kind: mesh.CylinderShape, Radius: 0.2, Height: 0.05}
	s.Parts = append(s.Parts, big)
}

// heading lets the box go along an arc of a quarter that it turns by an angle on, its front ahead at first; it plays once.
func heading(s *shot.Shot, angle float64) {
	s.Ending = shot.Once
	s.Parts[0].Front = geom.Vec3{1, 0, 0}
	x, z := shot.Track{Value: shot.TrackX}, shot.Track{Value: shot.TrackZ}
	for k := range 33 {
		a := math.Pi / 2 * float64(k) / 32
		x.Pins = append(x.Pins, shot.Pin{Time: 3 * float64(k), Value: 0.4 * math.Sin(a)})
		z.Pins = append(z.Pins, shot.Pin{Time: 3 * float64(k), Value: 0.4 * (1 - math.Cos(a))})
	}
	s.Parts[0].Tracks = []shot.Track{x, z, pinned(shot.TrackTurnY, shot.Straight, 0, 0, 96, angle)}
}

// axle puts a ring of 24 sides, which turns, on an axle of as many sides that fills its hole.
func axle(s *shot.Shot) {
	s.Parts[0].Shape = &mesh.Shape{Kind: mesh.LatheShape, Sides: 24, Points: []geom.Vec3{{0.1, 0}, {0.2, 0}, {0.2, 0.05}, {0.1, 0.05}, {0.1, 0}}}
	s.Parts[0].Moves = []shot.Move{named("a", turning(1))}
	pin := s.Parts[0]
	pin.ID, pin.Name, pin.Moves, pin.Rest.Position = "pin", "Pin", []shot.Move{}, geom.Vec3{0, -0.05, 0}
	pin.Shape = &mesh.Shape{Kind: mesh.LatheShape, Sides: 24, Points: []geom.Vec3{{0, 0}, {0.1, 0}, {0.1, 0.15}, {0, 0.15}}}
	s.Parts = append(s.Parts, pin)
}

// drawer is a box without a front, and what slides in it, with its faces in one plane with those of the box.
func drawer(s *shot.Shot) {
	s.Parts[0].Shape.Size = geom.Vec3{0.4, 0.02, 0.4}
	for k, x := range []float64{-0.21, 0.21} {
		wall := s.Parts[0]
		wall.ID, wall.Name = "wall"+string(rune('a'+k)), "Wall"
		wall.Shape = &mesh.Shape{Kind: mesh.BoxShape, Size: geom.Vec3{0.02, 0.2, 0.4}}
		wall.Rest.Position = geom.Vec3{x, 0, 0}
		s.Parts = append(s.Parts, wall)
	}
	in := s.Parts[0]
	in.ID, in.Name, in.Rest.Position = "drawer", "Drawer", geom.Vec3{0, 0.02, 0}
	in.Shape = &mesh.Shape{Kind: mesh.BoxShape, Size: geom.Vec3{0.4, 0.15, 0.4}}
	out := back()
	out.Data = &move.Slide{By: geom.Vec3{0, 0, 0.3}, Frame: shot.ParentFrame}
	in.Moves = []shot.Move{out}
	s.Parts = append(s.Parts, in)
}

func square(s *shot.Shot) { s.Parts[0].Shape.Size = geom.Vec3{0.4, 0.3, 0.4} }

// cancelled turns a group one way and what is in it as far the other way: neither comes back by itself.
func cancelled(s *shot.Shot) {
	group := shot.Part{ID: "g", Name: "Group", Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{named("a", turning(0.3))}}
	s.Parts[0].Parent = "g"
	s.Parts[0].Moves = []shot.Move{named("b", turning(-0.3))}
	s.Parts = slices.Insert(s.Parts, 0, group)
}

func back() shot.Move {
	m := named("a", sliding(0, 96, 0.3))
	m.After, m.Laps, m.Pace = shot.Mirrored, 2, shot.Pace{Kind: shot.Sine, Way: "both"}
	return m
}

func swinging(phase float64) shot.Move {
	return shot.Move{ID: "a", Kind: "swing", Data: &move.Swing{Axis: geom.Vec3{0, 0, 1}, Frame: shot.ParentFrame, Amplitude: 0.6, Shape: "sine", Period: 48, Phase: phase}}
}

func judge(t *testing.T, s *shot.Shot) (*Facts, []Finding) {
	t.Helper()
	if err := s.Validate(); err != nil {
		t.Fatal(err)
	}
	u, err := framing.NewSubject(s, nothing{}, nil)
	if err != nil {
		t.Fatal(err)
	}
	f, err := Measure(u, nothing{}, alike{})
	if err != nil {
		t.Fatal(err)
	}
	found, err := Find(context.Background(), f, Watch{})
	if err != nil {
		t.Fatal(err)
	}
	return f, found
}

// One press closes all that does not come back.
func TestOnePressClosesAll(t *testing.T) {
	s := box(turning(1.0/3), sliding(0, 96, 0.2))
	s.Parts[0].Tracks = []shot.Track{pinned(shot.TrackY, shot.Straight, 0, 0, 96, 0.1)}
	_, found := judge(t, s)
	for _, m := range of(found, "seam")[0].Mends {
		if len(m.Words) > 9 && m.Words[:9] == "Close all" {
			done, err := edit.Apply(s, m.Edits, edit.Env{Assets: nothing{}})
			if err != nil {
				t.Fatal(err)
			}
			if f, _ := judge(t, done.Shot); !Judge(f).Closes {
				t.Errorf("after %q: %+v", m.Words, Judge(f))
			}
			return
		}
	}
	t.Errorf("it is not offered: %+v", found)
}

// Loops that are shorter than they are told to be, lengths at which clocks meet, and rows that march by whole steps: offered, and
// true.
func TestOtherLoops(t *testing.T) {
	if f, _ := judge(t, square24()); Judge(f).Shorter != 24 {
		t.Errorf("a square that turns once: %+v", Judge(f))
	}
	for name, s := range map[string]*shot.Shot{"nothing moves": box(), "it takes all": box(back())} {
		if f, _ := judge(t, s); f.Shorter != 0 {
			t.Errorf("%s: %d", name, f.Shorter)
		}
	}
	hop := square24()
	hop.Parts[0].Moves = append(hop.Parts[0].Moves, shot.Move{ID: "hop", Kind: "slide", Span: &shot.Span{From: 41, To: 44}, After: shot.Returns, Data: &move.Slide{By: geom.Vec3{0, 0.01, 0}, Frame: shot.ParentFrame}})
	if f, _ := judge(t, hop); !Judge(f).Closes || Judge(f).Shorter != 0 {
		t.Errorf("a square that hops once in between: %+v", Judge(f))
	}
	clocks := box()
	clocks.Parts[0].Moves = []shot.Move{
		{ID: "a", Kind: "float", Data: &move.Float{Height: 0.1, Period: 28}},
		{ID: "b", Kind: "swing", Data: &move.Swing{Axis: geom.Vec3{0, 0, 1}, Frame: shot.ParentFrame, Amplitude: 0.2, Shape: "sine", Period: 35}},
	}
	offered(t, clocks, "Make the loop 140 frames long")
	march := box()
	row(march, sliding(0, 96, 0.6))
	offered(t, march, "Let Row march by 1 step of the row, 500 mm instead of 600 mm")
	along := box()
	row(along)
	along.Parts[2].Moves = []shot.Move{named("b", sliding(0, 96, 1.1))}
	offered(t, along, "Let Camera march by 2 steps of the row, 1000 mm instead of 1100 mm")
	faster := box(turning(1.2), sliding(0, 96, 0.2))
	offered(t, faster, "Close all (Box: make it 1 turn, speed -16.7 %; Box: go there and back)")
}

// square24 is a square that turns once in 96 frames, of which 24 show all.
func square24() *shot.Shot {
	s := box(turning(1))
	square(s)
	return s
}

// offered wants a mend of the seam that begins with words, and closes the loop.
func offered(t *testing.T, s *shot.Shot, words string) {
	t.Helper()
	_, found := judge(t, s)
	var all []string
	for _, f := range of(found, "seam") {
		for _, m := range f.Mends {
			all = append(all, m.Words)
			if !strings.HasPrefix(m.Words, words) {
				continue
			}
			done, err := edit.Apply(s, m.Edits, edit.Env{Assets: nothing{}})
			if err != nil {
				t.Fatal(err)
			}
			if f, _ := judge(t, done.Shot); !Judge(f).Closes {
				t.Errorf("after %q: %+v", m.Words, Judge(f))
			}
			return
		}
	}
	t.Errorf("%q is not offered, but %q", words, all)
}

// Of two boxes that pass through each other one is played earlier or later, by as much as gives them the most room; TestFaultsAreFound
// tries that it parts them.
func TestAShiftParts(t *testing.T) {
	s := box()
	crossing(s, 0, 5)
	_, found := judge(t, s)
	list := of(found, "clearance")
	if len(list) != 1 || len(list[0].Mends) != 1 || !strings.HasPrefix(list[0].Mends[0].Words, "Play the slide of ") || list[0].Worst == nil || *list[0].Worst < 15 || *list[0].Worst > 30 {
		t.Errorf("%+v", list)
	}
}

// A small wheel on top of a rolling one goes along with it and is turned by it: nothing slides, and with a wrong radius it does.
func TestAWheelOnTopOfARollingOne(t *testing.T) {
	wheel := func(id string, y, r float64, m shot.Move) shot.Part {
		rest := shot.Rest{Position: geom.Vec3{0, y - 0.05, 0}, Rotation: geom.AxisAngle(geom.Vec3{1, 0, 0}, math.Pi/2), Size: geom.Vec3{1, 1, 1}}
		return shot.Part{ID: id, Name: id, Kind: shot.Made, Rest: rest, Pivot: geom.Vec3{0, 0.05, 0}, Moves: []shot.Move{named(id+"m", m)}, Shape: &mesh.Shape{Kind: mesh.CylinderShape, Radius: r, Height: 0.1, Sides: 192}}
	}
	for _, radius := range []float64{0.1, 0.14} {
		s := box()
		s.Parts = append(s.Parts[1:],
			wheel("big", 0.3, 0.3, shot.Move{Kind: "roll", Laps: 2, After: shot.Mirrored, Data: &move.Roll{Radius: 0.3, Along: geom.Vec3{1, 0, 0}, Turns: 1, Contact: "ground"}}),
			wheel("small", 0.7, 0.1, shot.Move{Kind: "roll", After: shot.Stays, Data: &move.Roll{Radius: radius, Along: geom.Vec3{1, 0, 0}, Turns: 1, Contact: "top", Under: "big", Other: 0.3}}))
		_, found := judge(t, s)
		slides := slices.ContainsFunc(found, func(f Finding) bool { return f.Kind == "slip" && f.Parts[0] == "small" })
		if slides != (radius != 0.1) {
			t.Errorf("of radius %g it slides: %v", radius, slides)
		}
	}
}
