// Package store keeps projects, shots with their whole history, and render runs in one SQLite file,
// and large files beside it under their content hash.
package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"net/url"
	"os"
	"path/filepath"
	"time"

	"github.com/google/uuid"
	"github.com/klauspost/compress/zstd"
	"github.com/pressly/goose/v3"
	_ "modernc.org/sqlite" // the driver "sqlite"

	"perigyre/core/shot"
)

//go:embed migrations/*.sql
var migrations embed.FS

// ErrMissing is returned for what is not there, or not any more.
var ErrMissing = errors.New("it is not here any more")

// Store is one data folder. It is safe for concurrent use.
type Store struct {
	Folder string
	db     *sql.DB
	enc    *zstd.Encoder
	dec    *zstd.Decoder
	texts  texts
}

// Open opens a data folder, making it and bringing its tables up to date as needed.
func Open(folder string) (*Store, error) {
	if err := os.MkdirAll(filepath.Join(folder, "blobs"), 0o755); err != nil {
		return nil, fmt.Errorf("the data folder cannot be made: %w", err)
	}
	sub, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, err
	}
	known, err := fs.ReadDir(sub, ".")
	if err != nil {
		return nil, err
	}
	if err := sound(folder, int64(len(known))); err != nil {
		return nil, err
	}
	db, err := sql.Open("sqlite", source(folder))
	if err != nil {
		return nil, err
	}
	db.SetMaxOpenConns(1) // one writer; reads are short
	p, err := goose.NewProvider(goose.DialectSQLite3, db, sub)
	if err == nil {
		_, err = p.Up(context.Background())
	}
	if err != nil {
		db.Close()
		return nil, fmt.Errorf("the database in %s cannot be opened: %w", folder, err)
	}
	enc, err := zstd.NewWriter(nil)
	if err != nil {
		return nil, err
	}
	dec, err := zstd.NewReader(nil)
	if err != nil {
		return nil, err
	}
	s := &Store{Folder: folder, db: db, enc: enc, dec: dec}
	return s, s.nameShots()
}

// source is the database of a data folder as its driver is told of it.
func source(folder string) string {
	file := url.URL{Scheme: "file", Opaque: (&url.URL{Path: filepath.ToSlash(filepath.Join(folder, database))}).EscapedPath()}
	file.RawQuery = url.Values{"_pragma": {"journal_mode(WAL)", "foreign_keys(1)", "busy_timeout(5000)", "synchronous(FULL)"}, "_txlock": {"immediate"}}.Encode()
	return file.String()
}

// Close closes the database.
func (s *Store) Close() error { return s.db.Close() }

// NewID returns an identifier that sorts by the time it was made.
func NewID() string { return uuid.Must(uuid.NewV7()).String() }

func now() int64 { return time.Now().UnixMilli() }

// inTransaction runs f in one transaction: all of it happens or nothing.
func (s *Store) inTransaction(f func(*sql.Tx) error) error {
	tx, err := s.db.Begin()
	if err != nil {
		return err
	}
	defer tx.Rollback() // after a commit it does nothing
	if err := f(tx); err != nil {
		return err
	}
	return tx.Commit()
}

// packRun compresses the document of a run, which stands by itself.
func (s *Store) packRun(d *shot.Shot) ([]byte, error) {
	b, err := Encode(d)
	if err != nil {
		return nil, err
	}
	return s.enc.EncodeAll(b, nil), nil
}

func (s *Store) unpackRun(b []byte) (*shot.Shot, error) {
	text, err := s.dec.DecodeAll(b, nil)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", errDamaged, err)
	}
	return read(text)
}

// missing turns "no rows" into ErrMissing.
func missing(err error) error {
	if errors.Is(err, sql.ErrNoRows) {
		return ErrMissing
	}
	return err
}
