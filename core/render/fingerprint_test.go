package render

import (
	"encoding/json"
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strings"
	"testing"

	"perigyre/core/doctree"
	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/move"
	"perigyre/core/pose"
	"perigyre/core/scene"
	"perigyre/core/shot"
)

// rich is a shot with something of everything that pictures depend on, and of what they do not.
func rich() *shot.Shot {
	s := shot.New("rich")
	s.Frames, s.Format, s.Backdrop = 24, shot.Format{Width: 40, Height: 40}, &[3]float64{0.2, 0.3, 0.4}
	red, glass := material.Default(), material.Default()
	red.ID, red.Name, red.BaseColor, red.Roughness = "red", "Red", [4]float64{0.8, 0.1, 0.1, 1}, 0.4
	glass.ID, glass.Name, glass.Transmission, glass.Clearcoat = "glass", "Glass", 0.8, 0.5
	s.Materials = []material.Material{red, glass}
	s.Environment = shot.Environment{Zenith: [3]float64{0.8, 0.9, 1}, Horizon: [3]float64{0.5, 0.5, 0.5}, Ground: [3]float64{0.2, 0.2, 0.1}, Strength: 0.7}
	part := func(id, parent string, kind shot.PartKind, x, y, z float64) *shot.Part {
		p := shot.Part{ID: id, Name: id, Parent: parent, Kind: kind, Rest: shot.AtRest, Moves: []shot.Move{}}
		p.Rest.Position = geom.Vec3{x, y, z}
		s.Parts = append(s.Parts, p)
		return &s.Parts[len(s.Parts)-1]
	}
	shape := func(p *shot.Part, of mesh.Shape, m string) {
		p.Shape, p.Materials = &of, []string{m}
	}
	g := part("group", "", shot.Group, 0, 0, 0)
	g.Moves = []shot.Move{{ID: "turn", Kind: "turn", Data: &move.Turn{Axis: geom.Vec3{0, 1, 0}, Frame: shot.OwnFrame, Turns: 1, Direction: shot.Clockwise}}}
	g.Pivot = geom.Vec3{0.1, 0, 0}
	box := part("box", "group", shot.Made, -0.4, 0, 0.2)
	shape(box, mesh.Shape{Kind: mesh.BoxShape, Size: geom.Vec3{0.4, 0.5, 0.3}, Bevel: 0.02}, "red")
	box.Tracks = []shot.Track{{Value: shot.TrackY, Pins: []shot.Pin{{Time: 0, Value: 0.1, Next: shot.Smooth}, {Time: 12, Value: 0.3}}}}
	ball := part("ball", "group", shot.Made, 0.4, 0, 0)
	shape(ball, mesh.Shape{Kind: mesh.SphereShape, Radius: 0.3, Sides: 24}, "glass")
	ball.Moves = []shot.Move{{ID: "look", Kind: "look", Data: &move.Look{What: "glow", To: [3]float64{0.4, 0.2, 0}, Own: true}}}
	bent := part("bent", "", shot.Made, 0, 0.2, -0.6)
	shape(bent, mesh.Shape{Kind: mesh.CylinderShape, Radius: 0.1, Height: 0.8, Sides: 12}, "red")
	bent.Moves = []shot.Move{{ID: "flex", Kind: "flex", Data: &move.Flex{Shape: "bend", Axis: 1, Length: 0.8, Angle: 1, Towards: 0}}}
	seed := part("seed", "", shot.Made, 0, 0, 0)
	shape(seed, mesh.Shape{Kind: mesh.BoxShape, Size: geom.Vec3{0.1, 0.1, 0.1}}, "red")
	seed.Hidden = true
	part("many", "", shot.Copies, 0, 0, 0).Copies = &shot.Spread{Of: "seed", Kind: shot.Ring, Count: [3]int{5, 1, 1}, Radius: 0.8, Vary: 0.2, Turn: 0.3, Seed: 4}
	form := part("form", "", shot.Made, 0, 0, 0)
	shape(form, mesh.Shape{Kind: mesh.SphereShape, Radius: 0.2, Sides: 16}, "red")
	form.Hidden = true
	part("cut", "", shot.Cutter, -0.4, 0.4, 0.3).Cut = &shot.Cut{Shape: "part", Of: "form"}
	part("gone", "", shot.Group, 1, 2, 3).Hidden = true
	part("floor", "", shot.Floor, 0, 0, 0)
	for k, l := range []shot.LightSpec{
		{Kind: shot.Softbox, Width: 1, Height: 0.6}, {Kind: shot.Round, Radius: 0.4}, {Kind: shot.Bulb, Radius: 0.1},
		{Kind: shot.Spot, Radius: 0.1, Inner: 0.3, Outer: 0.5}, {Kind: shot.Sun, Angle: 0.1},
	} {
		l.Color, l.Strength = [3]float64{1, 0.9, 0.8}, 2
		p := part(fmt.Sprint("light ", k), map[shot.LightKind]string{shot.Bulb: "group"}[l.Kind], shot.Light, 0.5*float64(k-2), 2, 1) // one goes round with the group
		p.Rest.Rotation, p.Light = geom.LookAlong(geom.Vec3{0, -2, -1}), &l
	}
	for _, id := range []string{"cam", "other"} {
		c := part(id, "", shot.Camera, 0.3, 1.2, 3)
		c.Rest.Rotation = geom.LookAlong(geom.Vec3{-0.3, -0.9, -3})
		c.Camera = &shot.Lens{Focal: 50, SensorWidth: 36, SensorHeight: 24, Sensor: shot.FitLonger, FNumber: 2, Focus: 3, Blades: 5}
	}
	s.Part("cam").Camera.FocusOn = "ball"
	s.Finishes = []shot.Finish{
		{ID: "clear", Name: "Clear", Swaps: []shot.Swap{{Part: "box", Primitive: 0, Material: "glass"}}},
		{ID: "dull", Name: "Dull", Swaps: []shot.Swap{{Part: "bent", Primitive: 0, Material: "glass"}}},
	}
	s.Finish = "clear"
	s.Camera = "cam"
	return s
}

// blurred is the same with a picture of the surroundings and a shutter that is open for a while.
func blurred() *shot.Shot {
	s := rich()
	s.Environment.Picture, s.Environment.Name, s.Environment.Turn, s.Environment.Seen = strings.Repeat("ab", 32), "Sky", 0.4, true
	s.Part("cam").Camera.Shutter = 120
	return s
}

// A picture is taken over from another moment only if all that it depends on is the same: whatever leaf of a document is
// changed, a picture that differs has another fingerprint. What of a document does not show should not change it either;
// the share that does is told.
func TestFingerprintsTellPicturesApart(t *testing.T) {
	if testing.Short() {
		t.Skip()
	}
	t.Run("sharp", func(t *testing.T) { changeAll(t, rich(), 40, Options{Quality: Draft, Samples: 4, Threads: 2}) })
	t.Run("blurred, with mattes and motion", func(t *testing.T) {
		changeAll(t, blurred(), 24, Options{Quality: Draft, Samples: 2, Threads: 2, Passes: []Pass{Motion, PartMattes}})
	})
}

// changeAll changes every leaf of a document, one at a time, and compares pictures and their passes with their fingerprints.
func changeAll(t *testing.T, base *shot.Shot, size int, o Options) {
	if err := base.Validate(); err != nil {
		t.Fatal(err)
	}
	tree, list, err := doctree.Leaves(base)
	if err != nil {
		t.Fatal(err)
	}
	props := NewProps(noisySky(16, 8))
	passes := len(o.Passes) > 0
	look := func(text []byte) (print string, film *Film, ok bool) {
		s := new(shot.Shot)
		if json.Unmarshal(text, s) != nil || s.Validate() != nil {
			return "", nil, false
		}
		from, err := scene.Resolve(pose.New(s), 5, nil, scene.Options{Symmetry: props, Mattes: passes, Motion: passes})
		if err != nil {
			return "", nil, false
		}
		print = from.Fingerprint()
		sc, err := NewScene(from, props)
		if err != nil {
			return "", nil, false
		}
		film, err = sc.Expose(t.Context(), size, size, o)
		return print, film, err == nil
	}
	text, err := json.Marshal(tree)
	if err != nil {
		t.Fatal(err)
	}
	before, picture, ok := look(text)
	if !ok {
		t.Fatal("the shot has no picture")
	}
	changed, unseen, needless := 0, 0, map[string]int{}
	try := func(path string) {
		text, _ := json.Marshal(tree)
		print, film, ok := look(text)
		if !ok {
			return
		}
		changed++
		if path == ".view" {
			return // it is made of the film afterwards
		}
		if same := equal(film, picture); !same && print == before {
			t.Errorf("%s: the picture differs and its fingerprint does not", path)
		} else if same {
			if unseen++; print != before {
				needless[path]++
			}
		}
	}
	for _, one := range list {
		var others []any
		switch v := one.Value.(type) {
		case float64:
			others = []any{v*1.3 + 0.1, v + 1}
		case bool:
			others = []any{!v}
		case string:
			others = []any{v + "x", "cam", "other", "red", "glass", "neutral"}
		}
		for _, v := range others {
			one.Put(v)
			try(one.Path)
		}
		one.Put(one.Value)
	}
	t.Logf("%d changes, of which %d do not show; of those %d change the fingerprint: %v", changed, unseen, len(needless), slices.Sorted(maps.Keys(needless)))
	if len(needless)*50 > changed {
		t.Errorf("more than a fiftieth of the changes make a picture be rendered again for nothing: %v", slices.Sorted(maps.Keys(needless)))
	}
	if changed < 300 {
		t.Errorf("only %d leaves were changed", changed)
	}
}

func equal(a, b *Film) bool {
	return slices.Equal(a.Pix, b.Pix) && slices.EqualFunc(a.Layers, b.Layers, func(x, y Layer) bool { return reflect.DeepEqual(x, y) })
}
