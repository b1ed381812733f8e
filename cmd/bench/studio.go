package main

import (
	"encoding/json"
	"fmt"
	"math"
	"os"
	"path/filepath"

	"perigyre/core/edit"
	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/core/move"
	"perigyre/core/pose"
	"perigyre/core/shot"
	"perigyre/server"
	"perigyre/store"
)

func part(i int, kind shot.PartKind, moves ...shot.Move) shot.Part {
	p := shot.Part{ID: fmt.Sprint("p", i), Name: fmt.Sprint("Part ", i), Kind: kind, Rest: shot.AtRest, Moves: moves}
	for k := range moves {
		p.Moves[k].ID = fmt.Sprint("m", i, " ", k)
	}
	if moves == nil {
		p.Moves = []shot.Move{}
	}
	return p
}

func spin(turns float64) shot.Move {
	return shot.Move{Kind: "turn", After: shot.Stays, Data: &move.Turn{Axis: geom.Vec3{0, 1, 0}, Frame: shot.OwnFrame, Turns: turns, Direction: shot.Clockwise}}
}

// dependents measures moves that look at other parts.
func dependents() {
	perFrame := func(s *shot.Shot) float64 {
		check(s.Validate())
		e := pose.New(s)
		return fastest(3, func() {
			for f := range 24 {
				e.At(float64(f * 4))
			}
		}) / 24 * 1000
	}
	gears := shot.New("gears")
	gears.Parts = append(gears.Parts, part(0, shot.Group, spin(1)))
	for i := 1; i < 40; i++ {
		gears.Parts = append(gears.Parts, part(i, shot.Group, shot.Move{Kind: "gear", After: shot.Stays, Data: &move.Gear{Driver: fmt.Sprint("p", i-1), Axis: geom.Vec3{0, 1, 0}, Frame: shot.OwnFrame, Num: 1, Den: 1, Mesh: "outside"}}))
	}
	row("a chain of 20 pairs of gears, a frame", perFrame(gears), "ms")
	chain := shot.New("chain")
	chain.Parts = append(chain.Parts, part(0, shot.Group, shot.Move{Kind: "float", Data: &move.Float{Height: 1, Period: 48}}))
	for i := 1; i < 400; i++ {
		chain.Parts = append(chain.Parts, part(i, shot.Group, shot.Move{Kind: "follow", After: shot.Stays, Data: &move.Follow{Of: fmt.Sprint("p", i-1), Position: true, Rotation: true, Lag: 0.5}}))
	}
	row("400 followers, each later than the one before, a frame", perFrame(chain), "ms")
}

// crowd is a shot of many parts, some with pins, in view of a camera that is kept fitted.
func crowd(parts, pins int) *shot.Shot {
	s := shot.New("crowd")
	for i := range parts {
		p := part(i, shot.Made)
		p.Shape = &mesh.Shape{Kind: mesh.BoxShape, Size: geom.Vec3{0.01, 0.01, 0.01}}
		p.Rest.Position = geom.Vec3{float64(i%50) / 40, float64(i/50) / 40, 0}
		t := shot.Track{Value: shot.TrackZ}
		for k := range pins / parts {
			t.Pins = append(t.Pins, shot.Pin{Time: float64(k * 9), Value: 0.01 * math.Sin(float64(i+k)), Next: shot.Smooth})
		}
		p.Tracks = []shot.Track{t}
		s.Parts = append(s.Parts, p)
	}
	cam := part(parts, shot.Camera)
	cam.Camera = &shot.Lens{Focal: 50, SensorWidth: 36, SensorHeight: 24, Sensor: shot.FitLonger, Margin: 8, Fitted: true}
	cam.Rest.Position = geom.Vec3{0, 0, 4}
	s.Parts, s.Camera = append(s.Parts, cam), cam.ID
	return s
}

// opened is how many moves are there whose ends do not meet.
func opened(n int) *shot.Shot {
	s := crowd(n, n)
	for i := range n {
		s.Parts[i].Tracks = nil
		m := spin(0.3 + float64(i%7)/10)
		m.ID = fmt.Sprint("open ", i)
		s.Parts[i].Moves = []shot.Move{m}
	}
	return s
}

// studio measures what is between a change and its answer: the edit, all that follows from it, and its place in the history.
func studio() {
	folder, err := os.MkdirTemp("", "perigyre-bench-")
	check(err)
	defer os.RemoveAll(folder)
	s, err := store.Open(folder)
	check(err)
	defer s.Close()
	st, err := server.OpenStudio(s, filepath.Join(folder, "out"), model.DefaultLimits, nil)
	check(err)
	defer st.Close()
	add := func(d *shot.Shot) string {
		check(d.Validate())
		_, id, err := s.AddProject("bench", d, "begin")
		check(err)
		return id
	}
	id := add(crowd(2000, 20_000))
	version := 1
	change := func(c edit.Change) {
		_, err := st.Edit(id, server.EditRequest{Version: version, Edits: []edit.Edit{{Change: c}}})
		check(err)
		version++
		_, err = st.Reply(id)
		check(err)
	}
	place := func(k int) edit.Change {
		return &edit.SetPart{Part: fmt.Sprint("p", k%2000), Patch: edit.Patch(fmt.Sprintf(`{"rest": {"position": [%g, 0.2, 0]}}`, float64(k)/1e4))}
	}
	change(place(0))
	k := 0
	row("2,000 parts with 20,000 pins: an edit and its answer", fastest(5, func() { k++; change(place(k)) })*1000, "ms")
	row("  an undo and its answer", fastest(5, func() {
		check(s.Undo(id, version))
		version++
		_, err := st.Reply(id)
		check(err)
	})*1000, "ms")
	for k < 1000 {
		k++
		change(place(k * 7))
	}
	f, err := os.Stat(filepath.Join(folder, "perigyre.db"))
	check(err)
	row("  the database after 1,000 edits", float64(f.Size())/1e6, "MB")
	id, version = add(opened(200)), 1
	mute := func(k int) edit.Change {
		return &edit.SetMove{Move: fmt.Sprint("open ", k%200), Values: map[string]json.RawMessage{"turns": json.RawMessage(fmt.Sprint(0.25 + float64(k)/1000))}}
	}
	change(mute(0))
	row("200 moves that do not close: an edit and its answer", fastest(5, func() { k++; change(mute(k)) })*1000, "ms")
}
