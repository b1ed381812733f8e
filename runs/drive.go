package runs

import (
	"errors"
	"io/fs"
	"os"
	"path/filepath"
)

// Drive is a folder that frames are delivered to. It may be far away: slow, full, or not there for a while. Names are below it.
type Drive interface {
	// Write makes a file of a name that does not stand for anything yet, whole and flushed, or returns an error; half a file may be left.
	Write(name string, data []byte) error
	// Read returns what is in a file, fs.ErrNotExist where there is none.
	Read(name string) ([]byte, error)
	// Rename gives a file the name of another, in one step.
	Rename(from, to string) error
	// Remove removes a file.
	Remove(name string) error
}

// Folder is a drive that the system knows as a folder.
type Folder string

// Write implements Drive.
func (d Folder) Write(name string, data []byte) error {
	full := filepath.Join(string(d), name)
	if _, err := os.Stat(string(d)); err != nil {
		return err // it is made where the drive is, and not where it would be
	}
	if err := os.MkdirAll(filepath.Dir(full), 0o755); err != nil {
		return err
	}
	f, err := os.Create(full)
	if err != nil {
		return err
	}
	_, err = f.Write(data)
	return errors.Join(err, f.Sync(), f.Close())
}

// Read implements Drive.
func (d Folder) Read(name string) ([]byte, error) { return os.ReadFile(filepath.Join(string(d), name)) }

// Rename implements Drive.
func (d Folder) Rename(from, to string) error {
	return os.Rename(filepath.Join(string(d), from), filepath.Join(string(d), to))
}

// Remove implements Drive.
func (d Folder) Remove(name string) error {
	if err := os.Remove(filepath.Join(string(d), name)); !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	return nil
}
