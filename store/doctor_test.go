package store

import (
	"bytes"
	"context"
	"database/sql"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"perigyre/core/shot"
)

// kept is a data folder with a project, a shot of three revisions that uses a stored file, and a run.
func kept(t *testing.T) (folder, shotID, hash string) {
	t.Helper()
	folder = filepath.Join(t.TempDir(), "data")
	s, err := Open(folder)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	if hash, err = s.PutBlob(bytes.Repeat([]byte("a stored file "), 1000)); err != nil {
		t.Fatal(err)
	}
	d := shot.New("Front")
	d.Parts = append(d.Parts, shot.Part{ID: "p", Name: "Part", Kind: shot.Solid, Rest: shot.AtRest, Moves: []shot.Move{}, Mesh: &shot.MeshRef{Asset: hash}})
	_, shotID, err = s.AddProject("Lamp", d, "Bring in")
	if err != nil {
		t.Fatal(err)
	}
	for i := range 2 {
		d = d.Clone()
		d.Frames = 20 + i
		text, err := Encode(d)
		if err != nil {
			t.Fatal(err)
		}
		if err := s.Edit(shotID, i+1, d, text, "Change"); err != nil {
			t.Fatal(err)
		}
	}
	if err := s.AddRun(&Run{ID: "run", Shot: shotID, Title: "Lamp", Document: d, Settings: "{}", Folder: "/nowhere", State: "done"}, nil); err != nil {
		t.Fatal(err)
	}
	return folder, shotID, hash
}

func do(t *testing.T, folder, query string, args ...any) {
	t.Helper()
	db, err := sql.Open("sqlite", source(folder))
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	if _, err := db.Exec(query, args...); err != nil {
		t.Fatal(err)
	}
}

func examined(t *testing.T, folder string, mend bool) (*Health, string) {
	t.Helper()
	h, err := Examine(context.Background(), folder, mend)
	if err != nil {
		t.Fatal(err)
	}
	var all strings.Builder
	for _, f := range h.Findings {
		all.WriteString(f.What + " | " + strings.Join(f.Uses, ", ") + " | " + f.Mended + "\n")
	}
	return h, all.String()
}

// What is damaged is found, with what hangs on it; what can be mended is, once the database has been copied away; what is
// whole is left alone.
func TestDoctor(t *testing.T) {
	folder, id, hash := kept(t)
	if h, all := examined(t, folder, true); all != "" || h.Shots != 1 || h.Revisions != 3 || h.Files != 1 || h.Runs != 1 || h.Copy != "" {
		t.Fatalf("a whole folder: %+v\n%s", h, all)
	}
	do(t, folder, `UPDATE revision SET document = x'00112233' WHERE shot = ? AND number = 3`, id)
	do(t, folder, `UPDATE run SET document = x'00112233'`)
	blob := filepath.Join(folder, "blobs", hash[:2], hash)
	if err := os.WriteFile(blob, []byte("not that"), 0o644); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(filepath.Join(folder, "blobs", hash[:2], ".writing-123"), nil, 0o644); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(filepath.Join(folder, "blobs", hash[:2], "stray.txt"), nil, 0o644); err != nil {
		t.Fatal(err)
	}
	h, all := examined(t, folder, false)
	for _, want := range []string{"Lamp, Front these cannot be read: 3", "revision 2 can be read", "The run Lamp in /nowhere cannot be read", "is damaged: it is not what was written. | Lamp, Front", "1 files that a writer left"} {
		if !strings.Contains(all, want) {
			t.Errorf("%q is not said in\n%s", want, all)
		}
	}
	if h.Copy != "" {
		t.Error("only looking copied the database")
	}
	if now, err := os.ReadFile(blob); err != nil || string(now) != "not that" {
		t.Errorf("only looking moved the file: %v", err)
	}
	h, all = examined(t, folder, true)
	if h.Copy == "" || !strings.Contains(all, "stands at revision 2 now") || !strings.Contains(all, "it is set aside") {
		t.Errorf("mended: copy %q\n%s", h.Copy, all)
	}
	s, err := Open(folder)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	if head, err := s.Shot(id); err != nil || head.Revision != 2 || head.Document.Frames != 20 {
		t.Errorf("the shot stands at %+v, %v", head, err)
	}
	if got, err := s.PutBlob(bytes.Repeat([]byte("a stored file "), 1000)); err != nil || got != hash {
		t.Errorf("brought in again: %v", err)
	}
	if _, err := s.Blob(hash); err != nil {
		t.Errorf("healed: %v", err)
	}
}

// A backup of a folder in use is restored to the same: projects, history, files. What is no backup leaves nothing.
func TestBackupAndRestore(t *testing.T) {
	folder, id, hash := kept(t)
	s, err := Open(folder)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close() // as a server has it
	file := filepath.Join(t.TempDir(), "b.zip")
	var b bytes.Buffer
	if damaged, err := s.Backup(context.Background(), &b); err != nil || len(damaged) != 0 {
		t.Fatal(damaged, err)
	}
	if err := os.WriteFile(file, b.Bytes(), 0o644); err != nil {
		t.Fatal(err)
	}
	to := filepath.Join(t.TempDir(), "again")
	if without, err := Restore(context.Background(), file, to); err != nil || len(without) > 0 {
		t.Fatal(without, err)
	}
	if h, all := examined(t, to, false); all != "" || h.Shots != 1 || h.Revisions != 3 || h.Files != 1 || h.Runs != 1 {
		t.Errorf("restored: %+v\n%s", h, all)
	}
	r, err := Open(to)
	if err != nil {
		t.Fatal(err)
	}
	defer r.Close()
	was, err := s.Shot(id)
	if err != nil {
		t.Fatal(err)
	}
	if now, err := r.Shot(id); err != nil || !bytes.Equal(now.Text, was.Text) || now.Version != was.Version {
		t.Errorf("the shot came back as %+v, %v", now, err)
	}
	if _, err := Restore(context.Background(), file, to); err == nil || !strings.Contains(err.Error(), "not empty") {
		t.Errorf("over what is there: %v", err)
	}
	// Damaged on the way: a stored file's bytes lie in the zip as they are.
	bad := bytes.Replace(b.Bytes(), []byte("a stored file a"), []byte("a stored file b"), 1)
	if err := os.WriteFile(file, bad, 0o644); err != nil {
		t.Fatal(err)
	}
	none := filepath.Join(t.TempDir(), "none")
	if _, err := Restore(context.Background(), file, none); err == nil {
		t.Error("a damaged backup is restored")
	}
	if _, err := os.Stat(none); !os.IsNotExist(err) {
		t.Errorf("what failed left something: %v", err)
	}
	// A stored file that is damaged is left out, and who restores the backup is told.
	write(t, filepath.Join(folder, "blobs", hash[:2], hash), "not that")
	b.Reset()
	if damaged, err := s.Backup(context.Background(), &b); err != nil || len(damaged) != 1 {
		t.Fatal(damaged, err)
	}
	write(t, file, b.String())
	if without, err := Restore(context.Background(), file, none); err != nil || len(without) != 1 || without[0] != hash {
		t.Errorf("restored without %v, %v", without, err)
	}
}

// Databases that are empty where files are kept, of others, or of newer versions are told and left alone.
func TestUnsoundDatabases(t *testing.T) {
	for name, c := range map[string]struct {
		spoil func(t *testing.T, folder string)
		says  string
	}{
		"emptied":     {func(t *testing.T, f string) { truncate(t, filepath.Join(f, database)) }, "was emptied or lost"},
		"gone":        {func(t *testing.T, f string) { remove(t, filepath.Join(f, database)) }, "was emptied or lost"},
		"no database": {func(t *testing.T, f string) { write(t, filepath.Join(f, database), "hello, this is a letter") }, "is no database"},
		"another's": {func(t *testing.T, f string) {
			remove(t, filepath.Join(f, database))
			do(t, f, `CREATE TABLE recipes (id)`)
		}, "not one of this program's"},
		"newer": {func(t *testing.T, f string) {
			do(t, f, `INSERT INTO goose_db_version (version_id, is_applied) VALUES (999, 1)`)
		}, "newer version"},
		"without table": {func(t *testing.T, f string) {
			do(t, f, `DROP TABLE named_version; DROP TABLE thumbnail; DROP TABLE revision`)
		}, "not one of this program's"},
	} {
		folder, _, _ := kept(t)
		for _, end := range []string{"-wal", "-shm"} {
			_ = os.Remove(filepath.Join(folder, database+end))
		}
		c.spoil(t, folder)
		before, _ := os.ReadFile(filepath.Join(folder, database))
		s, err := Open(folder)
		if err == nil {
			s.Close()
		}
		if err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v, want something with %q", name, err, c.says)
		}
		if after, _ := os.ReadFile(filepath.Join(folder, database)); !bytes.Equal(before, after) {
			t.Errorf("%s: the file was changed", name)
		}
	}
}

func truncate(t *testing.T, name string) { write(t, name, "") }

func write(t *testing.T, name, text string) {
	t.Helper()
	if err := os.WriteFile(name, []byte(text), 0o644); err != nil {
		t.Fatal(err)
	}
}

func remove(t *testing.T, name string) {
	t.Helper()
	if err := os.Remove(name); err != nil {
		t.Fatal(err)
	}
}
