package farm

import (
	"bytes"
	"context"
	"os"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/core/move"
	"perigyre/core/render"
	"perigyre/core/shot"
	"perigyre/library"
	"perigyre/runs"
	"perigyre/store"
)

// turning is a shot of a stored model that turns once in so many frames.
func turning(t *testing.T, frames int) (*shot.Shot, *library.Assets) {
	t.Helper()
	assets := library.InMemory(model.DefaultLimits)
	hash, err := assets.KeepModel(&model.Model{
		Meshes: []model.Mesh{{Name: "box", Primitives: []model.Primitive{{Mesh: mesh.Box(geom.Vec3{1, 0.8, 0.6}), Material: -1}}}},
		Nodes:  []model.Node{{Name: "box", Mesh: 0, Parent: -1, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}}},
	})
	if err != nil {
		t.Fatal(err)
	}
	s := shot.New("Turn")
	s.Frames, s.Format = frames, shot.Format{Width: 48, Height: 48}
	s.Parts = []shot.Part{
		{ID: "b", Name: "Box", Kind: shot.Solid, Rest: shot.AtRest, Mesh: &shot.MeshRef{Asset: hash}, Moves: []shot.Move{{ID: "m", Kind: "turn", Data: &move.Turn{
			Axis: geom.Vec3{0, 1, 0}, Frame: shot.OwnFrame, Turns: 1, Direction: shot.Clockwise}}}},
		{ID: "c", Name: "Camera", Kind: shot.Camera, Rest: shot.Rest{Position: geom.Vec3{0, 0.3, 4}, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}},
			Camera: &shot.Lens{Focal: 50, SensorWidth: 36, SensorHeight: 24, Sensor: shot.FitLonger}},
	}
	s.Camera = "c"
	return s, assets
}

func planOf(t *testing.T, s *shot.Shot, a *library.Assets, change func(o *runs.Settings)) *runs.Plan {
	t.Helper()
	o := runs.Defaults(s)
	o.Name = "{frame}"
	if change != nil {
		change(&o)
	}
	p, err := runs.NewPlan(s, runs.Names{}, o, t.TempDir(), runs.Stock{Props: render.NewProps(a), Surfaces: a})
	if err != nil {
		t.Fatal(err)
	}
	return p
}

// carry draws all frames of a plan by hands, and returns the files.
func carry(t *testing.T, ctx context.Context, p *runs.Plan, h runs.Hands) map[string][]byte {
	t.Helper()
	list := p.List()
	seen := map[int]int{}
	d := runs.Drawing{Plan: p, Hands: h, Done: func(i int, f store.Frame, _ *runs.Drawn) error {
		list[i] = f
		seen[i]++
		return nil
	}}
	if err := d.Run(ctx, list); err != nil {
		t.Fatal(err)
	}
	out := map[string][]byte{}
	for i, f := range list {
		if seen[i] != 1 {
			t.Errorf("frame %d was put in place %d times", f.Number, seen[i])
		}
		data, err := os.ReadFile(filepath.Join(p.Folder, f.File))
		if err != nil {
			t.Fatal(err)
		}
		out[f.File] = data
	}
	return out
}

func same(t *testing.T, got, want map[string][]byte) {
	t.Helper()
	for name, data := range want {
		if !bytes.Equal(got[name], data) {
			t.Errorf("%s differs from the run that was left alone", name)
		}
	}
	if len(got) != len(want) {
		t.Errorf("there are %d files, want %d", len(got), len(want))
	}
}

// begun starts a first program that draws nothing itself unless it is to.
func begun(t *testing.T, a *library.Assets, folder string, alone bool) *Boss {
	t.Helper()
	b, err := Open(t.Context(), Config{Place: Place{Folder: folder, Listen: "127.0.0.1:0", Token: "secret"}, Open: a.Open, Props: render.NewProps(a), Alone: alone})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(b.Close)
	return b
}

// hire starts a worker, which ends with the test or when it is let go.
func hire(t *testing.T, b *Boss, name string, stand Stand) (let func()) {
	t.Helper()
	return hireAt(t, b.Address(), name, stand)
}

func hireAt(t *testing.T, address, name string, stand Stand) (let func()) {
	t.Helper()
	ctx, cancel := context.WithCancel(context.Background())
	w := &Worker{Name: name, Address: address, Token: "secret", Cache: t.TempDir(), Threads: 1, Stand: stand}
	var all sync.WaitGroup
	all.Go(func() {
		if err := w.Work(ctx); err != nil && ctx.Err() == nil {
			t.Errorf("%s: %v", name, err)
		}
	})
	t.Cleanup(func() { cancel(); all.Wait() })
	return cancel
}

// until waits for a state of the workers.
func until(t *testing.T, b *Boss, what string, is func(list []Member) bool) {
	t.Helper()
	for range 4800 {
		if is(b.Members()) {
			return
		}
		time.Sleep(25 * time.Millisecond)
	}
	t.Fatalf("it did not come to %s: %+v", what, b.Members())
}

func working(n int) func([]Member) bool {
	return func(list []Member) bool {
		k := 0
		for _, m := range list {
			if m.State == Waiting || m.State == Drawing {
				k++
			}
		}
		return k == n
	}
}

// What machines draw is what one draws alone, to the bit; a worker that ends in the middle leaves no gap.
func TestMachinesDrawWhatOneDraws(t *testing.T) {
	s, a := turning(t, 24)
	want := carry(t, t.Context(), planOf(t, s, a, nil), runs.Here{Props: render.NewProps(a)})
	b := begun(t, a, t.TempDir(), true)
	let := hire(t, b, "one", Stand{})
	hire(t, b, "two", Stand{Speed: 0.5})
	until(t, b, "two workers", working(2))
	go func() {
		until(t, b, "some frames", func(list []Member) bool { return list[0].Done+list[1].Done > 5 })
		let()
	}()
	same(t, carry(t, t.Context(), planOf(t, s, a, nil), b), want)
}

// Frames that use their neighbours are the same on machines that take several in a row, one of which goes in the middle of them.
func TestNeighboursOnSeveralMachines(t *testing.T) {
	s, a := turning(t, 24)
	s.Part("b").Rest.Rotation = geom.AxisAngle(geom.Vec3{1, 0, 0}, 0.3)
	along := func(o *runs.Settings) { o.Of(render.Final); o.Noise = 0.3 }
	want := carry(t, t.Context(), planOf(t, s, a, along), runs.Here{Props: render.NewProps(a)})
	b := begun(t, a, t.TempDir(), true)
	let := hire(t, b, "one", Stand{})
	hire(t, b, "two", Stand{})
	until(t, b, "two workers", working(2))
	go func() {
		until(t, b, "some frames", func(list []Member) bool { return list[0].Done+list[1].Done > 3 })
		let()
	}()
	same(t, carry(t, t.Context(), planOf(t, s, a, along), b), want)
}

// A worker whose pictures go wrong is found out, and nothing that it drew since its last test gets into a file.
func TestWrongPicturesAreFoundOut(t *testing.T) {
	s, a := turning(t, 24)
	want := carry(t, t.Context(), planOf(t, s, a, nil), runs.Here{Props: render.NewProps(a)})
	b := begun(t, a, t.TempDir(), true)
	hire(t, b, "good", Stand{})
	hire(t, b, "wrong", Stand{Wrong: 4, Clock: time.Hour})
	until(t, b, "two workers", working(2))
	same(t, carry(t, t.Context(), planOf(t, s, a, nil), b), want)
	until(t, b, "a worker that is refused", func(list []Member) bool {
		return list[1].State == Refused && list[1].Why != "" && list[0].State == Waiting
	})
	if c := b.Members()[1].Clock; c < 3590 || c > 3610 {
		t.Errorf("its clock is %g s ahead", c)
	}
}

// A large picture is drawn in strips by several, and is the same, with its passes.
func TestStripsOfLargeFrames(t *testing.T) {
	s, a := turning(t, 2)
	s.Format = shot.Format{Width: 3072, Height: 1100}
	s.Part("c").Rest.Position[2] = 30 // most of it is empty
	large := func(o *runs.Settings) {
		o.Quality, o.Denoise, o.To, o.Format, o.Bits, o.Passes = render.Draft, true, 0, runs.EXR, 16, []render.Pass{render.Depth}
	}
	want := carry(t, t.Context(), planOf(t, s, a, large), runs.Here{Props: render.NewProps(a)})
	b := begun(t, a, t.TempDir(), true)
	hire(t, b, "one", Stand{})
	hire(t, b, "two", Stand{})
	until(t, b, "two workers", working(2))
	p := planOf(t, s, a, large)
	if o, err := p.Order(0); err != nil || o.Strips() < 2 {
		t.Fatalf("the picture is no large one: %v", err)
	}
	same(t, carry(t, t.Context(), p, b), want)
	n := 0
	for _, m := range b.Members() {
		n += m.Done
	}
	if n < 2 {
		t.Errorf("%d strips were drawn", n)
	}
}

// The queue outlives the first program: what was drawn meanwhile, and what lies in the queue, is not asked for again.
func TestTheQueueOutlivesTheFirstProgram(t *testing.T) {
	s, a := turning(t, 12)
	want := carry(t, t.Context(), planOf(t, s, a, nil), runs.Here{Props: render.NewProps(a)})
	folder := t.TempDir()
	b := begun(t, a, folder, true)
	address := b.Address()
	ctx, cancel := context.WithCancel(t.Context())
	hire(t, b, "one", Stand{Speed: 0.3})
	until(t, b, "a worker", working(1))
	p := planOf(t, s, a, nil)
	list := p.List()
	n := 0
	d := runs.Drawing{Plan: p, Hands: b, Done: func(i int, f store.Frame, _ *runs.Drawn) error {
		list[i] = f
		if n++; n == 3 {
			cancel()
		}
		return nil
	}}
	if err := d.Run(ctx, list); err == nil {
		t.Fatal("it was to be stopped")
	}
	b.Close()
	b, err := Open(t.Context(), Config{Place: Place{Folder: folder, Listen: address, Token: "secret"}, Open: a.Open, Props: render.NewProps(a), Alone: true})
	if err != nil {
		t.Fatal(err)
	}
	defer b.Close()
	d.Hands = b
	if err := d.Run(t.Context(), list); err != nil {
		t.Fatal(err)
	}
	for _, f := range list {
		data, err := os.ReadFile(filepath.Join(p.Folder, f.File))
		if err != nil || !bytes.Equal(data, want[f.File]) {
			t.Errorf("%s differs from the run that was left alone: %v", f.File, err)
		}
	}
}

// Two first programs have one queue and one worker: each gets its own frames, of the same orders too, whatever the other takes back. The
// worker rests where one of them wishes it, and both know.
func TestSeveralFirstPrograms(t *testing.T) {
	s, a := turning(t, 8)
	want := carry(t, t.Context(), planOf(t, s, a, nil), runs.Here{Props: render.NewProps(a)})
	address, end, err := Serve(Place{Folder: t.TempDir(), Listen: "127.0.0.1:0", Token: "secret"}, "own")
	if err != nil {
		t.Fatal(err)
	}
	defer end()
	join := func() *Boss {
		b, err := Open(t.Context(), Config{Place: Place{Folder: t.TempDir(), Join: "nats://first:own@" + address}, Open: a.Open, Props: render.NewProps(a), Alone: true})
		if err != nil {
			t.Fatal(err)
		}
		t.Cleanup(b.Close)
		return b
	}
	one, two := join(), join()
	hireAt(t, address, "both", Stand{Speed: 0.5})
	until(t, one, "a worker", working(1))
	until(t, two, "a worker", working(1))
	member := one.Members()[0]
	if err := one.Wish(member.ID, Pause); err != nil {
		t.Fatal(err)
	}
	until(t, two, "a worker that rests for the other", func(list []Member) bool {
		return list[0].State == Paused && list[0].Wish == Work && list[0].Why != ""
	})
	if err := one.Wish(member.ID, Work); err != nil {
		t.Fatal(err)
	}
	until(t, two, "a worker again", func(list []Member) bool { return list[0].State == Waiting && list[0].Why == "" })

	// Nobody took anything of the first for weeks.
	if err := one.js.DeleteConsumer(t.Context(), workStream, ordersOf(one.id)); err != nil {
		t.Fatal(err)
	}

	ctx, cancel := context.WithCancel(t.Context())
	p := planOf(t, s, a, nil)
	list := p.List()
	var all sync.WaitGroup
	all.Go(func() { // a run of the same frames that is given up on the way
		n := 0
		d := runs.Drawing{Plan: p, Hands: one, Done: func(i int, f store.Frame, _ *runs.Drawn) error {
			if list[i] = f; n == 3 {
				cancel()
			}
			n++
			return nil
		}}
		_ = d.Run(ctx, list)
		one.Rest()
	})
	same(t, carry(t, t.Context(), planOf(t, s, a, nil), two), want)
	all.Wait()
	if err := (&runs.Drawing{Plan: p, Hands: one, Done: func(i int, f store.Frame, _ *runs.Drawn) error { list[i] = f; return nil }}).Run(t.Context(), list); err != nil {
		t.Fatal(err)
	}
	for _, f := range list {
		if data, err := os.ReadFile(filepath.Join(p.Folder, f.File)); err != nil || !bytes.Equal(data, want[f.File]) {
			t.Errorf("%s differs: %v", f.File, err)
		}
	}
}

// Workers have no rights but to take orders and hand in what they drew; a wrong token has none.
func TestRightsOfWorkers(t *testing.T) {
	_, a := turning(t, 1)
	b := begun(t, a, t.TempDir(), true)
	if err := (&Worker{Address: b.Address(), Token: "guess", Cache: t.TempDir()}).Work(t.Context()); err == nil {
		t.Error("a wrong token was taken")
	}
	nc, err := dial("nats://"+b.Address(), workerUser, "secret", nil, nil)
	if err != nil {
		t.Fatal(err)
	}
	defer nc.Close()
	q := &queue{nc: nc}
	if err := q.join(t.Context()); err != nil {
		t.Fatal(err)
	}
	short, cancel := context.WithTimeout(t.Context(), 2*time.Second)
	defer cancel()
	for what, do := range map[string]func() error{
		"gives work out":       func() error { _, err := q.js.Publish(short, workSubjects+b.id+".x", nil); return err },
		"makes assets":         func() error { _, err := q.assets.PutBytes(short, "x", []byte("y")); return err },
		"removes the queue":    func() error { return q.js.DeleteStream(short, workStream) },
		"reads others' frames": func() error { _, err := q.done.GetBytes(short, "x"); return err },
	} {
		if err := do(); err == nil {
			t.Errorf("a worker %s", what)
		}
	}
}

// What comes from another machine is never trusted: no bytes make the reader stop or take more room than there is.
func FuzzParcel(f *testing.F) {
	p := &parcel{Worker: "abcdef", files: [][]byte{{1, 2}, {3}}, preview: []byte{4}}
	data, err := p.pack()
	if err != nil {
		f.Fatal(err)
	}
	f.Add(data)
	f.Add([]byte{})
	f.Fuzz(func(t *testing.T, data []byte) {
		p, err := unpack(data, 1<<20)
		if err != nil || p.strip != nil {
			return
		}
		again := &parcel{Worker: p.Worker, files: p.files, preview: p.preview}
		packed, err := again.pack()
		if err != nil {
			t.Fatal(err)
		}
		if q, err := unpack(packed, 1<<20); err != nil || q.hash != p.hash {
			t.Errorf("what was taken out is not what goes in again: %v", err)
		}
	})
}
