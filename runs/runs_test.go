package runs

import (
	"archive/zip"
	"bytes"
	"errors"
	"image"
	"os"
	"path/filepath"
	"reflect"
	"strings"
	"sync"
	"testing"
	"time"

	"perigyre/core/geom"
	"perigyre/core/mesh"
	"perigyre/core/model"
	"perigyre/core/move"
	"perigyre/core/render"
	"perigyre/core/shot"
	"perigyre/store"
)

type box struct{}

func (box) Primitives(string, int) ([]model.Primitive, error) {
	return []model.Primitive{{Mesh: mesh.Box(geom.Vec3{1, 1, 1}), Material: -1}}, nil
}
func (box) Picture(string, int) (image.Image, error) { return nil, nil }

var boxes = render.NewProps(box{})

func boxShot() *shot.Shot {
	s := shot.New("Turn / table")
	s.Frames, s.Format = 6, shot.Format{Width: 24, Height: 24}
	s.Parts = []shot.Part{
		{ID: "b", Name: "Box", Kind: shot.Solid, Rest: shot.AtRest, Mesh: &shot.MeshRef{}, Moves: []shot.Move{{ID: "m", Kind: "turn", Data: &move.Turn{
			Axis: geom.Vec3{0, 1, 0}, Frame: shot.OwnFrame, Turns: 1, Direction: shot.Clockwise}}}},
		{ID: "c", Name: "Camera", Kind: shot.Camera, Rest: shot.Rest{Position: geom.Vec3{0, 0, 4}, Rotation: geom.NoTurn, Size: geom.Vec3{1, 1, 1}},
			Camera: &shot.Lens{Focal: 50, SensorWidth: 36, SensorHeight: 24, Sensor: shot.FitLonger}},
	}
	s.Camera = "c"
	return s
}

func TestSettingsAreChecked(t *testing.T) {
	s := boxShot()
	good := Defaults(s)
	if err := good.Check(s); err != nil {
		t.Fatal(err)
	}
	for says, change := range map[string]func(*Settings){
		"frame 6 would be frame 0 again": func(o *Settings) { o.To = 6 },
		"holds no frames":                func(o *Settings) { o.From = 5; o.To = 2 },
		"another shape":                  func(o *Settings) { o.Width = 48 },
		"8 or 16 bits":                   func(o *Settings) { o.Bits = 10 },
		"no quality":                     func(o *Settings) { o.Quality = "best" },
		"is not possible":                func(o *Settings) { o.Width, o.Height = 0, 0 },
		"first number":                   func(o *Settings) { o.First = -1 },
		"0 to 1":                         func(o *Settings) { o.Backdrop = &[3]float64{0, 2, 0} },
		"JPEG has no alpha":              func(o *Settings) { o.Format = JPEG },
		"in EXR files alone":             func(o *Settings) { o.Passes = []render.Pass{render.Depth} },
	} {
		o := good
		change(&o)
		if err := o.Check(s); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%v, want something with %q", err, says)
		}
	}
	s.Environment.Seen = true // nothing is transparent then
	if good.Format = JPEG; good.Check(s) != nil {
		t.Error(good.Check(s))
	}
}

// Names hold on every file system; common practice, no source, for the padding of 4.
func TestNames(t *testing.T) {
	n := Names{Project: "Brindlewick No. 3", Shot: "a/b:c", Model: "lantern", Camera: "Front?"}
	o := Settings{From: 0, To: 95, First: 1, Padding: 4, Name: "{model}.{frame}"}
	for _, c := range []struct {
		name  string
		frame int
		want  string
	}{
		{"{model}.{frame}", 0, "lantern.0001.png"}, {"{model}.{frame}.png", 95, "lantern.0096.png"}, {"{frame}", 12344, "12345.png"},
		{"../{shot}_{camera}_{frame}", 1, "_a_b_c_Front__0002.png"}, {"con.{frame}", 0, "_con.0001.png"}, {" {frame} . ", 0, "0001.png"},
		{strings.Repeat("é", 200) + "{frame}", 0, strings.Repeat("é", 88) + "0001.png"},
	} {
		o.Name = c.name
		if got, err := o.File(n, c.frame); err != nil || got != c.want {
			t.Errorf("%q: %q, %v; want %q", c.name, got, err, c.want)
		}
	}
	for name, says := range map[string]string{"{model}": "needs {frame}", "{frame": "without its }", "{date}{frame}": "{date}"} {
		o.Name = name
		if _, err := o.File(n, 0); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%q: %v", name, err)
		}
	}
}

// opened returns a store and a queue in folders of their own, which end with the test.
func opened(t *testing.T, tell func(Progress)) (*store.Store, *Queue) {
	t.Helper()
	dir := t.TempDir()
	s, err := store.Open(filepath.Join(dir, "data"))
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	q, err := Open(s, Stock{Props: boxes}, filepath.Join(dir, "out"), Here{boxes}, tell)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(q.Close)
	return s, q
}

func wait(t *testing.T, q *Queue, id, state string) []store.Frame {
	t.Helper()
	for range 2000 {
		_, p, frames, err := q.Status(id)
		if err != nil {
			t.Fatal(err)
		}
		if p.State == state {
			return frames
		}
		if p.State == Failed {
			t.Fatal(p.Message)
		}
		time.Sleep(5 * time.Millisecond)
	}
	t.Fatalf("the run does not become %s", state)
	return nil
}

// A window that asks how a run is getting on hears what windows are told: how much of the frames under way is done, and how long it takes.
func TestStatusIsWhatIsTold(t *testing.T) {
	var q *Queue
	told, ready := 0, make(chan bool)
	_, q = opened(t, func(p Progress) {
		<-ready
		if p.State != Running {
			return
		}
		told++
		if _, asked, _, err := q.Status(p.Run); err != nil || !reflect.DeepEqual(asked, p) {
			t.Errorf("told is %+v, and on asking %+v (%v)", p, asked, err)
		}
	})
	close(ready)
	d := boxShot()
	id, err := q.Start("shot", "P", d, Defaults(d))
	if err != nil {
		t.Fatal(err)
	}
	wait(t, q, id, Done)
	if _, p, _, _ := q.Status(id); p.Share != 0 || p.Left != 0 || told < 12 {
		t.Errorf("after %d times a run that is done has %+v", told, p)
	}
}

// A run that is paused keeps what it has; a frame that was damaged or lost meanwhile is rendered
// again, to the same bytes; a second run of the same goes to a folder of its own.
func TestRunGoesOnAndNeverOverwrites(t *testing.T) {
	s, q := opened(t, func(Progress) {})
	d := boxShot()
	id, err := q.Start("shot", "P", d, Defaults(d))
	if err != nil {
		t.Fatal(err)
	}
	d.Parts[0].Moves = nil // the run works from its own copy
	frames := wait(t, q, id, Done)
	if len(frames) != 6 || frames[0].SHA256 == frames[1].SHA256 {
		t.Fatalf("%d frames, the first two alike: %v", len(frames), frames[0].SHA256 == frames[1].SHA256)
	}
	r, _, _, _ := q.Status(id)
	name := func(k int) string { return filepath.Join(r.Folder, frames[k].File) }
	if err := os.WriteFile(name(2), []byte("torn"), 0o644); err != nil {
		t.Fatal(err)
	}
	if err := os.Remove(name(4)); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(filepath.Join(r.Folder, ".writing-123"), []byte("half"), 0o644); err != nil {
		t.Fatal(err)
	}
	if err := s.SetRunState(id, Paused, ""); err != nil {
		t.Fatal(err)
	}
	if err := q.Set(id, Waiting); err != nil {
		t.Fatal(err)
	}
	again := wait(t, q, id, Done)
	for k := range again {
		data, err := os.ReadFile(name(k))
		if err != nil || sum(data) != frames[k].SHA256 || again[k].SHA256 != frames[k].SHA256 {
			t.Errorf("frame %d is not as it was: %v", k, err)
		}
	}
	list, _ := os.ReadDir(r.Folder)
	if len(list) != 7 {
		t.Errorf("the folder holds %d files, want 6 frames and run.json: %v", len(list), list)
	}
	if rec := ReadRecord(r.Folder); rec == nil || !rec.Complete || rec.Alpha != "straight" || len(rec.Frames) != 6 || rec.Frames[3].SHA256 != frames[3].SHA256 {
		t.Errorf("run.json is %+v", rec)
	}
	second, err := q.Start("shot", "P", boxShot(), Defaults(boxShot()))
	if err != nil {
		t.Fatal(err)
	}
	if err := q.Set(second, Cancelled); err != nil {
		t.Fatal(err)
	}
	r2, p2, _, _ := q.Status(second)
	if r2.Folder == r.Folder || p2.State != Cancelled {
		t.Errorf("a second run is %s in %s", p2.State, r2.Folder)
	}
	var b bytes.Buffer
	if err := q.Zip(id, &b); err != nil {
		t.Fatal(err)
	}
	z, err := zip.NewReader(bytes.NewReader(b.Bytes()), int64(b.Len()))
	if err != nil || len(z.File) != 7 {
		t.Errorf("the zip: %v, %d files", err, len(z.File))
	}
}

// A run that cannot fit on the disk is refused before it begins; what fits is not.
func TestRoomIsLookedAtBefore(t *testing.T) {
	o := Settings{Width: 16000, Height: 16000, To: 99_999, Bits: 32, Format: EXR}
	if o.Bytes() < 1e14 {
		t.Errorf("100,000 frames of 256 million float pixels are thought to take %d bytes", o.Bytes())
	}
	if err := o.room(t.TempDir()); err == nil && free(t.TempDir()) >= 0 {
		t.Error("120 TB find room here")
	}
	o = Settings{Width: 10, Height: 10, Bits: 8}
	if err := o.room(t.TempDir()); err != nil {
		t.Error(err)
	}
}

// What the system says of a full disk becomes a sentence with the frames that are safe.
func TestAFullDiskSaysWhichFramesAreSafe(t *testing.T) {
	err := os.WriteFile("/dev/full", []byte("a frame"), 0o600)
	if err == nil {
		t.Fatal("/dev/full takes what is written")
	}
	var list []store.Frame
	for n := range 9 {
		list = append(list, store.Frame{Number: n, State: store.FrameDone})
	}
	list[3].State, list[5].State, list[6].State = "waiting", "waiting", "waiting"
	if got := Full(err, list).Error(); !strings.Contains(got, "6 of 9 frames are safe, 0-2, 4, 7-8;") {
		t.Error(got)
	}
	if other := errors.New("the cable is out"); Full(other, list) != other {
		t.Error("another error is taken for a full disk")
	}
}

// Of runs that wait, the one that was put first is rendered before older ones; one that is being rendered ends its
// frame, lets it go first and then goes on, with nothing rendered twice.
func TestPriority(t *testing.T) {
	var mu sync.Mutex
	var order []string // runs as their frames begin
	var q *Queue
	var third string
	raised := make(chan error, 1)
	begun := false
	tell := func(p Progress) {
		mu.Lock()
		defer mu.Unlock()
		if p.State != Running || len(p.Drawing) == 0 || p.Share > 0 {
			return
		}
		if order = append(order, p.Run); !begun && third != "" {
			begun = true
			go func() { raised <- q.First(third) }()
		}
	}
	mu.Lock() // until the queue is there
	_, q = opened(t, tell)
	var err error
	var ids [3]string
	for i := range ids {
		d := boxShot()
		o := Defaults(d)
		o.Quality = render.Proof
		if ids[i], err = q.Start("shot", "P", d, o); err != nil {
			t.Fatal(err)
		}
	}
	third = ids[2]
	mu.Unlock()
	for _, id := range ids {
		wait(t, q, id, Done)
	}
	if err := <-raised; err != nil {
		t.Fatal(err)
	}
	mu.Lock()
	defer mu.Unlock()
	if len(order) != 18 {
		t.Errorf("18 frames were rendered in %d goes", len(order))
	}
	last := map[string]int{}
	for i, id := range order {
		last[id] = i
	}
	if order[0] != ids[0] || !(last[ids[2]] < last[ids[0]] && last[ids[0]] < last[ids[1]]) {
		t.Errorf("the third run was to go before what was left of the first, and both before the second: the last frames are number %d, %d and %d", last[ids[2]], last[ids[0]], last[ids[1]])
	}
}

// A run that ends while someone wants it paused has ended: what may become of it is looked at under the lock that it ends
// under.
func TestAnEndIsNotTakenBack(t *testing.T) {
	_, q := opened(t, func(Progress) {})
	d := boxShot()
	id, err := q.Start("shot", "P", d, Defaults(d))
	if err != nil {
		t.Fatal(err)
	}
	wait(t, q, id, Done)
	q.mu.Lock()
	if err := q.store.SetRunState(id, Running, ""); err != nil {
		t.Fatal(err)
	}
	asked, answer := make(chan bool), make(chan error)
	go func() {
		close(asked)
		answer <- q.Set(id, Paused)
	}()
	<-asked
	time.Sleep(20 * time.Millisecond) // in which a look before the lock would see it running
	q.end(id, Done, "")
	q.mu.Unlock()
	if err := <-answer; err == nil {
		t.Error("a run that is done was paused")
	}
	if _, p, _, _ := q.Status(id); p.State != Done {
		t.Errorf("the run is %s", p.State)
	}
}

// A folder that was removed is not in the way of the next run, and one that goes while a run is going on is noticed: the run
// says which frames are gone, and renders them when it is let go on.
func TestRemovedFolders(t *testing.T) {
	var q *Queue
	var mu sync.Mutex
	doomed := ""
	_, q = opened(t, func(p Progress) {
		mu.Lock()
		defer mu.Unlock()
		if p.Run == doomed && p.Done == 3 && p.State == Running {
			if r, _, _, err := q.Status(p.Run); err == nil {
				os.RemoveAll(r.Folder)
			}
			doomed = ""
		}
	})
	start := func() (id, folder string) {
		t.Helper()
		id, err := q.Start("shot", "P", boxShot(), Defaults(boxShot()))
		if err != nil {
			t.Fatal(err)
		}
		r, _, _, err := q.Status(id)
		if err != nil {
			t.Fatal(err)
		}
		return id, r.Folder
	}
	first, folder := start()
	wait(t, q, first, Done)
	if err := q.Zippable(first, false); err != nil {
		t.Errorf("the zip of a whole run: %v", err)
	}
	if err := os.RemoveAll(folder); err != nil {
		t.Fatal(err)
	}
	if err := q.Zippable(first, true); err == nil || !strings.Contains(err.Error(), "not in its folder any more") {
		t.Errorf("the zip of a run whose files are gone: %v", err)
	}
	mu.Lock()
	id, again := start()
	doomed = id
	mu.Unlock()
	if again != folder {
		t.Errorf("the name %s is not used again, but %s", folder, again)
	}
	if r, _, _, err := q.Status(first); err != nil || r.Folder == folder {
		t.Errorf("two runs have the folder %s, %v", folder, err)
	}
	wait(t, q, id, Failed)
	_, p, _, _ := q.Status(id)
	if !strings.Contains(p.Message, "removed or moved") || !strings.Contains(p.Message, "0-2") {
		t.Errorf("it says %q", p.Message)
	}
	if err := q.Set(id, Waiting); err != nil {
		t.Fatal(err)
	}
	for _, f := range wait(t, q, id, Done) {
		if _, err := os.Stat(filepath.Join(again, f.File)); err != nil {
			t.Error(err)
		}
	}
}

func otherCamera(focal float64) shot.Part {
	return shot.Part{ID: "other", Name: "Other", Kind: shot.Camera, Rest: shot.AtRest, Camera: &shot.Lens{Focal: focal, SensorWidth: 36, SensorHeight: 24, Sensor: shot.FitLonger}}
}

// hiddenCopied is a ball that is hidden and copies of it, which are seen.
func hiddenCopied(radius float64) []shot.Part {
	return []shot.Part{
		{ID: "seed", Name: "Seed", Kind: shot.Made, Rest: shot.AtRest, Hidden: true, Shape: &mesh.Shape{Kind: mesh.SphereShape, Radius: radius}},
		{ID: "many", Name: "Many", Kind: shot.Copies, Rest: shot.AtRest, Copies: &shot.Spread{Of: "seed", Kind: shot.Ring, Count: [3]int{3, 1, 1}, Radius: 0.5}},
	}
}

// What is hidden and yet seen, as what copies are of and what a cutter is shaped as, makes another picture when it changes.
func TestFingerprintsSeeWhatIsHidden(t *testing.T) {
	print := func(d *shot.Shot) string {
		t.Helper()
		if err := d.Validate(); err != nil {
			t.Fatal(err)
		}
		p, err := NewPlan(d, Names{}, Defaults(d), "", Stock{Props: render.NewProps(box{})})
		if err != nil {
			t.Fatal(err)
		}
		out, err := p.Fingerprint(0)
		if err != nil || out == "" {
			t.Fatal(out, err)
		}
		return out
	}
	with := func(parts ...shot.Part) *shot.Shot {
		d := boxShot()
		d.Parts = append(d.Parts, parts...)
		return d
	}
	cut := func(radius float64) []shot.Part {
		return []shot.Part{
			{ID: "form", Name: "Form", Kind: shot.Made, Rest: shot.AtRest, Hidden: true, Shape: &mesh.Shape{Kind: mesh.SphereShape, Radius: radius}},
			{ID: "cut", Name: "Cut", Kind: shot.Cutter, Rest: shot.AtRest, Cut: &shot.Cut{Shape: "part", Of: "form"}},
		}
	}
	for what, c := range map[string]struct {
		a, b *shot.Shot
		same bool
	}{
		"what copies are of":            {with(hiddenCopied(0.2)...), with(hiddenCopied(0.3)...), false},
		"what a cutter is shaped as":    {with(cut(0.2)...), with(cut(0.3)...), false},
		"a camera that looks elsewhere": {with(otherCamera(50)), with(otherCamera(85)), true},
	} {
		if same := print(c.a) == print(c.b); same != c.same {
			t.Errorf("%s: the same picture: %v", what, same)
		}
	}
}

// A frame that another run has rendered is taken from it, whatever the range and the names, as long as its file is as
// it was recorded; with another setting, or where something that is seen has changed, it is rendered.
func TestFramesOfOtherRunsAreTaken(t *testing.T) {
	s, q := opened(t, func(Progress) {})
	start := func(change func(d *shot.Shot, o *Settings)) (string, []store.Frame) {
		d := boxShot()
		o := Defaults(d)
		change(d, &o)
		id, err := q.Start("shot", "P", d, o)
		if err != nil {
			t.Fatal(err)
		}
		frames := wait(t, q, id, Done)
		r, _, _, _ := q.Status(id)
		return r.Folder, frames
	}
	nothing := func(*shot.Shot, *Settings) {}
	folder, frames := start(nothing)
	// Frame 3 gets a mark, as if it had been rendered so: where it turns up, the frame was taken.
	mark := []byte("not a picture, but recorded as one")
	marked := frames[3]
	marked.SHA256 = sum(mark)
	if err := os.WriteFile(filepath.Join(folder, marked.File), mark, 0o644); err != nil {
		t.Fatal(err)
	}
	all, _ := s.Runs()
	if err := s.SetFrame(all[0].ID, marked); err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		what   string
		change func(d *shot.Shot, o *Settings)
		taken  bool
	}{
		{"the same", nothing, true},
		{"another range and name", func(_ *shot.Shot, o *Settings) { o.From, o.Name = 2, "x{frame}" }, true},
		{"a part that is not seen", func(d *shot.Shot, _ *Settings) {
			d.Parts = append(d.Parts, shot.Part{ID: "h", Name: "H", Kind: shot.Group, Rest: shot.AtRest, Hidden: true, Tag: "red"})
		}, true},
		{"a tag", func(d *shot.Shot, _ *Settings) { d.Parts[0].Tag = "red" }, true},
		{"a camera that is not looked through", func(d *shot.Shot, _ *Settings) { d.Parts = append(d.Parts, otherCamera(85)) }, true},
		{"the place of what is not seen", func(d *shot.Shot, _ *Settings) {
			far := shot.Part{ID: "h", Name: "H", Kind: shot.Group, Rest: shot.AtRest, Hidden: true}
			far.Rest.Position = geom.Vec3{9, 9, 9}
			d.Parts = append(d.Parts, far)
		}, true},
		{"copies of what is hidden", func(d *shot.Shot, _ *Settings) { d.Parts = append(d.Parts, hiddenCopied(0.2)...) }, false},
		{"another quality", func(_ *shot.Shot, o *Settings) { o.Quality = render.Draft }, false},
		{"another sky", func(d *shot.Shot, _ *Settings) { d.Environment.Strength = 0.3 }, false},
	} {
		_, got := start(c.change)
		for _, f := range got {
			if f.Number == 3 && (f.SHA256 == sum(mark)) != c.taken {
				t.Errorf("%s: frame 3 was taken: %v, want %v", c.what, !c.taken, c.taken)
			}
		}
	}
	if err := os.WriteFile(filepath.Join(folder, marked.File), []byte("damaged since"), 0o644); err != nil {
		t.Fatal(err)
	}
	list, _ := s.Runs()
	for _, r := range list { // the runs that took it have gone
		if r.ID != all[0].ID {
			_ = s.RemoveRun(r.ID)
		}
	}
	if _, got := start(nothing); got[3].SHA256 != frames[3].SHA256 {
		t.Error("a damaged frame was taken, or what was rendered in its place differs")
	}
}
