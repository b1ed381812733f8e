package exploded_test

import (
	"context"
	"fmt"
	"math"
	"testing"

	"perigyre/core/check"
	"perigyre/core/exploded"
	"perigyre/core/framing"
	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/core/move"
	"perigyre/core/pose"
	"perigyre/core/render"
	"perigyre/core/shot"
	"perigyre/core/stage"
	"perigyre/demo"
	"perigyre/library"
)

// lantern is the demo's lantern as it comes in from its file.
func lantern(t testing.TB) (*shot.Shot, *library.Assets, string) {
	t.Helper()
	data, err := demo.Lantern()
	if err != nil {
		t.Fatal(err)
	}
	a := library.InMemory(model.DefaultLimits)
	m, _, err := library.Bring(context.Background(), []library.File{{Name: "lantern.glb", Data: data}}, "", model.DefaultLimits, func(string, float64) {})
	if err != nil {
		t.Fatal(err)
	}
	hash, err := a.KeepModel(m)
	if err != nil {
		t.Fatal(err)
	}
	s, n := shot.New("t"), 0
	o := stage.Defaults()
	o.Asset, o.Name, o.Unit, o.Up, o.NewID = hash, "Lantern", "m", "y", func() string { n++; return fmt.Sprintf("p%03d", n) }
	if err := stage.Put(s, m, o, a); err != nil {
		t.Fatal(err)
	}
	return s, a, s.Sources[0].Root
}

// Taken apart whole or with all groups opened, and put together again, the lantern passes through itself nowhere, at no time between
// frames either: as core/check has it. What only leaves as one is said, with what is in its way.
func TestTheLanternComesApart(t *testing.T) {
	for _, deep := range []bool{false, true} {
		s, a, root := lantern(t)
		p, err := exploded.Find(context.Background(), pose.New(s), a, exploded.Wish{Part: root, Deep: deep, Gap: 0.01}, func(float64) {})
		if err != nil {
			t.Fatal(err)
		}
		data := p.Move.Data.(*move.Apart)
		goes := map[string]int{}
		for i, step := range data.Steps {
			for _, l := range step.Parts {
				goes[s.Part(l.Part).Name] = i
			}
		}
		if goes["Bail"] != 0 || goes["Head"] != goes["Cage"] || goes["Head"] >= goes["Lamp board"] || s.Part(p.Stays).Name != "Base" || len(p.Left) == 0 {
			t.Errorf("deep %v: %v, %+v", deep, goes, p.Left)
		}
		if _, opened := goes["Finial"]; opened != deep {
			t.Errorf("deep %v: %v", deep, goes)
		}
		p.Move.ID = "apart"
		s.Part(root).Moves = append(s.Part(root).Moves, p.Move)
		if err := s.Validate(); err != nil {
			t.Fatal(err)
		}
		u, err := framing.NewSubject(s, a, nil)
		if err != nil {
			t.Fatal(err)
		}
		f, err := check.Measure(u, a, render.NewProps(a))
		if err != nil {
			t.Fatal(err)
		}
		found, err := check.Find(context.Background(), f, check.Watch{})
		if err != nil {
			t.Fatal(err)
		}
		for _, x := range found {
			if x.Kind == "clearance" {
				t.Errorf("deep %v: %s. %s", deep, x.Title, x.Why)
			}
		}
		if !f.Seam.Closes {
			t.Errorf("deep %v: it does not come together again: %+v", deep, f.Seam)
		}
	}
}

// Copies are parts, too: a lid under a row of copied bars leaves after them, and not through them.
func TestCopiesAreInTheWay(t *testing.T) {
	made := func(id string, y float64, size geom.Vec3) shot.Part {
		rest := shot.AtRest
		rest.Position = geom.Vec3{0, y, 0}
		return shot.Part{ID: id, Name: id, Parent: "all", Kind: shot.Made, Rest: rest, Moves: []shot.Move{}, Shape: &mesh.Shape{Kind: mesh.BoxShape, Size: size}}
	}
	s := shot.New("t")
	bar := made("bar", 0.13, geom.Vec3{0.02, 0.02, 0.3})
	bar.Hidden = true
	row := shot.Part{ID: "row", Name: "row", Parent: "all", Kind: shot.Copies, Rest: bar.Rest, Moves: []shot.Move{}, Copies: &shot.Spread{Of: "bar", Kind: shot.Row, Count: [3]int{4, 1, 1}, Step: geom.Vec3{0.05, 0, 0}, Middle: true}}
	s.Parts = []shot.Part{{ID: "all", Name: "all", Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{}}, made("base", 0, geom.Vec3{0.3, 0.1, 0.3}), made("lid", 0.1, geom.Vec3{0.3, 0.03, 0.3}), bar, row}
	if err := s.Validate(); err != nil {
		t.Fatal(err)
	}
	p, err := exploded.Find(context.Background(), pose.New(s), library.InMemory(model.DefaultLimits), exploded.Wish{Part: "all"}, func(float64) {})
	if err != nil {
		t.Fatal(err)
	}
	steps := p.Move.Data.(*move.Apart).Steps
	if p.Stays != "base" || len(steps) != 2 || steps[0].Parts[0].Part != "row" || steps[1].Parts[0].Part != "lid" || steps[0].By <= steps[1].By {
		t.Errorf("%+v", p)
	}
}

// A slab that can leave a frame to the right or to the front goes across the view, and as far as was asked for in pixels of the picture.
func TestAsTheCameraSeesIt(t *testing.T) {
	made := func(id string, at, size geom.Vec3) shot.Part {
		rest := shot.AtRest
		rest.Position = at
		return shot.Part{ID: id, Name: id, Parent: "all", Kind: shot.Made, Rest: rest, Moves: []shot.Move{}, Shape: &mesh.Shape{Kind: mesh.BoxShape, Size: size}}
	}
	s := shot.New("t")
	s.Format = shot.Format{Width: 800, Height: 600}
	s.Parts = []shot.Part{
		{ID: "all", Name: "all", Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{}},
		made("floor", geom.Vec3{0.05, 0, 0.05}, geom.Vec3{0.3, 0.02, 0.3}), made("roof", geom.Vec3{0.05, 0.06, 0.05}, geom.Vec3{0.3, 0.02, 0.3}),
		made("left", geom.Vec3{-0.09, 0.02, 0.05}, geom.Vec3{0.02, 0.04, 0.3}), made("back", geom.Vec3{0.06, 0.02, -0.09}, geom.Vec3{0.28, 0.04, 0.02}),
		made("slab", geom.Vec3{0.06, 0.02, 0.06}, geom.Vec3{0.28, 0.04, 0.28}),
		{ID: "cam", Name: "Camera", Kind: shot.Camera, Rest: shot.AtRest, Moves: []shot.Move{}, Camera: &shot.Lens{Focal: 80, SensorWidth: 36, SensorHeight: 24, Sensor: shot.FitLonger}},
	}
	// The frame is one part, so that the slab has two ways and no other.
	walls := shot.Part{ID: "frame", Name: "frame", Parent: "all", Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{}}
	for k := 1; k <= 4; k++ {
		s.Parts[k].Parent = "frame"
	}
	s.Parts = append([]shot.Part{s.Parts[0], walls}, s.Parts[1:]...)
	s.Camera = "cam"
	for name, c := range map[string]struct{ eye, way geom.Vec3 }{
		"from the front": {geom.Vec3{0.05, 0.05, 3}, geom.Vec3{1, 0, 0}}, "from the right": {geom.Vec3{3, 0.05, 0.05}, geom.Vec3{0, 0, 1}},
	} {
		cam := s.Part("cam")
		cam.Rest.Position, cam.Rest.Rotation = c.eye, geom.LookAlong(geom.Vec3{0.05, 0.05, 0.05}.Sub(c.eye))
		if err := s.Validate(); err != nil {
			t.Fatal(err)
		}
		far := func(pixels float64) float64 {
			p, err := exploded.Find(context.Background(), pose.New(s), library.InMemory(model.DefaultLimits), exploded.Wish{Part: "all", Stays: "frame", Seen: pixels}, func(float64) {})
			if err != nil {
				t.Fatal(err)
			}
			step := p.Move.Data.(*move.Apart).Steps[0]
			if step.Parts[0].Part != "slab" || step.Parts[0].Way.Dot(c.way) < 0.999 {
				t.Fatalf("%s: %+v", name, step)
			}
			return step.By
		}
		by := far(90) - far(30)
		e := pose.New(s)
		x, y, _, _ := framing.Project(e.At(0)[s.Index("cam")], s.Part("cam").Camera, s.Format, geom.Vec3{0.05, 0.05, 0.05})
		u, v, _, _ := framing.Project(e.At(0)[s.Index("cam")], s.Part("cam").Camera, s.Format, geom.Vec3{0.05, 0.05, 0.05}.Add(c.way.Mul(by)))
		if got := math.Hypot(u-x, v-y); math.Abs(got-60) > 2 {
			t.Errorf("%s: a gap of 60 pixels more is %.1f more in the picture", name, got)
		}
	}
	s.Camera = ""
	if _, err := exploded.Find(context.Background(), pose.New(s), library.InMemory(model.DefaultLimits), exploded.Wish{Part: "all", Seen: 30}, func(float64) {}); err == nil {
		t.Error("a gap in pixels is taken without a camera")
	}
}

// A plan of which somebody has changed order and ways keeps them; the distances are as far as it then takes.
func TestDistancesOfAPlanThatIsKept(t *testing.T) {
	made := func(id string, y float64) shot.Part {
		rest := shot.AtRest
		rest.Position = geom.Vec3{0, y, 0}
		return shot.Part{ID: id, Name: id, Parent: "all", Kind: shot.Made, Rest: rest, Moves: []shot.Move{}, Shape: &mesh.Shape{Kind: mesh.BoxShape, Size: geom.Vec3{0.2, 0.1, 0.4}}}
	}
	s := shot.New("t")
	s.Parts = []shot.Part{{ID: "all", Name: "all", Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{}}, made("a", 0), made("b", 0.1), made("c", 0.2)}
	find := func(steps ...move.ApartStep) (exploded.Plan, error) {
		return exploded.Find(context.Background(), pose.New(s), library.InMemory(model.DefaultLimits), exploded.Wish{Part: "all", Gap: 0.05, Steps: steps}, func(float64) {})
	}
	step := func(id string, way geom.Vec3) move.ApartStep {
		return move.ApartStep{Parts: []move.ApartPart{{Part: id, Way: way}}, By: 9, Wait: 0.5}
	}
	p, err := find(step("c", geom.Vec3{0, 1, 0}), step("b", geom.Vec3{0, 0, 1}))
	if err != nil {
		t.Fatal(err)
	}
	got := p.Move.Data.(*move.Apart).Steps
	// b goes aside by its depth and the gap; c, which lay on it and is to clear all its way, up by the gap.
	if len(got) != 2 || math.Abs(got[1].By-0.45) > 0.005 || math.Abs(got[0].By-0.05) > 0.001 || got[0].Wait != 0.5 {
		t.Errorf("%+v", got)
	}
	if p, err = find(step("c", geom.Vec3{0, 1, 0}), move.ApartStep{}); err != nil || p.Move.Data.(*move.Apart).Steps[1].By != 0 {
		t.Errorf("a step that names nothing: %v, %v", p, err)
	}
	for _, bad := range []move.ApartStep{step("nobody", geom.Vec3{0, 1, 0}), step("c", geom.Vec3{}), step("c", geom.Vec3{0, 1e300, 0})} {
		if _, err := find(bad); err == nil {
			t.Errorf("%+v is measured", bad)
		}
	}
}

// What holds nothing but one part, or is no group, is not taken apart, and says why.
func TestWhatIsNotTakenApart(t *testing.T) {
	s, a, root := lantern(t)
	for _, name := range []string{"Chimney", "Floor, shadow only", ""} {
		id := ""
		for i := range s.Parts {
			if s.Parts[i].Name == name {
				id = s.Parts[i].ID
			}
		}
		if _, err := exploded.Find(context.Background(), pose.New(s), a, exploded.Wish{Part: id}, func(float64) {}); err == nil {
			t.Errorf("%q came apart", name)
		}
	}
	ended, stop := context.WithCancel(context.Background())
	stop()
	if _, err := exploded.Find(ended, pose.New(s), a, exploded.Wish{Part: root}, func(float64) {}); err == nil {
		t.Error("it went on though it was stopped")
	}
}

func BenchmarkTakeApartTheLantern(b *testing.B) {
	s, a, root := lantern(b)
	for b.Loop() {
		if _, err := exploded.Find(context.Background(), pose.New(s), a, exploded.Wish{Part: root}, func(float64) {}); err != nil {
			b.Fatal(err)
		}
	}
}

func BenchmarkTakeApartAHundred(b *testing.B) {
	s := demo.Rings()
	a := library.InMemory(model.DefaultLimits)
	for b.Loop() {
		p, err := exploded.Find(context.Background(), pose.New(s), a, exploded.Wish{Part: "all"}, func(float64) {})
		if err != nil || len(p.Left) > 0 {
			b.Fatal(err, p.Left)
		}
	}
}
