package library

import (
	"context"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"math"
	"os"
	"strings"
	"testing"

	"perigyre/core/edit"
	"perigyre/core/geom"
	"perigyre/core/loop"
	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/core/motion"
	"perigyre/core/move"
	"perigyre/core/pose"
	"perigyre/core/shot"
	"perigyre/core/stage"
	"perigyre/formats/gltf"
)

// figure brings in the bird of e2e/figure.mjs, staged as by the program, playing once so that nothing is brought round.
func figure(t *testing.T) (*shot.Shot, *Assets, *Report) {
	t.Helper()
	data, err := os.ReadFile("testdata/figure.glb")
	if err != nil {
		t.Fatal(err)
	}
	m, report, err := Bring(context.Background(), []File{{Name: "figure.glb", Data: data}}, "", model.DefaultLimits, func(string, float64) {})
	if err != nil {
		t.Fatal(err)
	}
	d, a := put(t, m)
	return d, a, report
}

// staged brings in a file, as the program does.
func staged(t *testing.T, data []byte) (*shot.Shot, *Assets) {
	t.Helper()
	m, _, err := Bring(context.Background(), []File{{Name: "a.glb", Data: data}}, "m", model.DefaultLimits, func(string, float64) {})
	if err != nil {
		t.Fatal(err)
	}
	return put(t, m)
}

func put(t *testing.T, m *model.Model) (*shot.Shot, *Assets) {
	t.Helper()
	a := InMemory(model.DefaultLimits)
	hash, err := a.KeepModel(m)
	if err != nil {
		t.Fatal(err)
	}
	n := 0
	o := stage.Defaults()
	o.File, o.Asset, o.Name, o.Unit, o.Up = "figure.glb", hash, "figure", "m", "y"
	o.NewID = func() string { n++; return fmt.Sprint("id", n) }
	d := shot.New("figure")
	if err := stage.Put(d, m, o, a); err != nil {
		t.Fatal(err)
	}
	return d, a
}

// placeOf returns the index of the part with a name.
func placeOf(t *testing.T, d *shot.Shot, name string) int {
	t.Helper()
	for i := range d.Parts {
		if d.Parts[i].Name == name {
			return i
		}
	}
	t.Fatalf("there is no part %s", name)
	return -1
}

func player(d *shot.Shot) (*shot.Part, *shot.Move) {
	for i := range d.Parts {
		for k := range d.Parts[i].Moves {
			if d.Parts[i].Moves[k].Kind == move.PlayKind {
				return &d.Parts[i], &d.Parts[i].Moves[k]
			}
		}
	}
	return nil, nil
}

// Skins of four and of eight influences, weights that do not add up to one, a sparse morph target, linear, stepped and cubic keys,
// and bones under a moving parent, against three 0.187: node e2e/figure.mjs library/testdata.
func TestFleshAgainstThree(t *testing.T) {
	d, a, report := figure(t)
	if len(report.LeftOut) > 0 || !strings.Contains(strings.Join(report.Became, " "), "The clip Stroll, 3.542 s long, moves 13 parts and is played.") {
		t.Errorf("left out %v, became %q", report.LeftOut, report.Became)
	}
	text, err := os.ReadFile("testdata/figure.json")
	if err != nil {
		t.Fatal(err)
	}
	var want []struct {
		Clip    string
		Seconds float64
		Part    string
		Each    int
		At      []geom.Vec3
	}
	if err := json.Unmarshal(text, &want); err != nil {
		t.Fatal(err)
	}
	d.Ending, d.Frames = shot.Once, 1000
	d.Parts[0].Moves = nil // the turntable
	root := d.Index(d.Sources[0].Root)
	on, m := player(d)
	const size = 0.4
	worst := 0.0
	for _, w := range want {
		for k := range on.Clips {
			if on.Clips[k].Name == w.Clip {
				m.Data.(*move.Play).Clip = k
			}
		}
		e := pose.New(d)
		at := motion.At(d, w.Seconds*24)
		world := e.World(at)
		back, _ := world[root].Inverse()
		i := placeOf(t, d, w.Part)
		got, _, err := e.Points(i, at, world, a)
		if err != nil {
			t.Fatal(err)
		}
		to := back.Mul(world[i])
		for n, p := range w.At {
			worst = math.Max(worst, to.Point(got[n*w.Each]).Sub(p).Len())
		}
	}
	if len(want) != 80 || worst > 1e-5*size {
		t.Errorf("%d sets of points: the furthest is %.3g of the size off", len(want), worst/size)
	}
}

// A clip closes with the shot that is as long as it, and says what would let it close with another; as pins it says the same.
func TestClipsCloseAndBecomePins(t *testing.T) {
	d, a, _ := figure(t)
	_, m := player(d)
	closing := func(d *shot.Shot) loop.Closing {
		for _, c := range loop.Closings(pose.New(d)) {
			if c.Move == m.ID {
				return c
			}
		}
		t.Fatal("the clip is not looked at")
		return loop.Closing{}
	}
	was := closing(d)
	if was.Closes || !strings.Contains(was.Words, "96 / 85") {
		t.Errorf("85 frames in 96: %+v", was)
	}
	var words []string
	for _, mend := range was.Mends {
		words = append(words, mend.Words)
	}
	for _, say := range []string{"Once at 88.54 % of its speed", "2 times at 177.1 % of its speed", "Shot of 85 f"} {
		if !strings.Contains(strings.Join(words, "; "), say) {
			t.Errorf("%q is not among %q", say, words)
		}
	}
	done := apply(t, d, a, &edit.AsLongAs{Move: m.ID})
	if c := closing(done); done.Frames != 85 || !c.Closes || c.Laps != 1 {
		t.Errorf("as long as the clip: %d frames, %+v", done.Frames, c)
	}
	pinned := apply(t, done, a, &edit.ClipToPins{Move: m.ID})
	e, f := pose.New(done), pose.New(pinned)
	for _, at := range []float64{0, 3.3, 41, 84.5} {
		before, after := e.At(at), f.At(at)
		for i := range before {
			for k := range before[i] {
				if math.Abs(before[i][k]-after[i][k]) > 1e-6 {
					t.Fatalf("%s on frame %g: %g as a clip, %g as pins", done.Parts[i].Name, at, before[i][k], after[i][k])
				}
			}
		}
	}
	_, m = player(done)
	m.Data.(*move.Play).Clip = 1 // which mixes the shape, and does not end as it begins
	if c := closing(done); c.Closes {
		t.Errorf("a clip that ends otherwise closes: %+v", c)
	}
	if _, err := edit.Apply(done, []edit.Edit{{Change: &edit.ClipToPins{Move: m.ID}}}, edit.Env{Assets: a}); err == nil || !strings.Contains(err.Error(), "morph") {
		t.Errorf("weights as pins: %v", err)
	}
}

func apply(t *testing.T, d *shot.Shot, a *Assets, c edit.Change) *shot.Shot {
	t.Helper()
	done, err := edit.Apply(d, []edit.Edit{{Change: c}}, edit.Env{Assets: a})
	if err != nil {
		t.Fatal(err)
	}
	return done.Shot
}

// Two moves that play one clip, of which one fades out while the other fades in, where the first leaves off, are the clip: a blend of a
// clip with itself is itself, on every frame.
func TestFadesAreABlend(t *testing.T) {
	d, _, _ := figure(t)
	one := pose.New(d)
	both := d.Clone()
	on, m := player(both)
	next := m.Clone()
	m.Span, m.Data.(*move.Play).Out = &shot.Span{From: 0, To: 48}, 8
	m.After = shot.Returns
	next.ID, next.Span = "next", &shot.Span{From: 40, To: 96}
	p := next.Data.(*move.Play)
	p.In, p.From = 8, 40.0/24
	on.Moves = append(on.Moves, next)
	if err := both.Validate(); err != nil {
		t.Fatal(err)
	}
	two := pose.New(both)
	for frame := 0.0; frame < 85; frame += 0.5 {
		a, b := one.At(frame), two.At(frame)
		for i := range a {
			for k := range a[i] {
				if math.Abs(a[i][k]-b[i][k]) > 1e-9 {
					t.Fatalf("%s on frame %g: %g alone, %g blended", d.Parts[i].Name, frame, a[i][k], b[i][k])
				}
			}
		}
		body := placeOf(t, d, "Body")
		u, v := one.Weights(body, motion.At(d, frame)), two.Weights(body, motion.At(both, frame))
		for k := range u {
			if math.Abs(u[k]-v[k]) > 1e-12 {
				t.Fatalf("on frame %g a shape has %g alone, %g blended", frame, u[k], v[k])
			}
		}
	}
}

// A mesh on bones whose node is a bone itself, and holds others, gets a node of its own: what the file says of the node moves the bones,
// and the mesh by them alone.
func TestAMeshOnItsOwnBone(t *testing.T) {
	tri := &mesh.Mesh{Positions: [][3]float32{{0, 0, 0}, {1, 0, 0}, {0, 1, 0}}, Indices: []uint32{0, 1, 2}, Bones: []mesh.Bones{{Share: [8]float32{1}}, {Share: [8]float32{1}}, {Share: [8]float32{1}}}}
	unit := geom.Vec3{1, 1, 1}
	m := &model.Model{
		Meshes: []model.Mesh{{Name: "skin", Primitives: []model.Primitive{{Mesh: tri, Material: -1}}}},
		Nodes: []model.Node{
			{Name: "top", Parent: -1, Rotation: geom.NoTurn, Size: unit, Mesh: -1},
			{Name: "arm", Parent: 0, Position: geom.Vec3{0, 2, 0}, Rotation: geom.NoTurn, Size: unit, Mesh: 0, Skin: 1},
			{Name: "hand", Parent: 1, Position: geom.Vec3{0, 1, 0}, Rotation: geom.NoTurn, Size: unit, Mesh: -1},
		},
		Skins:      []model.Skin{{Joints: []int{1, 2}, Inverse: []geom.Mat4{geom.Identity, geom.Identity}}},
		Animations: []model.Animation{{Name: "lift", Channels: []model.Channel{{Node: 1, Path: "translation", Interpolation: "LINEAR", Times: []float32{0, 1}, Values: []float32{0, 2, 0, 0, 5, 0}}}}},
	}
	data, err := gltf.Write(m)
	if err != nil {
		t.Fatal(err)
	}
	d, a := staged(t, data)
	d.Ending, d.Frames, d.Parts[0].Moves = shot.Once, 100, nil
	e := pose.New(d)
	top := placeOf(t, d, "top")
	for frame, high := range map[float64]float64{0: 2, 12: 3.5, 23: 2 + 3*23.0/24} {
		at := motion.At(d, frame)
		world := e.World(at)
		for i := range d.Parts {
			if d.Parts[i].Skin == nil {
				continue
			}
			points, _, err := e.Points(i, at, world, a)
			if err != nil {
				t.Fatal(err)
			}
			back, _ := world[top].Inverse()
			if got := back.Mul(world[i]).Point(points[0])[1]; math.Abs(got-high) > 1e-6 {
				t.Errorf("on frame %g it is %g high, not %g", frame, got, high)
			}
		}
	}
}

// What hangs on bones goes by the bones, by what holds them, and by what it is moved itself; copies of a figure hang on the copies
// of its bones.
func TestFiguresMoveAndCopy(t *testing.T) {
	d, a, _ := figure(t)
	tip := func(d *shot.Shot, name string, frame float64) geom.Vec3 {
		e := pose.New(d)
		at := motion.At(d, frame)
		world := e.World(at)
		i := placeOf(t, d, name)
		p, _, err := e.Points(i, at, world, a)
		if err != nil {
			t.Fatal(err)
		}
		return world[i].Point(p[len(p)-1])
	}
	at := tip(d, "Tail", 20)
	by := geom.Vec3{0.2, 0, 0}
	for _, name := range []string{"Turntable", "Tail"} { // the whole of it, and the mesh alone
		c := d.Clone()
		p := &c.Parts[placeOf(t, c, name)]
		c.Parts[0].Moves = nil
		d.Parts[0].Moves = nil
		at = tip(d, "Tail", 20)
		p.Rest.Position = p.Rest.Position.Add(by)
		if now := tip(c, "Tail", 20); now.Sub(at.Add(by)).Len() > 1e-9 {
			t.Errorf("%s moved by %v takes the tip from %v to %v", name, by, at, now)
		}
	}
	// Put into another group that stands elsewhere and is turned, it stays where it is.
	c := d.Clone()
	at = tip(c, "Tail", 20)
	c.Parts = append([]shot.Part{{ID: "g", Name: "Aside", Kind: shot.Group, Moves: []shot.Move{}, Rest: shot.Rest{Position: geom.Vec3{1, 2, 3}, Rotation: geom.AxisAngle(geom.Vec3{0, 0, 1}, 1), Size: geom.Vec3{2, 2, 2}}}}, c.Parts...)
	if now := tip(apply(t, c, a, &edit.PutIn{Parts: []string{c.Parts[placeOf(t, c, "Tail")].ID}, Parent: "g", Keep: true}), "Tail", 20); now.Sub(at).Len() > 1e-6 {
		t.Errorf("put into another group its tip is at %v, not at %v", now, at)
	}
	whole := d.Parts[placeOf(t, d, "Bird")].ID
	done := apply(t, d, a, &edit.Duplicate{Parts: []string{whole}, ID: "copy"})
	n := 0
	for i := range done.Parts {
		if s := done.Parts[i].Skin; s != nil {
			for _, id := range s.Joints {
				for up := done.Index(id); up >= 0; up = done.Index(done.Parts[up].Parent) {
					if done.Parts[up].ID == done.Parts[i].Parent {
						n++
					}
				}
			}
		}
	}
	if n != 2*(4+8) {
		t.Errorf("%d bones are in the figure that hangs on them, not 24", n)
	}
}

// Figures of strangers: what is brought in is a document that is valid, whose meshes can be posed at any time.
func FuzzFigure(f *testing.F) {
	data, err := os.ReadFile("testdata/figure.glb")
	if err != nil {
		f.Fatal(err)
	}
	long := binary.LittleEndian.Uint32(data[12:])
	bin := data[20+long:] // stays as it is; what says how to read it is changed
	f.Add(data[20 : 20+long])
	limits := model.Limits{Bytes: 1 << 20, Triangles: 10_000, TextureSide: 64}
	f.Fuzz(func(t *testing.T, text []byte) {
		for len(text)%4 != 0 {
			text = append(text, ' ')
		}
		glb := binary.LittleEndian.AppendUint32([]byte("glTF\x02\x00\x00\x00"), uint32(20+len(text)+len(bin)))
		glb = append(binary.LittleEndian.AppendUint32(glb, uint32(len(text))), "JSON"...)
		m, _, err := Bring(context.Background(), []File{{Name: "a.glb", Data: append(append(glb, text...), bin...)}}, "m", limits, func(string, float64) {})
		if err != nil {
			return
		}
		a := InMemory(limits)
		hash, err := a.KeepModel(m)
		if err != nil {
			t.Fatal(err)
		}
		n := 0
		o := stage.Defaults()
		o.Asset, o.Unit, o.Up, o.NewID = hash, "m", "y", func() string { n++; return fmt.Sprint(n) }
		d := shot.New("a")
		if err := stage.Arrange(d, m, o); err != nil {
			t.Fatal(err)
		}
		if d.Validate() != nil {
			return // in a sentence
		}
		d.Frames = 4
		e := pose.New(d)
		for _, frame := range []float64{0, 17.5} {
			at := motion.At(d, frame)
			world := e.World(at)
			for i := range d.Parts {
				if d.Parts[i].Soft() {
					if _, _, err := e.Points(i, at, world, a); err != nil {
						t.Fatal(err)
					}
				}
			}
		}
		if _, err := Export(d, a); err != nil {
			t.Fatal(err)
		}
	})
}
