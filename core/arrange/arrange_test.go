package arrange

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/pose"
	"perigyre/core/shot"
)

type built struct{}

func (built) Points(p *shot.Part) (out []geom.Vec3, err error) {
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

func apply(t *testing.T, s *shot.Shot, a shot.Arrange) *shot.Shot {
	t.Helper()
	out, words, err := Apply(shot.Edit{Arrange: &a}, s, built{})
	if err != nil || words == "" {
		t.Fatal(err, words)
	}
	return out
}

// Nothing moves by surprise: grouping, taking apart, putting elsewhere with its place kept, and moving
// the pivot all leave every part where it is in the room.
func TestNothingMovesBySurprise(t *testing.T) {
	for seed := range uint64(50) {
		s := tree(seed)
		for name, a := range map[string]shot.Arrange{
			"group":      {Group: &shot.GroupParts{Parts: []string{"b", "g2"}, ID: "gn", Name: "New"}},
			"take apart": {Ungroup: &shot.OnePart{Part: "g1"}},
			"put in":     {PutIn: &shot.PutIn{Parts: []string{"g2"}, Parent: "g3", Keep: true}},
			"into room":  {PutIn: &shot.PutIn{Parts: []string{"c", "g3"}, Parent: "", Keep: true}},
			"pivot":      {Pivot: &shot.SetPivot{Part: "g1", To: "base"}},
			"pivot 2":    {Pivot: &shot.SetPivot{Part: "c", To: "point", Point: geom.Vec3{1, 2, 3}}},
			"pivot 3":    {Pivot: &shot.SetPivot{Part: "d", To: "parent"}},
		} {
			out := apply(t, s, a)
			for _, id := range []string{"b", "c", "d"} {
				same(t, fmt.Sprint(name, " ", id), where(s, id), where(out, id))
			}
		}
	}
}

func TestPivotIsWhereItWasPut(t *testing.T) {
	s := apply(t, tree(3), shot.Arrange{Pivot: &shot.SetPivot{Part: "c", To: "point", Point: geom.Vec3{1, 2, 3}}})
	if at := where(s, "c").Point(s.Part("c").Pivot); at.Sub(geom.Vec3{1, 2, 3}).Len() > 1e-9 {
		t.Errorf("the pivot is at %v", at)
	}
	// A turn about the pivot leaves that point still.
	s.Part("c").Rest.Rotation = geom.AxisAngle(geom.Vec3{1, 1, 0}, 1).Mul(s.Part("c").Rest.Rotation)
	if at := where(s, "c").Point(s.Part("c").Pivot); at.Sub(geom.Vec3{1, 2, 3}).Len() > 1e-9 {
		t.Errorf("turned, the pivot is at %v", at)
	}
}

func TestPlacing(t *testing.T) {
	s := tree(5)
	box := func(s *shot.Shot, id string) geom.Box {
		w := &work{s: s, g: built{}, world: pose.New(s).At(0)}
		b, _ := w.bounds(s.Index(id))
		return b
	}
	s = apply(t, s, shot.Arrange{Stand: &shot.StandParts{Parts: []string{"g1", "b"}, Sink: 0.01}}) // b goes along once
	if low := box(s, "g1").Min[1]; math.Abs(low+0.01) > 1e-9 {
		t.Errorf("stood with 10 mm sunk, the lowest point is at %g", low)
	}
	s = apply(t, s, shot.Arrange{Resize: &shot.Resize{Part: "g3", Height: 0.25}})
	if h := box(s, "g3").Size()[1]; math.Abs(h-0.25) > 1e-9 {
		t.Errorf("made 250 mm high it is %g", h)
	}
	s = apply(t, s, shot.Arrange{Align: &shot.Align{Parts: []string{"b", "c", "d"}, Axis: 0, To: "high"}})
	if a, b := box(s, "b").Max[0], box(s, "d").Max[0]; math.Abs(a-b) > 1e-9 {
		t.Errorf("aligned, they reach to %g and %g", a, b)
	}
	s = apply(t, s, shot.Arrange{Distribute: &shot.Distribute{Parts: []string{"b", "c", "d"}, Axis: 2}})
	z := []float64{box(s, "b").Centre()[2], box(s, "c").Centre()[2], box(s, "d").Centre()[2]}
	lo, hi := math.Min(z[0], math.Min(z[1], z[2])), math.Max(z[0], math.Max(z[1], z[2]))
	if sum := z[0] + z[1] + z[2]; math.Abs(sum-1.5*(lo+hi)) > 1e-9 {
		t.Errorf("spaced out, they are at %v", z)
	}
	at, n := geom.Vec3{0.1, 0.2, 0.3}, geom.Vec3{1, 2, -1}
	to, facing := geom.Vec3{3, 2, 1}, geom.Vec3{0, 1, 0}
	before := where(s, "d")
	s = apply(t, s, shot.Arrange{FaceTo: &shot.FaceTo{Part: "d", From: at, Normal: n, To: to, Facing: facing}})
	inv, _ := before.Inverse()
	m := where(s, "d").Mul(inv)
	if got := m.Point(at).Sub(to).Len(); got > 1e-9 || m.Vector(n.Unit()).Add(facing).Len() > 1e-9 {
		t.Errorf("face to face the points are %g apart and the normal is %v", got, m.Vector(n.Unit()))
	}
}

func TestTreeEdits(t *testing.T) {
	s := tree(1)
	s.Part("c").Moves = []shot.Move{{ID: "m", Kind: shot.KindFloat, Float: &shot.Float{Height: 1, Period: 48}}}
	d := apply(t, s, shot.Arrange{Duplicate: &shot.Duplicate{Parts: []string{"g2", "c"}, ID: "x"}})
	if len(d.Parts) != 9 || d.Parts[d.Index("x-2")].Parent != "x-1" || d.Part("x-1").Name != "G2 2" || d.Part("x-2").Moves[0].ID == "m" {
		t.Errorf("%+v", d.Parts)
	}
	r := apply(t, s, shot.Arrange{Rename: &shot.RenameMany{Parts: []string{"b", "c", "d"}, Pattern: "{name} no. {n}"}})
	if r.Part("d").Name != "D no. 3" {
		t.Errorf("named %q", r.Part("d").Name)
	}
	o := apply(t, s, shot.Arrange{PutIn: &shot.PutIn{Parts: []string{"g3"}, Parent: "g0", Before: "g1"}})
	if o.Index("g3") > o.Index("g1") || o.Index("d") != o.Index("g3")+1 {
		t.Errorf("reordered: %v", o.Parts)
	}
	yes := true
	locked := apply(t, s, shot.Arrange{Flag: &shot.SetFlags{Parts: []string{"b"}, Locked: &yes}})
	for says, a := range map[string]shot.Arrange{
		"is locked":         {Stand: &shot.StandParts{Parts: []string{"b"}}},
		"into itself":       {PutIn: &shot.PutIn{Parts: []string{"g1"}, Parent: "g2"}},
		"no group":          {PutIn: &shot.PutIn{Parts: []string{"g1"}, Parent: "d"}},
		"different groups":  {Group: &shot.GroupParts{Parts: []string{"c", "d"}, ID: "n"}},
		"nothing is chosen": {Stand: &shot.StandParts{}},
		"any more":          {Centre: &shot.SomeParts{Parts: []string{"gone"}}},
	} {
		if _, _, err := Apply(shot.Edit{Arrange: &a}, locked, built{}); err == nil || !strings.Contains(err.Error(), says) {
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
		out := apply(t, s, shot.Arrange{Add: &shot.AddPart{Part: shot.Part{ID: "k", Name: "Copies", Kind: shot.Copies, Rest: shot.AtRest, Copies: &c}}})
		e := pose.New(out)
		return e.Spreads(e.At(0))[0].Places
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
