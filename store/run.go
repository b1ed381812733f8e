package store

import (
	"database/sql"
	"strings"
	"time"

	"perigyre/core/shot"
)

// Run is one render run: a frozen document, output settings (as JSON) and the frames.
type Run struct {
	ID       string
	Shot     string
	Title    string
	Document *shot.Shot
	Settings string
	Folder   string // full path
	State    string
	Message  string
	Made     time.Time
	Priority int // runs of a higher one go first, then older ones
	Attempts int // how often in a row the process ended while it was being rendered, with no frame done in between
}

// Frame is one picture of a run.
type Frame struct {
	Number int    `json:"number"` // of the shot
	File   string `json:"file"`
	State  string `json:"state"` // waiting, done
	SHA256 string `json:"sha256"`
	Bytes  int64  `json:"bytes"`
	Millis int64  `json:"millis"`

	Also    []string `json:"also,omitempty"`    // further files of it, below the run's folder: passes by themselves
	Picture string   `json:"picture,omitempty"` // hash of what its files depend on
}

// States of frames.
const (
	FrameWaiting = "waiting"
	FrameDone    = "done"
)

// AddRun records a run with its frames, all waiting.
func (s *Store) AddRun(r *Run, frames []Frame) error {
	doc, err := s.packRun(r.Document)
	if err != nil {
		return err
	}
	return s.inTransaction(func(tx *sql.Tx) error {
		if _, err := tx.Exec(`INSERT INTO run (id, shot, title, document, settings, folder, state, message, made) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)`,
			r.ID, r.Shot, r.Title, doc, r.Settings, r.Folder, r.State, r.Message, r.Made.UnixMilli()); err != nil {
			return err
		}
		for _, f := range frames {
			if _, err := tx.Exec(`INSERT INTO frame (run, number, file, state) VALUES (?, ?, ?, ?)`, r.ID, f.Number, f.File, FrameWaiting); err != nil {
				return err
			}
		}
		return nil
	})
}

// Runs returns all runs, newest first, without their documents.
func (s *Store) Runs() ([]Run, error) {
	rows, err := s.db.Query(`SELECT id, shot, title, settings, folder, state, message, made, priority, attempts FROM run ORDER BY made DESC, id DESC`)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []Run
	for rows.Next() {
		var r Run
		var made int64
		if err := rows.Scan(&r.ID, &r.Shot, &r.Title, &r.Settings, &r.Folder, &r.State, &r.Message, &made, &r.Priority, &r.Attempts); err != nil {
			return nil, err
		}
		r.Made = time.UnixMilli(made)
		out = append(out, r)
	}
	return out, rows.Err()
}

// Run returns a run with its document.
func (s *Store) Run(id string) (*Run, error) {
	r := &Run{}
	var doc []byte
	var made int64
	err := s.db.QueryRow(`SELECT id, shot, title, document, settings, folder, state, message, made, priority, attempts FROM run WHERE id = ?`, id).
		Scan(&r.ID, &r.Shot, &r.Title, &doc, &r.Settings, &r.Folder, &r.State, &r.Message, &made, &r.Priority, &r.Attempts)
	if err != nil {
		return nil, missing(err)
	}
	r.Made = time.UnixMilli(made)
	r.Document, err = s.unpackRun(doc)
	return r, err
}

// SetRunState records how a run stands.
func (s *Store) SetRunState(id, state, message string) error {
	r, err := s.db.Exec(`UPDATE run SET state = ?, message = ? WHERE id = ?`, state, message, id)
	return changed(r, err)
}

// MoveRun records that a run's folder is called otherwise.
func (s *Store) MoveRun(id, folder string) error {
	r, err := s.db.Exec(`UPDATE run SET folder = ? WHERE id = ?`, folder, id)
	return changed(r, err)
}

// SetAttempts records how often in a row the process ended while a run was being rendered.
func (s *Store) SetAttempts(id string, n int) error {
	r, err := s.db.Exec(`UPDATE run SET attempts = ? WHERE id = ?`, n, id)
	return changed(r, err)
}

// RaiseRun puts a run before all others.
func (s *Store) RaiseRun(id string) error {
	r, err := s.db.Exec(`UPDATE run SET priority = (SELECT max(priority) FROM run) + 1 WHERE id = ?`, id)
	return changed(r, err)
}

// RemoveRun forgets a run. Its files are not touched.
func (s *Store) RemoveRun(id string) error {
	r, err := s.db.Exec(`DELETE FROM run WHERE id = ?`, id)
	return changed(r, err)
}

// Frames returns the frames of a run in order.
func (s *Store) Frames(run string) ([]Frame, error) {
	rows, err := s.db.Query(`SELECT number, file, state, sha256, bytes, millis, picture, also FROM frame WHERE run = ? ORDER BY number`, run)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []Frame{}
	for rows.Next() {
		var f Frame
		var also string
		if err := rows.Scan(&f.Number, &f.File, &f.State, &f.SHA256, &f.Bytes, &f.Millis, &f.Picture, &also); err != nil {
			return nil, err
		}
		f.Also = lines(also)
		out = append(out, f)
	}
	return out, rows.Err()
}

// FramesLike returns a few frames that are done and depend on the same, and the folders of their runs.
func (s *Store) FramesLike(picture string) (folders []string, frames []Frame, err error) {
	rows, err := s.db.Query(`SELECT run.folder, frame.file, frame.sha256, frame.also FROM frame JOIN run ON run.id = frame.run WHERE frame.picture = ? AND frame.state = ? LIMIT 4`, picture, FrameDone)
	if err != nil {
		return nil, nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var folder, also string
		var f Frame
		if err := rows.Scan(&folder, &f.File, &f.SHA256, &also); err != nil {
			return nil, nil, err
		}
		f.Also = lines(also)
		folders, frames = append(folders, folder), append(frames, f)
	}
	return folders, frames, rows.Err()
}

// lines returns the lines of a text, none of an empty one.
func lines(text string) []string {
	if text == "" {
		return nil
	}
	return strings.Split(text, "\n")
}

// SetFrame records a frame's state, hash, size and time.
func (s *Store) SetFrame(run string, f Frame) error {
	r, err := s.db.Exec(`UPDATE frame SET state = ?, sha256 = ?, bytes = ?, millis = ?, picture = ?, also = ? WHERE run = ? AND number = ?`,
		f.State, f.SHA256, f.Bytes, f.Millis, f.Picture, strings.Join(f.Also, "\n"), run, f.Number)
	return changed(r, err)
}
