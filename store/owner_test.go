package store

import (
	"strings"
	"testing"
)

// A data folder has one owner; the next one is told who that is, and may have it once it is given free.
func TestAFolderHasOneOwner(t *testing.T) {
	folder := t.TempDir()
	release, err := Own(folder, "process 1 at http://here")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := Own(folder, "process 2"); err == nil || !strings.Contains(err.Error(), "process 1 at http://here") {
		t.Errorf("a second owner: %v", err)
	}
	release()
	again, err := Own(folder, "process 2")
	if err != nil {
		t.Fatal(err)
	}
	again()
}
