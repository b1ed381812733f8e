package store

import (
	"compress/gzip"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"testing"

	"perigyre/core/shot"
)

// crowded is a shot of many parts with pins.
func crowded(parts, pins int) *shot.Shot {
	s := shot.New("crowded")
	for i := range parts {
		p := shot.Part{ID: fmt.Sprintf("%08x-part-%d", uint32(i)*2654435761, i), Name: fmt.Sprint("Part ", i), Kind: shot.Group, Rest: shot.AtRest, Moves: []shot.Move{}}
		t := shot.Track{Value: shot.TrackX}
		for k := range pins {
			t.Pins = append(t.Pins, shot.Pin{Time: float64(k), Value: float64(i*k%97) / 13, Next: shot.Smooth})
		}
		p.Tracks = []shot.Track{t}
		s.Parts = append(s.Parts, p)
	}
	return s
}

// A history holds what was changed and not a document each time, and any of its revisions is read as it was written.
func TestAHistoryHoldsWhatWasChanged(t *testing.T) {
	folder := t.TempDir()
	s := open(t, folder)
	d := crowded(500, 10)
	_, id, err := s.AddProject("P", d, "begin")
	if err != nil {
		t.Fatal(err)
	}
	const edits = 200
	want := map[int]string{1: string(text(t, d))}
	for k := range edits {
		d = d.Clone()
		d.Parts[k*7%500].Rest.Position[0] += 0.001 * float64(k+1)
		b := text(t, d)
		if err := s.Edit(id, k+1, d, b, "move"); err != nil {
			t.Fatal(err)
		}
		want[k+2] = string(b)
	}
	s.Close()
	s = open(t, folder)
	defer s.Close()
	for number, doc := range want {
		got, err := s.text(s.db, id, number)
		if err != nil || string(got) != doc {
			t.Fatalf("revision %d is not read as it was written: %v", number, err)
		}
	}
	size := int64(0)
	if err := s.db.QueryRow(`SELECT sum(length(document)) FROM revision`).Scan(&size); err != nil {
		t.Fatal(err)
	}
	if most := int64(len(want[1])) * 3; size > most {
		t.Errorf("%d edits of a document of %d kB take %d kB", edits, len(want[1])/1000, size/1000)
	}
}

// A data folder of before histories held what changed (first.db.gz, of the program that made it: an import, two edits and
// an undo) goes on: every revision is there, and edits are told against them.
func TestADataFolderOfTheFirstVersionGoesOn(t *testing.T) {
	folder := t.TempDir()
	packed, err := os.Open("testdata/first.db.gz")
	if err != nil {
		t.Fatal(err)
	}
	defer packed.Close()
	z, err := gzip.NewReader(packed)
	if err != nil {
		t.Fatal(err)
	}
	b, err := io.ReadAll(z)
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(filepath.Join(folder, "perigyre.db"), b, 0o644); err != nil {
		t.Fatal(err)
	}
	s := open(t, folder)
	defer s.Close()
	list, err := s.Projects()
	if err != nil || len(list) != 1 || len(list[0].Shots) != 1 || list[0].Shots[0].Name != "Turntable" {
		t.Fatalf("%v: %+v", err, list)
	}
	id := list[0].Shots[0].ID
	h, err := s.Shot(id)
	if err != nil || h.Version != 4 || !h.CanUndo || !h.CanRedo || h.Document.Schema != shot.Schema {
		t.Fatalf("%v: %+v", err, h)
	}
	h.Document.Name = "After"
	if err := s.Edit(id, 4, h.Document, text(t, h.Document), "rename"); err != nil {
		t.Fatal(err)
	}
	history, err := s.History(id)
	if err != nil || len(history) != 4 {
		t.Fatalf("%v: %d revisions", err, len(history))
	}
	for number, name := range map[int]string{1: "Turntable", 2: "Turntable", 3: "Front", 4: "After"} {
		text, err := s.text(s.db, id, number)
		if err != nil {
			t.Fatal(err)
		}
		if d, err := read(text); err != nil || d.Name != name {
			t.Errorf("revision %d: %v, %v", number, d, err)
		}
	}
}
