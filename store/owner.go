package store

import (
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
)

// errTaken is that another process has a lock.
var errTaken = errors.New("another process has it")

// Own takes a data folder for one server: two would render the same runs, and each would not see what the other changes. Who
// is what the next one that tries is told. The operating system gives the folder free when the process ends, however it ends.
func Own(folder, who string) (release func(), err error) {
	if err := os.MkdirAll(folder, 0o755); err != nil {
		return nil, fmt.Errorf("the data folder cannot be made: %w", err)
	}
	f, err := os.OpenFile(filepath.Join(folder, "owner"), os.O_RDWR|os.O_CREATE, 0o644)
	if err != nil {
		return nil, fmt.Errorf("the data folder cannot be written to: %w", err)
	}
	if err := lock(f); err != nil {
		defer f.Close()
		if !errors.Is(err, errTaken) {
			return nil, fmt.Errorf("the data folder cannot be locked: %w", err)
		}
		text, _ := io.ReadAll(io.LimitReader(f, 200))
		owner := strings.TrimSpace(string(text))
		if owner == "" {
			owner = "another process"
		}
		return nil, fmt.Errorf("the data folder %s is in use by %s; end that first, or choose another folder with --data", folder, owner)
	}
	if err := f.Truncate(0); err == nil {
		_, err = f.WriteAt([]byte(who+"\n"), 0)
		if err != nil {
			f.Close()
			return nil, fmt.Errorf("the data folder cannot be written to: %w", err)
		}
	}
	return func() {
		_ = f.Truncate(0)
		f.Close()
	}, nil
}
