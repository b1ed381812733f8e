package store

import (
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"os"
	"path/filepath"
	"strings"
)

func (s *Store) blob(hash string) (string, error) {
	if b, err := hex.DecodeString(hash); err != nil || len(b) != sha256.Size {
		return "", ErrMissing
	}
	return filepath.Join(s.Folder, "blobs", hash[:2], hash), nil
}

// ErrDamaged is for a stored file that is not what it was written as. It has been set aside, beside its place.
var ErrDamaged = errors.New("it is damaged and was set aside; bring the same file in again, and all that uses it has it again")

// whole reports whether data are what a hash says; what is not is set aside.
func whole(name, hash string, data []byte) bool {
	if is(hash, data) {
		return true
	}
	slog.Error("A stored file is not what was written. It is set aside.", "file", name)
	_ = os.Rename(name, name+".damaged")
	return false
}

func is(hash string, data []byte) bool {
	sum := sha256.Sum256(data)
	return hex.EncodeToString(sum[:]) == hash
}

// PutBlob keeps data under their SHA-256, which it returns. Data that are there already are left, unless they are damaged.
func (s *Store) PutBlob(data []byte) (string, error) {
	sum := sha256.Sum256(data)
	hash := hex.EncodeToString(sum[:])
	name, err := s.blob(hash)
	if err != nil {
		return "", err
	}
	if there, err := os.ReadFile(name); err == nil && whole(name, hash, there) {
		return hash, nil
	}
	if err := os.MkdirAll(filepath.Dir(name), 0o755); err != nil {
		return "", err
	}
	return hash, WriteFile(name, data)
}

// Blob returns what is kept under a hash, or an error that is ErrDamaged.
func (s *Store) Blob(hash string) ([]byte, error) {
	name, err := s.blob(hash)
	if err != nil {
		return nil, err
	}
	data, err := os.ReadFile(name)
	if os.IsNotExist(err) {
		if _, err := os.Stat(name + ".damaged"); err == nil {
			return nil, s.damaged(hash)
		}
		return nil, ErrMissing
	}
	if err == nil && !whole(name, hash, data) {
		return nil, s.damaged(hash)
	}
	return data, err
}

// damaged is the error of a stored file that is, with the name of the file that it came with, if it came by itself.
func (s *Store) damaged(hash string) error {
	var file sql.NullString
	_ = s.db.QueryRow(`SELECT json_extract(report, '$.file') FROM asset WHERE hash = ?`, hash).Scan(&file)
	if file.String != "" {
		return fmt.Errorf("what is stored of %s (%.12s): %w", file.String, hash, ErrDamaged)
	}
	return fmt.Errorf("the stored file %.12s: %w", hash, ErrDamaged)
}

// PutAsset records the report of an import with its asset.
func (s *Store) PutAsset(hash string, report []byte) error {
	_, err := s.db.Exec(`INSERT OR REPLACE INTO asset (hash, report, made) VALUES (?, ?, ?)`, hash, string(report), now())
	return err
}

// AssetReport returns the report of an import.
func (s *Store) AssetReport(hash string) ([]byte, error) {
	var text string
	err := s.db.QueryRow(`SELECT report FROM asset WHERE hash = ?`, hash).Scan(&text)
	return []byte(text), missing(err)
}

// unfinished is what files are called while WriteFile writes them.
const unfinished = ".writing-*"

// leftBehind counts what writers that were killed have left.
func leftBehind(folder string) (files int) {
	_ = filepath.WalkDir(folder, func(_ string, e os.DirEntry, err error) error {
		if err == nil && strings.HasPrefix(e.Name(), strings.TrimSuffix(unfinished, "*")) {
			files++
		}
		return nil
	})
	return files
}

// RemoveUnfinished removes what writers that were killed have left in a folder and in those in it, and returns how much that
// was. Nothing must be writing there.
func RemoveUnfinished(folder string) (files int) {
	_ = filepath.WalkDir(folder, func(name string, e os.DirEntry, err error) error {
		if err != nil || !strings.HasPrefix(e.Name(), strings.TrimSuffix(unfinished, "*")) {
			return nil
		}
		files++
		_ = os.RemoveAll(name) // it only takes up room
		if e.IsDir() {
			return filepath.SkipDir
		}
		return nil
	})
	return files
}

// escape takes the meaning from characters that stand for others in patterns.
func escape(folder string) string {
	return strings.NewReplacer(`[`, `[[]`, `*`, `[*]`, `?`, `[?]`).Replace(folder)
}

// WriteFile writes a file so that its name never stands for half of it: under a temporary name in
// the same folder, flushed to the disk, then renamed.
func WriteFile(name string, data []byte) error {
	return WriteWith(name, func(w io.Writer) error {
		_, err := w.Write(data)
		return err
	})
}

// WriteWith is WriteFile for what is written piece by piece.
func WriteWith(name string, write func(w io.Writer) error) error {
	f, err := os.CreateTemp(filepath.Dir(name), unfinished)
	if err != nil {
		return err
	}
	err = write(f)
	if err == nil {
		err = f.Chmod(0o644)
	}
	if err == nil {
		err = f.Sync()
	}
	if e := f.Close(); err == nil {
		err = e
	}
	if err == nil {
		err = os.Rename(f.Name(), name)
	}
	if err != nil {
		os.Remove(f.Name())
		return fmt.Errorf("%s cannot be written: %w", filepath.Base(name), err)
	}
	if dir, err := os.Open(filepath.Dir(name)); err == nil { // the rename itself; not every system can
		_ = dir.Sync()
		dir.Close()
	}
	return nil
}
