package runs

import (
	"image"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"perigyre/core/model"
	"perigyre/core/render"
	"perigyre/store"
)

// faulty assets make the renderer panic, as a fault of the program would.
type faulty struct{}

func (faulty) Primitives(string, int) ([]model.Primitive, error) { panic("the mesh is a fault") }
func (faulty) Picture(string, int) (image.Image, error)          { return nil, nil }

// A fault while a frame is rendered fails that run with a sentence, and the queue goes on.
func TestAFaultFailsOneRun(t *testing.T) {
	_, q := opened(t, func(Progress) {})
	good := q.stock
	q.stock = Stock{Props: render.NewProps(faulty{})}
	id, err := q.Start("shot", "P", boxShot(), Defaults(boxShot()))
	if err != nil {
		t.Fatal(err)
	}
	var p Progress
	for p.State != Failed {
		_, p, _, _ = q.Status(id)
		time.Sleep(time.Millisecond)
	}
	if !strings.Contains(p.Message, "the program has a fault there (the mesh is a fault)") {
		t.Errorf("the run failed with %q", p.Message)
	}
	q.stock = good
	next, err := q.Start("shot", "P", boxShot(), Defaults(boxShot()))
	if err != nil {
		t.Fatal(err)
	}
	wait(t, q, next, Done)
}

// A run in the middle of which the process ended goes on at the next start; if the process ends again before another
// frame is done, the run is set aside, so that it does not end the process at every start. It goes on when it is told to.
func TestARunThatEndsTheProcessIsSetAside(t *testing.T) {
	dir := t.TempDir()
	s, err := store.Open(filepath.Join(dir, "data"))
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	d, o := boxShot(), `{"width":24,"height":24,"to":5,"first":1,"padding":4,"name":"{frame}","quality":"draft","bits":8}`
	r := &store.Run{ID: "r", Shot: "shot", Title: "P", Document: d, Settings: o, Folder: filepath.Join(dir, "out", "r"), State: Running, Made: time.Now()}
	if err := s.AddRun(r, []store.Frame{{Number: 0, File: "0001.png"}}); err != nil {
		t.Fatal(err)
	}
	if err := s.SetAttempts("r", 1); err != nil { // the process ended in it once before
		t.Fatal(err)
	}
	q, err := Open(s, Stock{Props: boxes}, filepath.Join(dir, "out"), Here{boxes}, func(Progress) {})
	if err != nil {
		t.Fatal(err)
	}
	_, p, _, _ := q.Status("r")
	if p.State != Failed || !strings.Contains(p.Message, "the program ended 2 times while this run was being rendered") {
		t.Errorf("the run is %s: %q", p.State, p.Message)
	}
	if err := q.Set("r", Waiting); err != nil {
		t.Fatal(err)
	}
	wait(t, q, "r", Done)
	q.Close()

	// An orderly end is no attempt: the run waits for the next start.
	if err := s.SetRunState("r", Running, ""); err != nil {
		t.Fatal(err)
	}
	q, err = Open(s, Stock{Props: boxes}, filepath.Join(dir, "out"), Here{boxes}, func(Progress) {})
	if err != nil {
		t.Fatal(err)
	}
	defer q.Close()
	wait(t, q, "r", Done)
}
