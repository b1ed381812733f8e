package store

import (
	"bytes"
	"fmt"
	"path/filepath"
	"syscall"
	"testing"

	"perigyre/core/shot"
)

// A database that can grow no more says so as a full disk does, keeps nothing of what did not fit, and all that was there.
func TestFullDatabase(t *testing.T) {
	s, err := Open(filepath.Join(t.TempDir(), "data"))
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	if _, _, err := s.AddProject("P", shot.New("A"), "Bring in"); err != nil {
		t.Fatal(err)
	}
	var pages int
	if err := s.db.QueryRow(`PRAGMA page_count`).Scan(&pages); err != nil {
		t.Fatal(err)
	}
	if _, err := s.db.Exec(fmt.Sprintf(`PRAGMA max_page_count = %d`, pages+2)); err != nil {
		t.Fatal(err)
	}
	err = s.PutAsset("x", bytes.Repeat([]byte("a report that is long "), 10_000))
	if !Full(err) {
		t.Errorf("a database that is full: %v", err)
	}
	if !Full(fmt.Errorf("in a sentence: %w", syscall.ENOSPC)) || Full(ErrMissing) || Full(nil) {
		t.Error("other errors are taken for a full disk, or a full disk is not")
	}
	if list, err := s.Projects(); err != nil || len(list) != 1 {
		t.Errorf("what was there: %v, %v", list, err)
	}
}
