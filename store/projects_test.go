package store

import (
	"errors"
	"testing"
	"time"

	"perigyre/core/shot"
)

// Projects and shots come, are renamed and go with all that hangs on them; what a run has is kept. A name that is changed by an
// edit, an undo or a redo is the one in the list.
func TestProjectsAndWhatHangsOnThem(t *testing.T) {
	s := open(t, t.TempDir())
	defer s.Close()
	a, b := shot.New("First"), shot.New("Second")
	project, first, err := s.AddProjectOf("P", []*shot.Shot{a, b}, "begin")
	if err != nil {
		t.Fatal(err)
	}
	third, err := s.AddShot(project, shot.New("Third"), "add")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.AddShot("nowhere", a, "add"); !errors.Is(err, ErrMissing) {
		t.Errorf("a shot of no project: %v", err)
	}
	names := func() (out []string) {
		t.Helper()
		list, err := s.Projects()
		if err != nil {
			t.Fatal(err)
		}
		for _, p := range list {
			out = append(out, p.Name+":")
			for _, x := range p.Shots {
				out = append(out, x.Name)
			}
		}
		return out
	}
	want := func(list ...string) {
		t.Helper()
		got := names()
		if len(got) != len(list) {
			t.Fatalf("there are %q, want %q", got, list)
		}
		for k := range list {
			if got[k] != list[k] {
				t.Fatalf("there are %q, want %q", got, list)
			}
		}
	}
	want("P:", "First", "Second", "Third")
	a.Name = "Renamed"
	if err := s.Edit(first, 1, a, text(t, a), "rename"); err != nil {
		t.Fatal(err)
	}
	if err := s.RenameProject(project, "Q"); err != nil {
		t.Fatal(err)
	}
	want("Q:", "Renamed", "Second", "Third")
	if err := s.Undo(first, 2); err != nil {
		t.Fatal(err)
	}
	want("Q:", "First", "Second", "Third")
	if err := s.Redo(first, 3); err != nil {
		t.Fatal(err)
	}
	want("Q:", "Renamed", "Second", "Third")
	if p, err := s.ProjectOf(third); p != project || err != nil {
		t.Errorf("the third shot is in %q: %v", p, err)
	}

	if err := s.NameVersion(first, 1, "as it came"); err != nil {
		t.Fatal(err)
	}
	if err := s.PutThumbnail(first, 2, []byte("picture")); err != nil {
		t.Fatal(err)
	}
	list, err := s.History(first)
	if err != nil || len(list) != 2 || list[1].Name != "as it came" || list[1].Seen || !list[0].Seen {
		t.Errorf("%v: %+v", err, list)
	}
	if err := s.NameVersion(first, 1, ""); err != nil {
		t.Fatal(err)
	}
	if list, _ = s.History(first); list[1].Name != "" {
		t.Errorf("a name that was taken away is %q", list[1].Name)
	}
	for name, err := range map[string]error{
		"naming": s.NameVersion(first, 9, "x"), "picturing": s.PutThumbnail(first, 9, nil), "restoring": s.Restore(first, 4, 9),
		"naming nothing": s.RenameProject("nowhere", "x"), "removing nothing": s.RemoveShot("nowhere"),
	} {
		if !errors.Is(err, ErrMissing) {
			t.Errorf("%s what is not there: %v", name, err)
		}
	}

	run := &Run{ID: NewID(), Shot: first, Title: "Q", Document: a, Settings: "{}", Folder: "out", State: "done", Made: time.Now()}
	if err := s.AddRun(run, []Frame{{Number: 0, File: "0.png", State: FrameWaiting}}); err != nil {
		t.Fatal(err)
	}
	if err := s.RemoveShot(third); err != nil {
		t.Fatal(err)
	}
	want("Q:", "Renamed", "Second")
	if err := s.RemoveProject(project); err != nil {
		t.Fatal(err)
	}
	want()
	if _, err := s.Shot(first); !errors.Is(err, ErrMissing) {
		t.Errorf("a shot of a project that was removed: %v", err)
	}
	if _, err := s.Thumbnail(first, 2); !errors.Is(err, ErrMissing) {
		t.Errorf("its picture: %v", err)
	}
	if r, err := s.Run(run.ID); err != nil || r.Document.Name != "Renamed" {
		t.Errorf("its run: %v", err)
	}
	if frames, err := s.Frames(run.ID); err != nil || len(frames) != 1 {
		t.Errorf("the run's frames: %v, %d", err, len(frames))
	}
	if err := s.RemoveRun(run.ID); err != nil {
		t.Fatal(err)
	}
	if frames, _ := s.Frames(run.ID); len(frames) != 0 {
		t.Errorf("%d frames of a run that was removed", len(frames))
	}
}
