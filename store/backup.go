package store

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"os"
	"path"
	"path/filepath"
	"strings"
)

// Backup writes a data folder as a zip: the database as it is at one moment, and all stored files. A server may be at work
// in the folder meanwhile. Rendered frames are not in it. Damaged files are left out and named.
func (s *Store) Backup(ctx context.Context, w io.Writer) (damaged []string, err error) {
	dir, err := os.MkdirTemp(s.Folder, strings.TrimSuffix(unfinished, "*")+"backup-*")
	if err != nil {
		return nil, fmt.Errorf("the backup cannot be begun: %w", err)
	}
	defer os.RemoveAll(dir)
	snapshot := filepath.Join(dir, database)
	if _, err := s.db.ExecContext(ctx, `VACUUM INTO ?`, snapshot); err != nil {
		return nil, fmt.Errorf("the database cannot be copied: %w", err)
	}
	// Files that the snapshot refers to were there before it, and files never change.
	z := zip.NewWriter(w)
	add := func(name, file string, method uint16, check string) error {
		if err := ctx.Err(); err != nil {
			return err
		}
		if check != "" {
			if sum, err := hashOf(file); err != nil || sum != check {
				damaged = append(damaged, check)
				return nil
			}
		}
		f, err := os.Open(file)
		if err != nil {
			return err
		}
		defer f.Close()
		to, err := z.CreateHeader(&zip.FileHeader{Name: name, Method: method})
		if err != nil {
			return err
		}
		_, err = io.Copy(to, f)
		return err
	}
	if err := add(database, snapshot, zip.Deflate, ""); err != nil {
		return nil, err
	}
	names, _ := filepath.Glob(filepath.Join(escape(s.Folder), "blobs", "??", "*"))
	for _, name := range names {
		hash := filepath.Base(name)
		if b, err := hex.DecodeString(hash); err != nil || len(b) != 32 {
			continue
		}
		if err := add(path.Join("blobs", hash[:2], hash), name, zip.Store, hash); err != nil {
			return nil, err
		}
	}
	if len(damaged) > 0 { // whoever restores it is told
		w, err := z.Create(withoutFile)
		if err != nil {
			return nil, err
		}
		if _, err := io.WriteString(w, strings.Join(damaged, "\n")+"\n"); err != nil {
			return nil, err
		}
	}
	return damaged, z.Close()
}

// withoutFile lists in a backup the stored files that were damaged and are not in it.
const withoutFile = "damaged-and-left-out.txt"

// Restore makes a data folder of a backup. The folder must not be there, or be empty; what cannot be restored whole leaves
// nothing. It returns the hashes of stored files that were damaged when the backup was made, and are not in it.
func Restore(ctx context.Context, file, folder string) (without []string, err error) {
	if there, err := os.ReadDir(folder); err == nil && len(there) > 0 {
		return nil, fmt.Errorf("%s is not empty: a backup is restored into a new folder", folder)
	}
	z, err := zip.OpenReader(file)
	if err != nil {
		return nil, fmt.Errorf("%s is no backup that can be read: %w", file, err)
	}
	defer z.Close()
	made := filepath.Clean(folder) + ".restoring"
	if err := os.Mkdir(made, 0o755); err != nil {
		return nil, fmt.Errorf("the folder cannot be made: %w", err)
	}
	defer os.RemoveAll(made)
	found := false
	for _, f := range z.File {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		parts := strings.Split(f.Name, "/")
		hash := ""
		switch {
		case f.Name == database:
			found = true
		case f.Name == withoutFile:
			if without, err = listed(f); err != nil {
				return nil, err
			}
			continue
		case len(parts) == 3 && parts[0] == "blobs" && len(parts[2]) == 64 && strings.HasPrefix(parts[2], parts[1]) && len(parts[1]) == 2:
			hash = parts[2]
		default:
			return nil, fmt.Errorf("%s is no backup: it holds %.60q", file, f.Name)
		}
		if err := restored(f, filepath.Join(made, filepath.FromSlash(f.Name)), hash); err != nil {
			return nil, fmt.Errorf("%s cannot be restored: %w", f.Name, err)
		}
	}
	if !found {
		return nil, fmt.Errorf("%s is no backup: it holds no %s", file, database)
	}
	s, err := Open(made) // it is one of this program's, and whole
	if err != nil {
		return nil, err
	}
	if err := s.Close(); err != nil {
		return nil, err
	}
	if err := os.Remove(folder); err != nil && !errors.Is(err, os.ErrNotExist) {
		return nil, err
	}
	return without, os.Rename(made, folder)
}

// listed returns the lines of a file of a backup.
func listed(f *zip.File) ([]string, error) {
	r, err := f.Open()
	if err != nil {
		return nil, err
	}
	defer r.Close()
	text, err := io.ReadAll(io.LimitReader(r, 1<<24))
	return strings.Fields(string(text)), err
}

func restored(f *zip.File, name, hash string) error {
	r, err := f.Open()
	if err != nil {
		return err
	}
	defer r.Close()
	if err := os.MkdirAll(filepath.Dir(name), 0o755); err != nil {
		return err
	}
	var b bytes.Buffer
	if _, err := io.Copy(&b, r); err != nil {
		return err
	}
	if hash != "" && !is(hash, b.Bytes()) {
		return errors.New("it is not what was backed up")
	}
	return WriteFile(name, b.Bytes())
}
