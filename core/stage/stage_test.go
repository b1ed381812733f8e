package stage

import (
	"fmt"
	"math"
	"testing"

	"perigyre/core/framing"
	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/core/move"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

type held struct{ m *model.Model }

func (h held) Support(p *shot.Part) (*mesh.Support, error) {
	points, err := h.points(p)
	return mesh.NewSupport(points), err
}

func (held) Surface(*shot.Part) ([]geom.Vec3, []uint32, error) { return nil, nil, nil }

func (held) Flesh(*shot.Part) (*mesh.Mesh, error) { return &mesh.Mesh{}, nil }

func (h held) points(p *shot.Part) (out []geom.Vec3, err error) {
	if p.Plinth != nil {
		for _, v := range mesh.DiscPlinth(p.Plinth.Radius, p.Plinth.Height, p.Plinth.Bevel).Positions {
			out = append(out, geom.V3(v))
		}
	}
	if p.Mesh != nil {
		for _, prim := range h.m.Meshes[p.Mesh.Mesh].Primitives {
			for _, v := range prim.Positions {
				out = append(out, geom.V3(v))
			}
		}
	}
	return out, nil
}

// staged brings in a wedge in millimetres, far off its own origin, turned and mirrored.
func staged(t *testing.T, moves string, format shot.Format) (*shot.Shot, held) {
	t.Helper()
	wedge := &mesh.Mesh{Positions: [][3]float32{{0, 0, 0}, {60, 0, 0}, {0, 0, 20}, {0, 90, 0}}, Indices: []uint32{0, 1, 2, 0, 3, 1, 0, 2, 3, 1, 3, 2}}
	m := &model.Model{
		Materials: []material.Material{material.Default()},
		Meshes:    []model.Mesh{{Name: "Wedge", Primitives: []model.Primitive{{Mesh: wedge}}}},
		Nodes: []model.Node{{Name: "Wedge", Parent: -1, Mesh: 0, Position: geom.Vec3{400, -70, 1000},
			Rotation: geom.AxisAngle(geom.Vec3{1, 2, 3}, 1), Size: geom.Vec3{-1, 2, 1}}},
	}
	s := shot.New("t")
	s.Format = format
	o := Defaults()
	count := 0
	o.File, o.Asset, o.Name, o.Unit = "w.stl", "a", "w", "mm"
	o.NewID = func() string { count++; return fmt.Sprint(count) }
	o.Turntable.Moves = moves
	g := held{m}
	if err := Put(s, m, o, g); err != nil {
		t.Fatal(err)
	}
	return s, g
}

// A finish dresses what its variant names, and nothing else; a light keeps its place and what it shines on
// gets its file's irradiance: 40 cd at 1 m are 40.
func TestVariantsBecomeFinishesAndLightsKeepTheirLight(t *testing.T) {
	red, blue := material.Default(), material.Default()
	red.Name, blue.Name = "Red", "Blue"
	m := &model.Model{
		Variants: []string{"Pale", "Dark"}, Materials: []material.Material{red, blue},
		Meshes: []model.Mesh{{Primitives: []model.Primitive{{Mesh: &mesh.Mesh{}, Material: 0, Dressed: []int{-1, 1}}, {Mesh: &mesh.Mesh{}, Material: 0}}}},
		Nodes: []model.Node{{Name: "Body", Parent: -1, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}},
			{Name: "Lamp", Parent: 0, Position: geom.Vec3{0, 2, 0}, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}, Mesh: -1, Light: &model.Light{Kind: "point", Color: [3]float64{1, 1, 1}, Intensity: 40}}},
	}
	s := shot.New("t")
	o, count := Defaults(), 0
	o.Unit, o.Up, o.NewID = "m", "y", func() string { count++; return fmt.Sprint(count) }
	if err := Arrange(s, m, o); err != nil {
		t.Fatal(err)
	}
	if err := s.Validate(); err != nil {
		t.Fatal(err)
	}
	names := func() (out []string) {
		d := s.Dressed()
		for _, p := range d.Parts {
			for _, id := range p.Materials {
				for _, mat := range d.Materials {
					if p.Name == "Body" && mat.ID == id {
						out = append(out, mat.Name)
					}
				}
			}
		}
		return out
	}
	for i, want := range []string{"[Red Red]", "[Red Red]", "[Blue Red]"} {
		if s.Finish = ""; i > 0 {
			s.Finish = s.Finishes[i-1].ID
		}
		if got := fmt.Sprint(names()); got != want {
			t.Errorf("finish %q: %s, want %s", s.Finish, got, want)
		}
	}
	for _, p := range s.Parts {
		if p.Name != "Lamp" {
			continue
		}
		if e := math.Pi * p.Light.Strength * p.Light.Radius * p.Light.Radius; math.Abs(e-40) > 1e-9 || p.Rest.Position[1] != 2 || !p.Hidden {
			t.Errorf("%+v gives %g at 1 m", p, e)
		}
		return
	}
	t.Error("the light is gone")
}

// world returns the points of all solids at a time.
func world(s *shot.Shot, g held, t float64) (out []geom.Vec3) {
	w := pose.New(s).At(t)
	for i := range s.Parts {
		if s.Parts[i].Kind == shot.Solid {
			points, _ := g.points(&s.Parts[i])
			for _, p := range points {
				out = append(out, w[i].Point(p))
			}
		}
	}
	return out
}

func TestModelStandsOnItsPlinthOnTheAxis(t *testing.T) {
	s, g := staged(t, "object", shot.Format{Width: 640, Height: 480})
	low := math.Inf(1)
	var floor []geom.Vec2
	for _, p := range world(s, g, 0) {
		low = math.Min(low, p[1])
		floor = append(floor, geom.Vec2{p[0], p[2]})
	}
	c := geom.EnclosingCircle(floor)
	var plinth *shot.Disc
	for _, p := range s.Parts {
		if p.Plinth != nil {
			plinth = p.Plinth
		}
	}
	if math.Abs(low-plinth.Height) > 1e-12 || c.Centre.Len() > 1e-12 || plinth.Radius < c.Radius {
		t.Errorf("lowest point at %g on a plinth of %g, circle round %v of %g on a radius of %g", low, plinth.Height, c.Centre, c.Radius, plinth.Radius)
	}
	if m, err := Measure(s, s.Sources[0].Root, g); err != nil || m.Wobble == nil || *m.Wobble > 1e-12 {
		t.Errorf("%+v, %v", m, err)
	}
	// Seen as centimetres all is ten times as large, and stands just as well.
	big := s.Clone()
	big.Part(s.Sources[0].Root).Rest.Size = s.Part(s.Sources[0].Root).Rest.Size.Mul(10)
	if err := Stand(big, big.Sources[0].Root, g); err != nil {
		t.Fatal(err)
	}
	a, b := world(s, g, 5), world(big, g, 5)
	for i := range a {
		if d := b[i].Sub(a[i].Mul(10)).Len(); d > 1e-9 {
			t.Fatalf("point %d is at %v, ten times %v", i, b[i], a[i])
		}
	}
}

// Whether the object turns clockwise or the camera goes round it counterclockwise, the picture of the
// object is the same on every frame; and the fit holds the margin exactly in both.
func TestObjectTurningIsCameraGoingRoundTheOtherWay(t *testing.T) {
	object, g := staged(t, "object", shot.Format{Width: 480, Height: 640})
	camera, _ := staged(t, "camera", shot.Format{Width: 480, Height: 640})
	for i := range camera.Parts {
		for j := range camera.Parts[i].Moves {
			camera.Parts[i].Moves[j].Data.(*move.Turntable).Direction = shot.CounterClockwise
		}
	}
	if err := FitCamera(camera, g, nil); err != nil {
		t.Fatal(err)
	}
	for f := 0; f < object.Frames; f += 7 {
		a, b := world(object, g, float64(f)), world(camera, g, float64(f))
		seen := func(s *shot.Shot, p geom.Vec3) geom.Vec3 {
			inv, _ := pose.New(s).At(float64(f))[s.Index(s.Camera)].Inverse()
			return inv.Point(p)
		}
		for i := range a {
			if d := seen(object, a[i]).Sub(seen(camera, b[i])).Len(); d > 1e-9 {
				t.Fatalf("frame %d: point %d is seen %g apart", f, i, d)
			}
		}
	}
	for _, s := range []*shot.Shot{object, camera} {
		u, err := framing.NewSubject(s, g, nil)
		if err != nil {
			t.Fatal(err)
		}
		if m, ok, _ := u.Margins(); !ok || math.Abs(m.Tightest-8) > 0.01 {
			t.Errorf("the tightest margin is %g %%, want 8", m.Tightest)
		}
	}
}

// A model far off its file's origin turns about the middle of its base, on the axis, however it is read; a pivot that
// somebody has put elsewhere stays there.
func TestAModelTurnsAboutItsBase(t *testing.T) {
	s, g := staged(t, "object", shot.Format{Width: 100, Height: 100})
	root := s.Sources[0].Root
	pivot := func() geom.Vec3 {
		e := pose.New(s)
		i := s.Index(root)
		return e.At(0)[i].Point(s.Parts[i].Pivot)
	}
	low := func() float64 {
		under, err := under(s, s.Index(root), g)
		if err != nil {
			t.Fatal(err)
		}
		return under.Bounds().Min[1] + s.Part(root).Rest.Position[1]
	}
	for _, up := range []string{"y", "z", "y"} {
		s.Part(root).Rest.Rotation = shot.Uprights[up]
		if err := Stand(s, root, g); err != nil {
			t.Fatal(err)
		}
		if p := pivot(); math.Hypot(p[0], p[2]) > 1e-9 || math.Abs(p[1]-low()) > 1e-9 {
			t.Fatalf("with %s upright it turns about %v, and stands at %g", up, p, low())
		}
		if !Staged(s, root, g) {
			t.Fatalf("with %s upright it is not as it was staged", up)
		}
	}
	TurnAbout(s.Part(root), s.Part(root).Pivot.Add(geom.Vec3{7, 0, 3}))
	chosen := s.Part(root).Pivot
	s.Part(root).Rest.Rotation = shot.Uprights["z"]
	if Staged(s, root, g) {
		t.Fatal("what lies is not as it was staged")
	}
	if err := Stand(s, root, g); err != nil {
		t.Fatal(err)
	}
	if s.Part(root).Pivot != chosen {
		t.Fatalf("the pivot that was chosen, %v, is now %v", chosen, s.Part(root).Pivot)
	}
}
