package edit

import (
	"context"
	"math"
	"testing"

	"perigyre/core/framing"
	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/move"
	"perigyre/core/pose"
	"perigyre/core/render"
	"perigyre/core/scene"
	"perigyre/core/shot"
)

// glossy is a black glossy ball of 1 m in the dark, a camera, and a small softbox.
func glossy(t *testing.T) *shot.Shot {
	s := shot.New("t")
	s.Environment = shot.Environment{}
	m := material.Material{ID: "m", Name: "Gloss", BaseColor: [4]float64{0.01, 0.01, 0.01, 1}, Roughness: 0.1, Alpha: material.Opaque, DoubleSided: true}
	s.Materials = []material.Material{m}
	one := geom.Vec3{1, 1, 1}
	s.Parts = []shot.Part{
		{ID: "ball", Name: "Ball", Kind: shot.Made, Rest: shot.AtRest, Moves: []shot.Move{}, Materials: []string{"m"}, Shape: &mesh.Shape{Kind: mesh.SphereShape, Radius: 0.5, Sides: 128}},
		{ID: "cam", Name: "Camera", Kind: shot.Camera, Rest: shot.Rest{Position: geom.Vec3{0, 0.5, 4}, Rotation: geom.NoTurn, Size: one}, Moves: []shot.Move{},
			Camera: &shot.Lens{Focal: 80, SensorWidth: 24, SensorHeight: 24, Sensor: shot.FitLonger}},
		{ID: "lamp", Name: "Lamp", Kind: shot.Light, Rest: shot.Rest{Position: geom.Vec3{-2, 3, 2}, Rotation: geom.NoTurn, Size: one}, Moves: []shot.Move{},
			Light: &shot.LightSpec{Width: 0.2, Height: 0.2, Color: [3]float64{1, 1, 1}, Strength: 50}},
	}
	s.Camera = "cam"
	if err := s.Validate(); err != nil {
		t.Fatal(err)
	}
	return s
}

// Rendered, the brightest pixel of a glossy ball lies where the highlight was put, for a light in the room and for one that is
// bound to the camera.
func TestTheHighlightLiesWhereItWasPressed(t *testing.T) {
	for _, bound := range []string{"", "cam", "ball"} {
		s := glossy(t)
		if bound != "" {
			s = apply(t, s, &PutIn{Parts: []string{"lamp"}, Parent: bound, Keep: true})
		}
		for _, n := range []geom.Vec3{{0.3, 0.4, 1}, {-0.6, 0.1, 1}, {0.1, -0.5, 1}} {
			n = n.Unit()
			want := geom.Vec3{0, 0.5, 0}.Add(n.Mul(0.5))
			d := apply(t, s, &Highlight{Part: "lamp", Point: want, Normal: n})
			e := pose.New(d)
			from, err := scene.Resolve(e, 0, nil, scene.Options{})
			if err != nil {
				t.Fatal(err)
			}
			sc, err := render.NewScene(from, render.NewProps(nil))
			if err != nil {
				t.Fatal(err)
			}
			const wide = 96
			f, err := sc.Expose(context.Background(), wide, wide, render.Options{Quality: render.Proof, Samples: 64})
			if err != nil {
				t.Fatal(err)
			}
			best := 0
			for i := range wide * wide {
				if f.Pix[4*i+1] > f.Pix[4*best+1] {
					best = i
				}
			}
			i := e.Index.Part("cam")
			x, y, _, _ := framing.Project(e.At(0)[i], d.Parts[i].Camera, shot.Format{Width: wide, Height: wide}, want)
			if off := math.Hypot(float64(best%wide)+0.5-x, float64(best/wide)+0.5-y); off > 2.5 {
				t.Errorf("bound to %q, pressed at %.1f, %.1f the brightest pixel is %d, %d", bound, x, y, best%wide, best/wide)
			}
		}
	}
}

// A rig that is bound to the camera goes with it; lights that are built into a part stay; nothing of it is left of the rig before.
func TestRigsAreBoundAsAWhole(t *testing.T) {
	s := glossy(t)
	s = apply(t, s, &AddPart{Part: shot.Part{ID: "glow", Name: "Glow", Parent: "ball", Kind: shot.Light, Rest: shot.AtRest, Light: &shot.LightSpec{Kind: shot.Bulb, Radius: 0.1, Color: [3]float64{1, 1, 1}, Strength: 1}}})
	s.Part("cam").Moves = []shot.Move{{ID: "o", Kind: "orbit", Pace: shot.Pace{Kind: shot.Constant}, After: shot.Stays, Data: &move.Orbit{Turns: 1, Radius: 4}}}
	s = apply(t, s, &UseRig{Rig: "three lights"})
	s = apply(t, s, &UseRig{Rig: "top box, two rims", Bind: "cam"})
	lights := 0
	e := pose.New(s)
	cam := e.Index.Part("cam")
	for i := range s.Parts {
		p := &s.Parts[i]
		if p.Light == nil || p.ID == "glow" {
			continue
		}
		lights++
		if p.Parent != "cam" || p.Light.Rig != "top box, two rims" {
			t.Errorf("%s is in %q and of the rig %q", p.Name, p.Parent, p.Light.Rig)
		}
		at := func(t float64) geom.Mat4 {
			w := e.At(t)
			inv, _ := w[cam].Inverse()
			return inv.Mul(w[i])
		}
		if a, b := at(0), at(31); a.Column(3).Sub(b.Column(3)).Len() > 1e-9 || e.At(0)[i].Column(3).Sub(e.At(31)[i].Column(3)).Len() < 0.1 {
			t.Errorf("%s does not go with the camera", p.Name)
		}
	}
	if lights != 3 || s.Part("glow") == nil || s.Part("lamp") != nil {
		t.Errorf("there are %d lights of the rig; glow %v, lamp %v", lights, s.Part("glow"), s.Part("lamp"))
	}
	kept := apply(t, s, &KeepRig{Name: "Mine"})
	again := apply(t, kept, &UseRig{Rig: "Mine"})
	for _, p := range again.Parts {
		if p.Light == nil || p.ID == "glow" {
			continue
		}
		for _, q := range kept.Parts {
			if q.Light != nil && q.Name == p.Name {
				i, k := pose.New(again).Index.Part(p.ID), e.Index.Part(q.ID)
				if d := pose.New(again).At(0)[i].Column(3).Sub(e.At(0)[k].Column(3)).Len(); d > 1e-6 {
					t.Errorf("%s stands %g m from where it was kept", p.Name, d)
				}
			}
		}
	}
}

// What is worn: a preset that is there unchanged is used again; with a finish shown it is the finish that changes; clay hides
// materials and keeps them.
func TestWhatIsWorn(t *testing.T) {
	all := env() // every id is a new one
	apply := func(t *testing.T, s *shot.Shot, c Change) *shot.Shot {
		t.Helper()
		out, err := Apply(s, []Edit{{c}}, all)
		if err != nil {
			t.Fatal(err)
		}
		return out.Shot
	}
	s := glossy(t)
	s = apply(t, s, &Wear{Parts: []string{"ball"}, Dress: Dress{Preset: "brass"}})
	s = apply(t, s, &AddShape{Kind: mesh.BoxShape, ID: "box"})
	s = apply(t, s, &Wear{Parts: []string{"box"}, Dress: Dress{Preset: "brass"}})
	if a, b := s.Part("ball").Materials[0], s.Part("box").Materials[0]; a != b || len(s.Materials) != 2 {
		t.Errorf("the same preset is %s and %s of %d materials", a, b, len(s.Materials))
	}
	s = apply(t, s, &Wear{Parts: []string{"box"}, Dress: Dress{Material: s.Part("box").Materials[0], Own: true}})
	if s.Materials[2].Name != "brass 2" || s.Part("box").Materials[0] != s.Materials[2].ID {
		t.Errorf("a copy of its own is %q", s.Materials[2].Name)
	}
	brass := s.Part("ball").Materials[0]
	s = apply(t, s, &AddFinish{ID: "red", Name: "Signal"})
	s = apply(t, s, &Wear{Parts: []string{"ball"}, Dress: Dress{Preset: "satin paint"}})
	if s.Part("ball").Materials[0] != brass || s.Dressed().Part("ball").Materials[0] == brass || s.Dressed().Part("box").Materials[0] != s.Part("box").Materials[0] {
		t.Error("the finish does not change the ball alone")
	}
	bare := apply(t, s, &Swap{Finish: "red", Of: brass})
	if bare.Dressed().Part("ball").Materials[0] != brass || len(bare.Finishes[0].Swaps) != 0 {
		t.Errorf("put back it is %v", bare.Finishes[0].Swaps)
	}
	clay := apply(t, s, &SetPicture{Patch: Patch(`{"clay": true}`)})
	if clay.Dressed().Part("ball").Materials[0] != "" || clay.Part("ball").Materials[0] != brass || len(clay.Dressed().Part("ball").Materials) != 1 {
		t.Error("clay is not plain grey over what is worn")
	}
	if _, err := Apply(s, []Edit{{&RemoveMaterial{Material: brass}}}, env()); err == nil {
		t.Error("a material that is worn is removed")
	}
}

// Using an angle and coming back leaves the picture as it was, also where the camera moves or is locked: another takes its
// place then.
func TestAnglesComeBack(t *testing.T) {
	s := glossy(t)
	s = apply(t, s, &KeepAngle{ID: "first", Name: "First"})
	s = apply(t, s, &KeepAngle{ID: "second", Name: "Second", From: &View{geom.Vec3{3, 1, 0}, geom.AxisAngle(geom.Vec3{0, 1, 0}, math.Pi/2)}})
	for _, locked := range []bool{false, true} {
		d := s.Clone()
		d.Part("cam").Locked = locked
		there := apply(t, d, &UseAngle{Angle: "second"})
		back := apply(t, there, &UseAngle{Angle: "first"})
		a, b, c := pose.New(d), pose.New(there), pose.New(back)
		at := func(e *pose.Evaluator) geom.Vec3 { return e.At(0)[e.Index.Part(e.Shot.Camera)].Column(3) }
		if at(b).Sub(geom.Vec3{3, 1, 0}).Len() > 1e-9 || at(c).Sub(at(a)).Len() > 1e-9 || (there.Camera == "cam") == locked {
			t.Errorf("locked %v: from %v to %v and back to %v through %s", locked, at(a), at(b), at(c), there.Camera)
		}
		if p := there.Part("cam"); locked && p.Rest != d.Part("cam").Rest {
			t.Error("a locked camera was moved")
		}
	}
	// What an angle sees is the same whether it is looked at or used.
	u := apply(t, s, &UseAngle{Angle: "second"})
	x, err := scene.Resolve(pose.New(s.Seen(&s.Angles[1])), 0, nil, scene.Options{})
	if err != nil {
		t.Fatal(err)
	}
	y, err := scene.Resolve(pose.New(u), 0, nil, scene.Options{})
	if err != nil || x.Fingerprint() != y.Fingerprint() {
		t.Errorf("looked at and used they are two pictures: %v", err)
	}
}

// A turn about the room's upright is one whatever the model is turned by: one that came in lying turns right at once.
func TestTheRoomsAxisIsUpright(t *testing.T) {
	s := glossy(t)
	s = apply(t, s, &Group{Parts: []string{"ball"}, ID: "lying", Name: "Lying"})
	s.Part("lying").Rest.Rotation = geom.AxisAngle(geom.Vec3{1, 2, 0}, 1.1)
	s.Part("lying").Rest.Size = geom.Vec3{0.001, 0.001, 0.001}
	s = apply(t, s, &AddMove{Part: "ball", Kind: "turn", ID: "m"})
	e := pose.New(s)
	i := e.Index.Part("ball")
	a, b := e.At(0)[i], e.At(24)[i]
	inv, _ := a.Inverse()
	turned := b.Mul(inv)
	if up := turned.Vector(geom.Vec3{0, 1, 0}).Unit(); up.Sub(geom.Vec3{0, 1, 0}).Len() > 1e-9 {
		t.Errorf("upright goes to %v", up)
	}
	if x := turned.Vector(geom.Vec3{1, 0, 0}).Unit(); math.Abs(x[1]) > 1e-9 || math.Abs(x[0]) > 1e-9 {
		t.Errorf("a quarter of the turn takes x to %v", x)
	}
}

// Width, height and depth are the part's own, in metres of the room, whatever it is in.
func TestSizesAlongItsOwnAxes(t *testing.T) {
	s := glossy(t)
	s = apply(t, s, &Group{Parts: []string{"ball"}, ID: "big", Name: "Big"})
	s.Part("big").Rest.Rotation = geom.AxisAngle(geom.Vec3{0, 0, 1}, 0.7)
	s.Part("big").Rest.Size = geom.Vec3{10, 10, 10}
	d := apply(t, s, &SetSize{Parts: []string{"ball"}, Axis: 1, To: 4})
	m, err := Measure(d, pose.New(d), "ball", env())
	if err != nil || m.Size.Sub(geom.Vec3{10, 4, 10}).Len() > 0.01 {
		t.Errorf("it is %v large, %v", m, err)
	}
	d = apply(t, d, &SetSize{Parts: []string{"ball"}, Axis: 0, To: 5, Even: true})
	if m, _ := Measure(d, pose.New(d), "ball", env()); m.Size.Sub(geom.Vec3{5, 2, 5}).Len() > 0.01 {
		t.Errorf("with its proportions it is %v large", m.Size)
	}
	for _, at := range []float64{12, 12} { // by pins, on top of what is pinned there
		d = apply(t, d, &SetSize{Parts: []string{"ball"}, Axis: 1, Factor: 3, At: &at})
	}
	if p := d.Part("ball"); p.Track(shot.TrackHeight).At(12).Value != 9 || p.Track(shot.TrackWidth) != nil {
		t.Errorf("pinned to thrice its height twice: %+v", p.Tracks)
	}
}

// Locked means locked: nothing sets the place or the lens of a camera that is, and the fit does not move it either.
func TestALockedCameraStays(t *testing.T) {
	s := glossy(t)
	lens := *s.Part("cam").Camera
	lens.Fitted, lens.Margin = true, 8
	s.Part("cam").Camera, s.Part("cam").Locked = &lens, true
	for _, patch := range []string{`{"camera": {"focal": 35}}`, `{"rest": {"position": [1, 1, 1]}}`} {
		if _, err := Apply(s, []Edit{{&SetPart{Part: "cam", Patch: Patch(patch)}}}, env()); err == nil {
			t.Errorf("%s is let through", patch)
		}
	}
	apply(t, s, &SetPart{Part: "cam", Patch: Patch(`{"name": "Front"}`)})
	larger := apply(t, s, &SetSize{Parts: []string{"ball"}, Axis: 0, Factor: 3, Even: true})
	if larger.Part("cam").Rest != s.Part("cam").Rest {
		t.Error("the fit moves a locked camera")
	}
}

// A light becomes one of any other kind by its kind alone, and stays as large across as it was.
func TestALightOfAnotherKind(t *testing.T) {
	for _, from := range shot.LightKinds {
		for _, to := range shot.LightKinds {
			s := apply(t, glossy(t), &AddLight{Kind: from.Kind, ID: "l"})
			was := *s.Part("l").Light
			s = apply(t, s, &SetPart{Part: "l", Patch: Patch(`{"light": {"kind": "` + string(to.Kind) + `"}}`)})
			if err := s.Validate(); err != nil {
				t.Fatalf("from %s to %s: %v", from.Name, to.Name, err)
			}
			is := s.Part("l").Light
			if is.Kind != to.Kind || was.Radius > 0 && to.Kind == shot.Softbox && is.Width != 2*was.Radius {
				t.Fatalf("from %s to %s: %+v, then %+v", from.Name, to.Name, was, *is)
			}
		}
	}
}
