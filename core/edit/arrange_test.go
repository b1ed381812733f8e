package edit

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/material"
	"perigyre/core/mesh"
	"perigyre/core/move"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

type built struct{}

func (built) Support(p *shot.Part) (*mesh.Support, error) {
	points, err := built{}.points(p)
	return mesh.NewSupport(points), err
}

func (built) Surface(p *shot.Part) (points []geom.Vec3, indices []uint32, err error) {
	if s := p.Shaped(); s != nil {
		points, err = built{}.points(p)
		indices = s.Build().Indices
	}
	return points, indices, err
}

func (built) Flesh(*shot.Part) (*mesh.Mesh, error) { return &mesh.Mesh{}, nil }

func (built) points(p *shot.Part) (out []geom.Vec3, err error) {
	if s := p.Shaped(); s != nil {
		for _, v := range s.Build().Positions {
			out = append(out, geom.V3(v))
		}
	}
	return out, nil
}

func part(id, parent string, rng *rand.Rand) shot.Part {
	p := shot.Part{ID: id, Name: strings.ToUpper(id), Parent: parent, Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{}}
	k := 0.5 + rng.Float64()
	p.Rest = shot.Rest{Position: geom.Vec3{rng.NormFloat64(), rng.NormFloat64(), rng.NormFloat64()},
		Rotation: geom.AxisAngle(geom.Vec3{rng.NormFloat64(), 1, rng.NormFloat64()}, rng.Float64()*6), Size: geom.Vec3{k, k, k}}
	p.Pivot = geom.Vec3{rng.NormFloat64(), rng.NormFloat64(), 0}
	if !strings.HasPrefix(id, "g") {
		p.Kind, p.Shape = shot.Made, &mesh.Shape{Kind: mesh.BoxShape, Size: geom.Vec3{0.3, 0.2, 0.1}}
	}
	return p
}

// tree is a(g1(b, g2(c)), g3(d)) with random places.
func tree(seed uint64) *shot.Shot {
	rng := rand.New(rand.NewPCG(seed, 7))
	s := shot.New("t")
	for _, p := range [][2]string{{"g0", ""}, {"g1", "g0"}, {"b", "g1"}, {"g2", "g1"}, {"c", "g2"}, {"g3", "g0"}, {"d", "g3"}} {
		s.Parts = append(s.Parts, part(p[0], p[1], rng))
	}
	return s
}

func where(s *shot.Shot, id string) geom.Mat4 { return pose.New(s).At(0)[s.Index(id)] }

func same(t *testing.T, what string, a, b geom.Mat4) {
	t.Helper()
	for k := range a {
		if math.Abs(a[k]-b[k]) > 1e-9 {
			t.Fatalf("%s: it is not where it was: %v, then %v", what, a, b)
		}
	}
}

func env() Env {
	n := 0
	return Env{Assets: built{}, NewID: func() string { n++; return fmt.Sprint("made", n) }}
}

func apply(t *testing.T, s *shot.Shot, c Change) *shot.Shot {
	t.Helper()
	out, err := Apply(s, []Edit{{c}}, env())
	if err != nil || out.Words == "" {
		t.Fatal(err, out)
	}
	return out.Shot
}

// Nothing moves by surprise: grouping, taking apart, putting elsewhere with its place kept, and moving
// the pivot all leave every part where it is in the room.
func TestNothingMovesBySurprise(t *testing.T) {
	for seed := range uint64(50) {
		s := tree(seed)
		for name, a := range map[string]Change{
			"group":      &Group{Parts: []string{"b", "g2"}, ID: "gn", Name: "New"},
			"take apart": &Ungroup{Part: "g1"},
			"put in":     &PutIn{Parts: []string{"g2"}, Parent: "g3", Keep: true},
			"into room":  &PutIn{Parts: []string{"c", "g3"}, Parent: "", Keep: true},
			"pivot":      &SetPivot{Part: "g1", To: "base"},
			"pivot 2":    &SetPivot{Part: "c", To: "point", Point: geom.Vec3{1, 2, 3}},
			"pivot 3":    &SetPivot{Part: "d", To: "parent"},
		} {
			out := apply(t, s, a)
			for _, id := range []string{"b", "c", "d"} {
				same(t, fmt.Sprint(name, " ", id), where(s, id), where(out, id))
			}
		}
	}
}

func TestPivotIsWhereItWasPut(t *testing.T) {
	s := apply(t, tree(3), &SetPivot{Part: "c", To: "point", Point: geom.Vec3{1, 2, 3}})
	if at := where(s, "c").Point(s.Part("c").Pivot); at.Sub(geom.Vec3{1, 2, 3}).Len() > 1e-9 {
		t.Errorf("the pivot is at %v", at)
	}
	// A turn about the pivot leaves that point still.
	s.Part("c").Rest.Rotation = geom.AxisAngle(geom.Vec3{1, 1, 0}, 1).Mul(s.Part("c").Rest.Rotation)
	if at := where(s, "c").Point(s.Part("c").Pivot); at.Sub(geom.Vec3{1, 2, 3}).Len() > 1e-9 {
		t.Errorf("turned, the pivot is at %v", at)
	}
}

// What is given a roll turns about its middle, not about what it stands on, and is where it was; what moves already keeps its pivot.
func TestWhatRollsTurnsAboutItsMiddle(t *testing.T) {
	for _, moving := range []bool{false, true} {
		s := tree(7)
		was := s.Part("c").Pivot
		if moving {
			s.Part("c").Moves = []shot.Move{{ID: "t", Kind: "turn", Muted: true, Data: &move.Turn{Turns: 1, Direction: shot.Clockwise, Axis: geom.Vec3{0, 1, 0}, Frame: shot.OwnFrame}}}
		}
		out := apply(t, s, &AddMove{Part: "c", Kind: "roll"})
		out.Part("c").Moves[len(out.Part("c").Moves)-1].Muted = true
		same(t, "rolling", where(s, "c"), where(out, "c"))
		w := &Work{Env: env(), Shot: out, before: out}
		box, err := w.bounds(out.Index("c"))
		if err != nil {
			t.Fatal(err)
		}
		middle := where(out, "c").Point(out.Part("c").Pivot).Sub(box.Centre()).Len() < 1e-9
		if middle == moving || moving && out.Part("c").Pivot != was {
			t.Errorf("moving %v: the pivot is in the middle: %v", moving, middle)
		}
	}
}

func TestPlacing(t *testing.T) {
	s := tree(5)
	box := func(s *shot.Shot, id string) geom.Box {
		w := &Work{Env: env(), Shot: s, before: s}
		b, _ := w.bounds(s.Index(id))
		return b
	}
	s = apply(t, s, &Stand{Parts: []string{"g1", "b"}, Sink: 0.01}) // b goes along once
	if low := box(s, "g1").Min[1]; math.Abs(low+0.01) > 1e-9 {
		t.Errorf("stood with 10 mm sunk, the lowest point is at %g", low)
	}
	s = apply(t, s, &Resize{Part: "g3", Height: 0.25})
	if h := box(s, "g3").Size()[1]; math.Abs(h-0.25) > 1e-9 {
		t.Errorf("made 250 mm high it is %g", h)
	}
	s = apply(t, s, &Align{Parts: []string{"b", "c", "d"}, Axis: 0, To: "high"})
	if a, b := box(s, "b").Max[0], box(s, "d").Max[0]; math.Abs(a-b) > 1e-9 {
		t.Errorf("aligned, they reach to %g and %g", a, b)
	}
	s = apply(t, s, &Distribute{Parts: []string{"b", "c", "d"}, Axis: 2})
	z := []float64{box(s, "b").Centre()[2], box(s, "c").Centre()[2], box(s, "d").Centre()[2]}
	lo, hi := math.Min(z[0], math.Min(z[1], z[2])), math.Max(z[0], math.Max(z[1], z[2]))
	if sum := z[0] + z[1] + z[2]; math.Abs(sum-1.5*(lo+hi)) > 1e-9 {
		t.Errorf("spaced out, they are at %v", z)
	}
	at, n := geom.Vec3{0.1, 0.2, 0.3}, geom.Vec3{1, 2, -1}
	to, facing := geom.Vec3{3, 2, 1}, geom.Vec3{0, 1, 0}
	before := where(s, "d")
	s = apply(t, s, &FaceTo{Part: "d", From: at, Normal: n, To: to, Facing: facing})
	inv, _ := before.Inverse()
	m := where(s, "d").Mul(inv)
	if got := m.Point(at).Sub(to).Len(); got > 1e-9 || m.Vector(n.Unit()).Add(facing).Len() > 1e-9 {
		t.Errorf("face to face the points are %g apart and the normal is %v", got, m.Vector(n.Unit()))
	}
}

func TestTreeEdits(t *testing.T) {
	s := tree(1)
	s.Part("c").Moves = []shot.Move{{ID: "m", Kind: "float", Data: &move.Float{Height: 1, Period: 48}}}
	d := apply(t, s, &Duplicate{Parts: []string{"g2", "c"}, ID: "x"})
	if len(d.Parts) != 9 || d.Parts[d.Index("x-2")].Parent != "x-1" || d.Part("x-1").Name != "G2 2" || d.Part("x-2").Moves[0].ID == "m" {
		t.Errorf("%+v", d.Parts)
	}
	r := apply(t, s, &RenameParts{Parts: []string{"b", "c", "d"}, Pattern: "{name} no. {n}"})
	if r.Part("d").Name != "D no. 3" {
		t.Errorf("named %q", r.Part("d").Name)
	}
	o := apply(t, s, &PutIn{Parts: []string{"g3"}, Parent: "g0", Before: "g1"})
	if o.Index("g3") > o.Index("g1") || o.Index("d") != o.Index("g3")+1 {
		t.Errorf("reordered: %v", o.Parts)
	}
	yes := true
	locked := apply(t, s, &SetFlags{Parts: []string{"b"}, Locked: &yes})
	for says, a := range map[string]Change{
		"is locked":         &Stand{Parts: []string{"b"}},
		"into itself":       &PutIn{Parts: []string{"g1"}, Parent: "g2"},
		"different groups":  &Group{Parts: []string{"c", "d"}, ID: "n"},
		"nothing is chosen": &Stand{},
		"any more":          &Centre{Parts: []string{"gone"}},
	} {
		if _, err := Apply(locked, []Edit{{a}}, env()); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%v, want something with %q", err, says)
		}
	}
}

// Copies: counts and places by hand, the scatter's distance against every pair, and the same every time.
func TestCopies(t *testing.T) {
	s := tree(2)
	add := func(c shot.Spread) []geom.Mat4 {
		t.Helper()
		c.Of = "b"
		for k := range c.Count {
			c.Count[k] = max(1, c.Count[k])
		}
		out := apply(t, s, &AddPart{Part: shot.Part{ID: "k", Name: "Copies", Kind: shot.Copies, Rest: shot.AtRest, Copies: &c}})
		e := pose.New(out)
		list, err := e.Spreads(0, e.At(0), built{})
		if err != nil {
			t.Fatal(err)
		}
		return list[0].Places
	}
	row := add(shot.Spread{Kind: shot.Row, Count: [3]int{4}, Step: geom.Vec3{0, 0, 2}})
	if d := row[3].Column(3).Sub(row[0].Column(3)); len(row) != 4 || d.Sub(geom.Vec3{0, 0, 6}).Len() > 1e-12 {
		t.Errorf("%d in the row, the last %v from the first", len(row), d)
	}
	ring := add(shot.Spread{Kind: shot.Ring, Count: [3]int{8}, Radius: 3, Face: true})
	for i, m := range ring {
		inv, _ := ring[0].Inverse()
		q := geom.AxisAngle(geom.Vec3{0, 1, 0}, float64(i)*math.Pi/4)
		if d := m.Mul(inv).Vector(geom.Vec3{0, 0, 1}).Sub(q.Rotate(geom.Vec3{0, 0, 1})).Len(); d > 1e-9 {
			t.Errorf("copy %d of the ring is turned wrong by %g", i, d)
		}
	}
	scatter := shot.Spread{Kind: shot.Scatter, Count: [3]int{300}, Area: geom.Vec2{10, 6}, Apart: 0.4, Seed: 5, Turn: 1, Vary: 0.2}
	a, b := add(scatter), add(scatter)
	if len(a) < 100 || len(a) != len(b) {
		t.Fatalf("%d and %d are scattered", len(a), len(b))
	}
	places := func(m []geom.Mat4, i int) geom.Vec3 { return m[i].Point(geom.Vec3{}) }
	origin := shot.Spread{Kind: shot.Scatter, Count: [3]int{300}, Area: geom.Vec2{10, 6}, Apart: 0.4, Seed: 5}
	plain := add(origin)
	for i := range plain {
		if a[i] != b[i] {
			t.Fatal("the same seed gives another scatter")
		}
		for k := range i {
			if d := places(plain, i).Sub(places(plain, k)).Len(); d < 0.4-1e-9 {
				t.Fatalf("copies %d and %d are %g apart", i, k, d)
			}
		}
	}
}

// Copies scattered on a ball that is moved and resized lie on it, upright, and apart.
func TestScatterOnSurface(t *testing.T) {
	s := shot.New("t")
	still := func(id string, shape mesh.Shape) shot.Part {
		return shot.Part{ID: id, Name: id, Kind: shot.Made, Rest: shot.AtRest, Moves: []shot.Move{}, Shape: &shape}
	}
	ball := still("ball", mesh.Shape{Kind: mesh.SphereShape, Radius: 1, Sides: 96})
	ball.Rest.Position, ball.Rest.Size = geom.Vec3{3, 1, -2}, geom.Vec3{2, 2, 2}
	spread := shot.Part{ID: "k", Name: "k", Kind: shot.Copies, Rest: shot.AtRest, Moves: []shot.Move{},
		Copies: &shot.Spread{Of: "seed", Kind: shot.Surface, On: "ball", Count: [3]int{200, 1, 1}, Apart: 0.3, Turn: 2, Seed: 9}}
	s.Parts = append(s.Parts, ball, still("seed", mesh.Shape{Kind: mesh.BoxShape, Size: geom.Vec3{0.1, 0.1, 0.1}}), spread)
	if err := s.Validate(); err != nil {
		t.Fatal(err)
	}
	e := pose.New(s)
	list, err := e.Spreads(0, e.At(0), built{})
	if err != nil || len(list) != 1 || len(list[0].Places) != 200 {
		t.Fatal(err, len(list))
	}
	for i, m := range list[0].Places {
		out := m.Column(3).Sub(ball.Rest.Position.Add(geom.Vec3{0, 2, 0})) // balls stand on their lowest point
		if math.Abs(out.Len()-2) > 5e-3 || m.Column(1).Dot(out.Unit()) < 0.998 {
			t.Fatalf("copy %d is %g from the middle and leans by a cosine of %g", i, out.Len(), m.Column(1).Dot(out.Unit()))
		}
		for _, o := range list[0].Places[:i] {
			if d := m.Column(3).Sub(o.Column(3)).Len(); d < 0.3-1e-9 {
				t.Fatalf("two copies are %g apart", d)
			}
		}
	}
	spread.Copies.On = "seed" // on itself
	if s.Parts[2] = spread; s.Validate() == nil {
		t.Error("copies on what is copied are allowed")
	}
}

// A part that is made to face the camera looks at it level, from where it is.
func TestFaceCamera(t *testing.T) {
	s := tree(6)
	s.Parts = append(s.Parts, shot.Part{ID: "cam", Name: "Cam", Kind: shot.Camera, Moves: []shot.Move{},
		Rest:   shot.Rest{Position: geom.Vec3{4, 3, -2}, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}},
		Camera: &shot.Lens{Focal: 50, SensorWidth: 36, SensorHeight: 24, Sensor: shot.FitLonger}})
	s.Camera = "cam"
	for _, id := range []string{"b", "c", "g3"} {
		pivot := where(s, id).Point(s.Part(id).Pivot)
		out := apply(t, s, &FaceCamera{Parts: []string{id}})
		after := where(out, id)
		if d := after.Point(s.Part(id).Pivot).Sub(pivot).Len(); d > 1e-9 {
			t.Errorf("the pivot of %s moved by %g", id, d)
		}
		front, to := after.Column(2), geom.Vec3{4, 3, -2}.Sub(pivot)
		a, b := geom.Vec3{front[0], 0, front[2]}.Unit(), geom.Vec3{to[0], 0, to[2]}.Unit()
		if a.Dot(b) < 1-1e-9 {
			t.Errorf("%s looks along %v, the camera is towards %v", id, a, b)
		}
	}
}

// Parts pasted into another shot stand in the room where they stood, whatever they were in, with their own
// ids, their materials and what they are copies of.
func TestPasteKeepsPlaces(t *testing.T) {
	from := tree(3)
	from.Materials = append(from.Materials, material.Material{ID: "red", Name: "Red"}, material.Material{ID: "blue", Name: "Blue"})
	from.Part("c").Materials = []string{"red"}
	from.Part("d").Materials = []string{"blue"}
	from.Part("g2").Moves = []shot.Move{{ID: "m", Kind: "float", Data: &move.Float{Period: 24}}}
	from.Parts = append(from.Parts, shot.Part{ID: "many", Name: "Many", Parent: "g2", Kind: shot.Copies, Rest: shot.AtRest, Moves: []shot.Move{},
		Copies: &shot.Spread{Of: "d", Kind: shot.Row, Count: [3]int{3, 1, 1}}})
	to := tree(4)
	to.Materials = append(to.Materials, material.Material{ID: "red", Name: "Another red"}, material.Material{ID: "blue", Name: "Blue"})
	before, n := len(to.Parts), 0
	made, words, err := paste(to, from, []string{"g2"}, func() string { n++; return fmt.Sprint("p", n) })
	if err != nil {
		t.Fatal(err)
	}
	if words != "Paste 2 parts from t" || len(made) != 2 || len(to.Parts) != before+4 {
		t.Fatalf("%s: %v, %d parts more", words, made, len(to.Parts)-before)
	}
	found := map[string]*shot.Part{}
	for i := range to.Parts {
		if p := &to.Parts[i]; strings.HasPrefix(p.ID, "p") {
			found[p.Name] = p
		}
	}
	for _, name := range []string{"G2", "C", "D"} {
		same(t, name, where(from, strings.ToLower(name)), where(to, found[name].ID))
	}
	if c := found["Many"].Copies; c.Of != found["D"].ID {
		t.Errorf("the copies are of %s", c.Of)
	}
	if m := found["C"].Materials[0]; m == "red" || to.Materials[len(to.Materials)-1].ID != m || to.Materials[len(to.Materials)-1].Name != "Red" {
		t.Errorf("the other shot's red became %s", m)
	}
	if found["D"].Materials[0] != "blue" || len(to.Materials) != 3 || found["G2"].Moves[0].ID == "m" {
		t.Error("equal materials are shared and moves have ids of their own")
	}
}

// Differences are said in words, each where it is.
func TestCompare(t *testing.T) {
	a := tree(5)
	b := a.Clone()
	b.Frames = 120
	p := b.Part("b")
	p.Rest.Position = p.Rest.Position.Add(geom.Vec3{0, 0.012, 0})
	p.Rest.Rotation = geom.AxisAngle(geom.Vec3{0, 1, 0}, math.Pi/2).Mul(p.Rest.Rotation)
	p.Shape.Size[0] = 0.4
	b.Part("g3").Moves = []shot.Move{{ID: "m", Kind: "float", Data: &move.Float{Height: 0.1, Period: 24}}}
	b = apply(t, b, &RemoveParts{Parts: []string{"c"}})
	c := b.Clone()
	c.Part("g3").Moves[0].Data.(*move.Float).Period = 48
	c.Part("d").Hidden = true
	for _, x := range []struct {
		a, b *shot.Shot
		want string
	}{
		{a, a, ""},
		{a, b, "120 frames instead of 96. C is gone. B: moved by 12 mm. B: turned by 90 degrees. B: size 0.4, 0.2, 0.1 instead of 0.3, 0.2, 0.1. G3: a new float."},
		{b, c, "G3: float period 48 instead of 24. D: hidden."},
		{c, b, "G3: float period 24 instead of 48. D: shown."},
	} {
		if got := strings.Join(shot.Compare(x.a, x.b), " "); got != x.want {
			t.Errorf("got  %s\nwant %s", got, x.want)
		}
	}
}

// Recorded on a frame, a part stands there where a matrix took it, whatever its turn; at frame 0 it is where it
// was, and its rest is untouched.
func TestRecordingPinsThePose(t *testing.T) {
	s := tree(5)
	s.Frames = 48
	about := where(s, "c").Column(3)
	for _, q := range []geom.Quat{geom.NoTurn, geom.AxisAngle(geom.Vec3{1, 2, 3}, 0.7)} {
		for _, from := range []float64{0, 1} {
			at := 20.0
			before := pose.New(s).At(at)[s.Index("c")]
			c := s
			size := 1.0
			if from == 1 { // a second time, over what the first has pinned
				size = 1.5
			}
			m := geom.Translation(about.Add(geom.Vec3{0.1, 0.2, -0.3})).Mul(geom.TRS(geom.Vec3{}, q, geom.Vec3{size, size, size})).Mul(geom.Translation(about.Mul(-1)))
			c = apply(t, s, &Transform{Parts: []string{"c"}, About: about, Move: geom.Vec3{0.1, 0.2, -0.3}, Turn: q, Size: size, At: &at})
			same(t, "the recorded pose", pose.New(c).At(at)[c.Index("c")], m.Mul(before))
			same(t, "the pose on frame 0", where(c, "c"), where(s, "c"))
			if c.Part("c").Rest != s.Part("c").Rest {
				t.Error("recording changed how the part rests")
			}
			s = c
		}
	}
	// A turn about its own axis is kept as one, so that it may go on beyond a whole one.
	at := 30.0
	s = tree(5)
	s.Frames = 48
	axis := where(s, "c").Column(1).Unit()
	for range 3 {
		s = apply(t, s, &Transform{Parts: []string{"c"}, About: where(s, "c").Point(s.Part("c").Pivot), Turn: geom.AxisAngle(axis, 2.5), Size: 1, At: &at})
	}
	for _, tr := range s.Part("c").Tracks {
		if tr.Value == shot.TrackTurnY && math.Abs(tr.Pins[1].Value-7.5) < 1e-9 {
			return
		}
	}
	t.Errorf("three turns by 2.5 are kept as %+v", s.Part("c").Tracks)
}
