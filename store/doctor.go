package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"perigyre/core/shot"
)

// Finding is something that is not as it was written.
type Finding struct {
	What   string   `json:"what"`   // a sentence
	Uses   []string `json:"uses"`   // what hangs on it, by name
	Mended string   `json:"mended"` // what was done about it, or empty
}

// Health is what Examine says of a data folder.
type Health struct {
	Projects, Shots, Revisions, Files, Runs int
	Findings                                []Finding
	Copy                                    string // of the database before it was mended, or empty
}

// Examine looks at everything in a data folder that no server uses: the database, every revision of every shot, every stored
// file by its hash, the runs. With mend it mends what can be: the database is copied away first, a shot whose newest
// revision is damaged goes back to the one before, a damaged file is set aside until it is brought in again, what killed
// writers left goes.
func Examine(ctx context.Context, folder string, mend bool) (*Health, error) {
	s, err := Open(folder)
	if err != nil {
		return nil, err
	}
	defer s.Close()
	d := &doctor{s: s, mend: mend, out: &Health{Findings: []Finding{}}, uses: map[string][]string{}}
	for _, step := range []func(context.Context) error{d.integrity, d.shots, d.runs, d.files, d.leftovers} {
		if err := step(ctx); err != nil {
			return nil, err
		}
	}
	return d.out, nil
}

type doctor struct {
	s    *Store
	mend bool
	out  *Health
	uses map[string][]string // of stored files: names of shots
}

func (d *doctor) say(what string, uses []string, mended string) {
	if uses == nil {
		uses = []string{}
	}
	d.out.Findings = append(d.out.Findings, Finding{what, uses, mended})
}

// keep copies the database away, once, before it is changed.
func (d *doctor) keep() error {
	if d.out.Copy != "" {
		return nil
	}
	name := filepath.Join(d.s.Folder, "perigyre-"+time.Now().UTC().Format("20060102-150405")+".db")
	if _, err := d.s.db.Exec(`VACUUM INTO ?`, name); err != nil {
		return fmt.Errorf("the database cannot be copied away, and nothing was mended: %w", err)
	}
	d.out.Copy = name
	return nil
}

func (d *doctor) integrity(ctx context.Context) error {
	rows, err := d.s.db.QueryContext(ctx, `PRAGMA integrity_check(20)`)
	if err != nil {
		return fmt.Errorf("the database cannot be read: %s; restore a backup", plain(err))
	}
	defer rows.Close()
	for rows.Next() {
		var line string
		if err := rows.Scan(&line); err != nil {
			return err
		}
		if line != "ok" {
			d.say("The database is damaged: "+line+". Restore a backup; what can still be read of it is looked at below.", nil, "")
		}
	}
	return rows.Err()
}

func (d *doctor) shots(ctx context.Context) error {
	list, err := d.s.Projects()
	if err != nil {
		return err
	}
	d.out.Projects = len(list)
	for _, p := range list {
		for _, sh := range p.Shots {
			if err := ctx.Err(); err != nil {
				return err
			}
			d.out.Shots++
			if err := d.shot(p.Name+", "+sh.Name, sh.ID); err != nil {
				return err
			}
		}
	}
	return nil
}

// shot reads every revision of a shot.
func (d *doctor) shot(name, id string) error {
	var head int
	if err := d.s.db.QueryRow(`SELECT head FROM shot WHERE id = ?`, id).Scan(&head); err != nil {
		return err
	}
	rows, err := d.s.db.Query(`SELECT number FROM revision WHERE shot = ? ORDER BY number`, id)
	if err != nil {
		return err
	}
	var numbers []int
	for rows.Next() {
		var n int
		if err := rows.Scan(&n); err != nil {
			rows.Close()
			return err
		}
		numbers = append(numbers, n)
	}
	if err := errors.Join(rows.Err(), rows.Close()); err != nil {
		return err
	}
	d.out.Revisions += len(numbers)
	readable, broken := 0, []string{}
	for _, n := range numbers {
		text, err := d.s.text(d.s.db, id, n)
		var doc *shot.Shot
		if err == nil {
			doc, err = read(text)
		}
		if err != nil {
			broken = append(broken, fmt.Sprint(n))
			continue
		}
		if n <= head || readable == 0 {
			readable = n
		}
		for _, hash := range doc.Blobs() {
			if u := d.uses[hash]; !slices.Contains(u, name) {
				d.uses[hash] = append(u, name)
			}
		}
	}
	if len(broken) == 0 {
		return nil
	}
	mended := ""
	lost := slices.Contains(broken, fmt.Sprint(head)) || !slices.Contains(numbers, head)
	if lost && readable > 0 && d.mend {
		if err := d.keep(); err != nil {
			return err
		}
		if _, err := d.s.db.Exec(`UPDATE shot SET head = ?, version = version + 1 WHERE id = ?`, readable, id); err != nil {
			return err
		}
		mended = fmt.Sprintf("the shot stands at revision %d now", readable)
	}
	what := fmt.Sprintf("Of the %d revisions of %s these cannot be read: %s.", len(numbers), name, strings.Join(broken, ", "))
	switch {
	case lost && readable == 0:
		what += " None can: the shot cannot be opened; restore a backup."
	case lost && mended == "":
		what += fmt.Sprintf(" The one that the shot stands at is among them; revision %d can be read.", readable)
	}
	d.say(what, []string{name}, mended)
	return nil
}

func (d *doctor) runs(context.Context) error {
	list, err := d.s.Runs()
	if err != nil {
		return err
	}
	d.out.Runs = len(list)
	for _, r := range list {
		if _, err := d.s.Run(r.ID); err != nil {
			d.say(fmt.Sprintf("The run %s in %s cannot be read; its frames are files and are not touched.", r.Title, r.Folder), nil, "")
		}
	}
	return nil
}

// files looks at every stored file by its hash, and for those that are used and not there.
func (d *doctor) files(ctx context.Context) error {
	seen := map[string]bool{}
	names, _ := filepath.Glob(filepath.Join(escape(d.s.Folder), "blobs", "??", "*"))
	for _, name := range names {
		if err := ctx.Err(); err != nil {
			return err
		}
		hash, aside := strings.CutSuffix(filepath.Base(name), ".damaged")
		if b, err := hex.DecodeString(hash); err != nil || len(b) != 32 {
			continue
		}
		sum, err := hashOf(name)
		good := err == nil && sum == hash
		switch {
		case aside && good: // it only could not be read then
			mended := ""
			if d.mend {
				if err := os.Rename(name, strings.TrimSuffix(name, ".damaged")); err != nil {
					return err
				}
				mended, seen[hash] = "it is back in its place", true
			}
			d.say(fmt.Sprintf("The stored file %.12s was set aside and is whole.", hash), d.uses[hash], mended)
		case aside:
		case good:
			seen[hash] = true
			d.out.Files++
		default:
			mended := ""
			if d.mend {
				if err := os.Rename(name, name+".damaged"); err != nil {
					return err
				}
				mended = "it is set aside; bring the same file in again, and all that uses it has it again"
			}
			seen[hash] = true
			d.say(fmt.Sprintf("The stored file %.12s is damaged: it is not what was written.", hash), d.uses[hash], mended)
		}
	}
	for _, hash := range slices.Sorted(maps.Keys(d.uses)) {
		if !seen[hash] {
			d.say(fmt.Sprintf("The stored file %.12s is not there; bring the same file in again, and all that uses it has it again.", hash), d.uses[hash], "")
		}
	}
	return nil
}

// leftovers are files of writers that were killed.
func (d *doctor) leftovers(context.Context) error {
	if left := leftBehind(d.s.Folder); left > 0 {
		mended := ""
		if d.mend {
			RemoveUnfinished(d.s.Folder)
			mended = "they are gone"
		}
		d.say(fmt.Sprintf("There are %d files that a writer left when it was killed.", left), nil, mended)
	}
	return nil
}

func hashOf(name string) (string, error) {
	f, err := os.Open(name)
	if err != nil {
		return "", err
	}
	defer f.Close()
	h := sha256.New()
	if _, err := io.Copy(h, f); err != nil {
		return "", err
	}
	return hex.EncodeToString(h.Sum(nil)), nil
}
