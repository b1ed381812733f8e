package store

import (
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"perigyre/core/shot"
)

func open(t *testing.T, folder string) *Store {
	t.Helper()
	s, err := Open(folder)
	if err != nil {
		t.Fatal(err)
	}
	return s
}

func text(t *testing.T, d *shot.Shot) []byte {
	t.Helper()
	b, err := Encode(d)
	if err != nil {
		t.Fatal(err)
	}
	return b
}

// The history is a tree that nothing is lost from: edits, undo, another edit, and back to what the
// undo left behind, across a restart.
func TestHistoryKeepsEverything(t *testing.T) {
	folder := filepath.Join(t.TempDir(), "with space & sign")
	s := open(t, folder)
	d := shot.New("0")
	_, id, err := s.AddProject("P", d, "begin")
	if err != nil {
		t.Fatal(err)
	}
	version := 1
	edit := func(name string) {
		t.Helper()
		d.Name = name
		if err := s.Edit(id, version, d, text(t, d), "name "+name); err != nil {
			t.Fatal(err)
		}
		version++
	}
	check := func(name string, undo, redo bool) {
		t.Helper()
		h, err := s.Shot(id)
		if err != nil {
			t.Fatal(err)
		}
		if h.Document.Name != name || h.Version != version || h.CanUndo != undo || h.CanRedo != redo {
			t.Fatalf("shot %q at version %d, undo %v, redo %v; want %q at %d, %v, %v", h.Document.Name, h.Version, h.CanUndo, h.CanRedo, name, version, undo, redo)
		}
	}
	check("0", false, false)
	edit("1")
	edit("2")
	if err := s.Edit(id, version-1, d, text(t, d), "late"); !errors.Is(err, ErrStale) {
		t.Fatalf("an edit of an older version: %v", err)
	}
	for range 2 {
		if err := s.Undo(id, version); err != nil {
			t.Fatal(err)
		}
		version++
	}
	check("0", false, true)
	if err := s.Undo(id, version); err == nil {
		t.Fatal("there was nothing left to undo")
	}
	s.Close()
	s = open(t, folder)
	defer s.Close()
	if err := s.Redo(id, version); err != nil {
		t.Fatal(err)
	}
	version++
	check("1", true, true)
	edit("3") // a new branch
	check("3", true, false)
	list, err := s.History(id)
	if err != nil || len(list) != 4 || list[0].Words != "name 3" || list[0].Parent != 2 || !list[0].Shown {
		t.Fatalf("%v: %+v", err, list)
	}
	if err := s.Restore(id, version, 3); err != nil {
		t.Fatal(err)
	}
	version++
	check("2", true, false)
}

func TestBlobsAreWholeAndNamesCannotClimb(t *testing.T) {
	s := open(t, t.TempDir())
	defer s.Close()
	hash, err := s.PutBlob([]byte("abc"))
	// SHA-256 of "abc": FIPS 180-2, B.1.
	if err != nil || hash != "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad" {
		t.Fatal(hash, err)
	}
	if data, err := s.Blob(hash); err != nil || string(data) != "abc" {
		t.Fatal(string(data), err)
	}
	for _, bad := range []string{"", "..", "../perigyre.db", hash[:60], hash + "00"} {
		if _, err := s.Blob(bad); !errors.Is(err, ErrMissing) {
			t.Errorf("blob %q: %v", bad, err)
		}
	}
	name, _ := s.blob(hash)
	if err := os.Truncate(name, 1); err != nil {
		t.Fatal(err)
	}
	if _, err := s.PutBlob([]byte("abc")); err != nil {
		t.Fatal(err)
	}
	if data, _ := s.Blob(hash); string(data) != "abc" {
		t.Error("a damaged blob was not written again")
	}
}

// A stored file that has become another is not given out: it is set aside and named, and the same file brought in again heals
// it.
func TestDamagedFilesAreSetAsideAndHealed(t *testing.T) {
	s := open(t, t.TempDir())
	defer s.Close()
	hash, err := s.PutBlob([]byte("a model"))
	if err != nil {
		t.Fatal(err)
	}
	if err := s.PutAsset(hash, []byte(`{"file": "spool.obj"}`)); err != nil {
		t.Fatal(err)
	}
	name, _ := s.blob(hash)
	for round, damage := range []string{"a mudel", "a mod", ""} { // other bytes, cut short, empty
		if err := os.WriteFile(name, []byte(damage), 0o644); err != nil {
			t.Fatal(err)
		}
		if round != 1 { // found when it is read, and again afterwards
			for range 2 {
				if _, err := s.Blob(hash); !errors.Is(err, ErrDamaged) || !strings.Contains(err.Error(), "of spool.obj") {
					t.Errorf("%q: %v", damage, err)
				}
			}
			if aside, err := os.ReadFile(name + ".damaged"); err != nil || string(aside) != damage {
				t.Errorf("%q is not set aside: %q, %v", damage, aside, err)
			}
		}
		if again, err := s.PutBlob([]byte("a model")); again != hash || err != nil {
			t.Errorf("healing: %v", err)
		}
		if data, err := s.Blob(hash); err != nil || string(data) != "a model" {
			t.Errorf("after healing it is %q: %v", data, err)
		}
	}
}
