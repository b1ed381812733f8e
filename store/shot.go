package store

import (
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"perigyre/core/edit"
	"perigyre/core/shot"
)

// ErrStale is returned for a change of a version that is not the newest.
var ErrStale = edit.ErrStale

// Project is a row of the list of projects.
type Project struct {
	ID    string     `json:"id"`
	Name  string     `json:"name"`
	Shots []ShotName `json:"shots"`
}

// ShotName is a shot in the list.
type ShotName struct {
	ID   string `json:"id"`
	Name string `json:"name"`
}

// Head is the state of a shot that is shown.
type Head struct {
	Shot        string
	Project     string // id of the one that it is in,
	ProjectName string // and its name
	Version     int    // grows with every change
	Revision    int    // the place in the history
	Pictured    bool   // there is a small picture of it
	CanUndo     bool
	CanRedo     bool
	Made        time.Time
	Document    *shot.Shot
	Text        []byte // of the document as it is kept, which may be an older version of it
}

// Revision is a row of a shot's history.
type Revision struct {
	Number int       `json:"number"`
	Parent int       `json:"parent"` // 0 for the first
	Words  string    `json:"words"`
	Made   time.Time `json:"made"`
	Shown  bool      `json:"shown"` // the shot stands here
	Name   string    `json:"name"`  // that it is kept under, or empty
	Seen   bool      `json:"seen"`  // there is a small picture of it
}

// Projects returns all projects with their shots, newest first.
func (s *Store) Projects() ([]Project, error) {
	rows, err := s.db.Query(`
		SELECT p.id, p.name, s.id, s.name FROM project p
		LEFT JOIN shot s ON s.project = p.id
		ORDER BY p.created DESC, p.id DESC, s.created, s.id`)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []Project{}
	for rows.Next() {
		var id, name string
		var shotID, shotName sql.NullString
		if err := rows.Scan(&id, &name, &shotID, &shotName); err != nil {
			return nil, err
		}
		if len(out) == 0 || out[len(out)-1].ID != id {
			out = append(out, Project{id, name, []ShotName{}})
		}
		if shotID.Valid {
			p := &out[len(out)-1]
			p.Shots = append(p.Shots, ShotName{shotID.String, shotName.String})
		}
	}
	return out, rows.Err()
}

// nameShots fills in the names of shots that were made before they were kept apart. One whose document cannot be read is
// called by its id.
func (s *Store) nameShots() error {
	rows, err := s.db.Query(`SELECT id, head FROM shot WHERE name = ''`)
	if err != nil {
		return err
	}
	heads := map[string]int{}
	for rows.Next() {
		var id string
		var head int
		if err := rows.Scan(&id, &head); err != nil {
			rows.Close()
			return err
		}
		heads[id] = head
	}
	if err := errors.Join(rows.Err(), rows.Close()); err != nil {
		return err
	}
	for id, head := range heads {
		name := id
		if text, err := s.text(s.db, id, head); err == nil {
			if d, err := read(text); err == nil {
				name = d.Name
			}
		}
		if _, err := s.db.Exec(`UPDATE shot SET name = ? WHERE id = ?`, name, id); err != nil {
			return err
		}
	}
	return nil
}

// AddProject adds a project with its first shot and returns their ids.
func (s *Store) AddProject(name string, d *shot.Shot, words string) (project, shotID string, err error) {
	return s.AddProjectOf(name, []*shot.Shot{d}, words)
}

// AddProjectOf adds a project with shots, at least one, and returns its id and that of the first shot.
func (s *Store) AddProjectOf(name string, shots []*shot.Shot, words string) (project, first string, err error) {
	project = NewID()
	err = s.inTransaction(func(tx *sql.Tx) error {
		if _, err := tx.Exec(`INSERT INTO project (id, name, created) VALUES (?, ?, ?)`, project, name, now()); err != nil {
			return err
		}
		for i, d := range shots {
			id := NewID()
			if i == 0 {
				first = id
			}
			if err := s.insertShot(tx, project, id, d, words); err != nil {
				return err
			}
		}
		return nil
	})
	return project, first, err
}

// AddShot adds a shot to a project and returns its id.
func (s *Store) AddShot(project string, d *shot.Shot, words string) (string, error) {
	id := NewID()
	return id, s.inTransaction(func(tx *sql.Tx) error {
		var there int
		if err := tx.QueryRow(`SELECT 1 FROM project WHERE id = ?`, project).Scan(&there); err != nil {
			return missing(err)
		}
		return s.insertShot(tx, project, id, d, words)
	})
}

func (s *Store) insertShot(tx *sql.Tx, project, id string, d *shot.Shot, words string) error {
	text, err := Encode(d)
	if err != nil {
		return err
	}
	if _, err := tx.Exec(`INSERT INTO shot (id, project, head, version, created, name) VALUES (?, ?, 1, 1, ?, ?)`, id, project, now(), d.Name); err != nil {
		return err
	}
	return s.insertRevision(tx, id, 1, 0, text, words)
}

// insertRevision adds a revision after the newest one.
func (s *Store) insertRevision(tx *sql.Tx, shotID string, number, parent int, text []byte, words string) error {
	p, err := s.pack(tx, shotID, text, number-1)
	if err != nil {
		return err
	}
	_, err = tx.Exec(`INSERT INTO revision (shot, number, parent, document, base, level, words, made) VALUES (?, ?, ?, ?, ?, ?, ?, ?)`,
		shotID, number, parent, p.data, p.base, p.level, words, now())
	return err
}

// RemoveShot removes a shot with its history. Runs and their frames stay.
func (s *Store) RemoveShot(id string) error {
	r, err := s.db.Exec(`DELETE FROM shot WHERE id = ?`, id)
	return changed(r, err)
}

// ProjectOf returns the project that a shot is in.
func (s *Store) ProjectOf(id string) (string, error) {
	var project string
	err := s.db.QueryRow(`SELECT project FROM shot WHERE id = ?`, id).Scan(&project)
	return project, missing(err)
}

// RenameProject names a project.
func (s *Store) RenameProject(id, name string) error {
	r, err := s.db.Exec(`UPDATE project SET name = ? WHERE id = ?`, name, id)
	return changed(r, err)
}

// RemoveProject removes a project with its shots and their history. Runs and their frames stay.
func (s *Store) RemoveProject(id string) error {
	r, err := s.db.Exec(`DELETE FROM project WHERE id = ?`, id)
	return changed(r, err)
}

// changed returns ErrMissing where a statement met no row.
func changed(r sql.Result, err error) error {
	if err != nil {
		return err
	}
	if n, err := r.RowsAffected(); err != nil || n == 0 {
		return errors.Join(ErrMissing, err)
	}
	return nil
}

// Shot returns a shot as it is now, with its document.
func (s *Store) Shot(id string) (*Head, error) {
	h, err := s.Standing(id)
	if err != nil {
		return nil, err
	}
	if h.Text, err = s.text(s.db, id, h.Revision); err != nil {
		return nil, err
	}
	h.Document, err = read(h.Text)
	return h, err
}

// Standing returns where a shot stands now, without its document.
func (s *Store) Standing(id string) (*Head, error) {
	h := &Head{Shot: id}
	var parent int
	var made int64
	err := s.db.QueryRow(`
		SELECT p.id, p.name, s.version, s.head, r.parent, r.made,
		       EXISTS (SELECT 1 FROM revision c WHERE c.shot = s.id AND c.parent = s.head),
		       EXISTS (SELECT 1 FROM thumbnail t WHERE t.shot = s.id AND t.revision = s.head)
		FROM shot s JOIN revision r ON r.shot = s.id AND r.number = s.head JOIN project p ON p.id = s.project
		WHERE s.id = ?`, id).Scan(&h.Project, &h.ProjectName, &h.Version, &h.Revision, &parent, &made, &h.CanRedo, &h.Pictured)
	if err != nil {
		return nil, missing(err)
	}
	h.CanUndo, h.Made = parent > 0, time.UnixMilli(made)
	return h, nil
}

// Version returns the version of a shot that is shown now.
func (s *Store) Version(id string) (version int, err error) {
	err = s.db.QueryRow(`SELECT version FROM shot WHERE id = ?`, id).Scan(&version)
	return version, missing(err)
}

// Edit records a changed document of a version, with its text (see Encode), as the next revision.
func (s *Store) Edit(id string, version int, d *shot.Shot, text []byte, words string) error {
	return s.inTransaction(func(tx *sql.Tx) error {
		var head, last int
		err := tx.QueryRow(`SELECT head, (SELECT max(number) FROM revision WHERE shot = s.id) FROM shot s WHERE id = ?`, id).Scan(&head, &last)
		if err != nil {
			return missing(err)
		}
		if err := advance(tx, id, version, last+1); err != nil {
			return err
		}
		if _, err := tx.Exec(`UPDATE shot SET name = ? WHERE id = ?`, d.Name, id); err != nil {
			return err
		}
		return s.insertRevision(tx, id, last+1, head, text, words)
	})
}

func advance(tx *sql.Tx, id string, version, head int) error {
	r, err := tx.Exec(`UPDATE shot SET head = ?, version = version + 1 WHERE id = ? AND version = ?`, head, id, version)
	if err := changed(r, err); errors.Is(err, ErrMissing) {
		return ErrStale
	} else if err != nil {
		return err
	}
	return nil
}

// Undo goes to the revision before the one that is shown.
func (s *Store) Undo(id string, version int) error {
	return s.step(id, version, `SELECT parent FROM revision r JOIN shot s ON s.id = r.shot AND s.head = r.number WHERE s.id = ?`, "there is nothing to undo")
}

// Redo goes to the newest revision made from the one that is shown.
func (s *Store) Redo(id string, version int) error {
	return s.step(id, version, `SELECT coalesce(max(r.number), 0) FROM revision r JOIN shot s ON s.id = r.shot AND s.head = r.parent WHERE s.id = ?`, "there is nothing to redo")
}

func (s *Store) step(id string, version int, query, none string) error {
	return s.inTransaction(func(tx *sql.Tx) error {
		var to int
		if err := tx.QueryRow(query, id).Scan(&to); err != nil {
			return missing(err)
		}
		if to == 0 {
			return errors.New(none)
		}
		return s.walk(tx, id, version, to)
	})
}

// walk shows another revision, and calls the shot as that does.
func (s *Store) walk(tx *sql.Tx, id string, version, to int) error {
	text, err := s.text(tx, id, to)
	if err != nil {
		return err
	}
	var d struct {
		Name string `json:"name"`
	}
	if err := json.Unmarshal(text, &d); err != nil {
		return fmt.Errorf("%w: %w", errDamaged, err)
	}
	if err := advance(tx, id, version, to); err != nil {
		return err
	}
	_, err = tx.Exec(`UPDATE shot SET name = ? WHERE id = ?`, d.Name, id)
	return err
}

// Restore shows any revision of the history again.
func (s *Store) Restore(id string, version, number int) error {
	return s.inTransaction(func(tx *sql.Tx) error {
		var there int
		if err := tx.QueryRow(`SELECT 1 FROM revision WHERE shot = ? AND number = ?`, id, number).Scan(&there); err != nil {
			return missing(err)
		}
		return s.walk(tx, id, version, number)
	})
}

// History returns the revisions of a shot, newest first: the latest, and all that have a name.
func (s *Store) History(id string) ([]Revision, error) {
	rows, err := s.db.Query(`
		SELECT r.number, r.parent, r.words, r.made, r.number = s.head, coalesce(v.name, ''), t.revision IS NOT NULL
		FROM revision r JOIN shot s ON s.id = r.shot
		LEFT JOIN named_version v ON v.shot = r.shot AND v.revision = r.number
		LEFT JOIN thumbnail t ON t.shot = r.shot AND t.revision = r.number
		WHERE s.id = ? AND (v.name IS NOT NULL OR r.number > (SELECT max(number) FROM revision WHERE shot = s.id) - 5000)
		ORDER BY r.number DESC`, id)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []Revision{}
	for rows.Next() {
		var r Revision
		var made int64
		if err := rows.Scan(&r.Number, &r.Parent, &r.Words, &made, &r.Shown, &r.Name, &r.Seen); err != nil {
			return nil, err
		}
		r.Made = time.UnixMilli(made)
		out = append(out, r)
	}
	return out, rows.Err()
}
