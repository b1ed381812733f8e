package store

import (
	"database/sql"

	"perigyre/core/shot"
)

// NameVersion keeps a revision of a shot under a name, or forgets its name where that is empty.
func (s *Store) NameVersion(id string, revision int, name string) error {
	return s.inTransaction(func(tx *sql.Tx) error {
		if err := hasRevision(tx, id, revision); err != nil {
			return err
		}
		if name == "" {
			_, err := tx.Exec(`DELETE FROM named_version WHERE shot = ? AND revision = ?`, id, revision)
			return err
		}
		_, err := tx.Exec(`INSERT OR REPLACE INTO named_version (shot, revision, name, made) VALUES (?, ?, ?, ?)`, id, revision, name, now())
		return err
	})
}

func hasRevision(tx *sql.Tx, id string, revision int) error {
	var there int
	return missing(tx.QueryRow(`SELECT 1 FROM revision WHERE shot = ? AND number = ?`, id, revision).Scan(&there))
}

// Document returns a shot as it was in a revision.
func (s *Store) Document(id string, revision int) (*shot.Shot, error) {
	text, err := s.text(s.db, id, revision)
	if err != nil {
		return nil, err
	}
	return read(text)
}

// PutThumbnail keeps a small picture of a revision.
func (s *Store) PutThumbnail(id string, revision int, picture []byte) error {
	return s.inTransaction(func(tx *sql.Tx) error {
		if err := hasRevision(tx, id, revision); err != nil {
			return err
		}
		_, err := tx.Exec(`INSERT OR REPLACE INTO thumbnail (shot, revision, picture) VALUES (?, ?, ?)`, id, revision, picture)
		return err
	})
}

// Thumbnail returns the small picture of a revision.
func (s *Store) Thumbnail(id string, revision int) ([]byte, error) {
	var picture []byte
	err := s.db.QueryRow(`SELECT picture FROM thumbnail WHERE shot = ? AND revision = ?`, id, revision).Scan(&picture)
	return picture, missing(err)
}
