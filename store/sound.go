package store

import (
	"database/sql"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
)

// database is the name of the database in a data folder.
const database = "perigyre.db"

// sound looks at the database before anything is made in it. One that is empty beside stored files has been lost, not begun;
// one with other tables is another program's; one that a newer version of this program made has what this one does not know.
func sound(folder string, newest int64) error {
	name := filepath.Join(folder, database)
	empty := fmt.Errorf("the database %s is empty, but there are stored files beside it: it was emptied or lost. Restore a backup with perigyre restore, or move %s away to begin anew", name, filepath.Join(folder, "blobs"))
	info, err := os.Stat(name)
	if errors.Is(err, fs.ErrNotExist) || err == nil && info.Size() == 0 {
		if blobs(folder) > 0 {
			return empty
		}
		return nil
	}
	if err != nil {
		return fmt.Errorf("the database cannot be looked at: %w", err)
	}
	f, err := os.Open(name)
	if err != nil {
		return fmt.Errorf("the database cannot be opened: %w", err)
	}
	head := make([]byte, 16)
	_, err = f.Read(head)
	f.Close()
	if err != nil || string(head) != "SQLite format 3\x00" {
		return fmt.Errorf("%s is no database: it is damaged, or another program's file. Nothing was changed; restore a backup with perigyre restore", name)
	}
	db, err := sql.Open("sqlite", source(folder))
	if err != nil {
		return err
	}
	defer db.Close()
	rows, err := db.Query(`SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%'`)
	if err != nil {
		return fmt.Errorf("the database %s is damaged (%s). perigyre doctor %s says more", name, plain(err), folder)
	}
	defer rows.Close()
	tables := map[string]bool{}
	for rows.Next() {
		var t string
		if err := rows.Scan(&t); err != nil {
			return err
		}
		tables[t] = true
	}
	if err := rows.Err(); err != nil {
		return err
	}
	switch {
	case len(tables) == 0 && blobs(folder) > 0:
		return empty
	case len(tables) == 0:
		return nil
	case !tables["goose_db_version"] || !tables["project"] || !tables["revision"]:
		return fmt.Errorf("the database %s is not one of this program's; choose another folder with --data", name)
	}
	var version int64
	if err := db.QueryRow(`SELECT max(version_id) FROM goose_db_version WHERE is_applied = 1`).Scan(&version); err == nil && version > newest {
		return fmt.Errorf("the data folder %s was made by a newer version of this program; start that one", folder)
	}
	return nil
}

// blobs counts stored files, up to one.
func blobs(folder string) int {
	found, _ := filepath.Glob(filepath.Join(escape(folder), "blobs", "??", "*"))
	return len(found)
}

// plain takes the words of the database's library off an error.
func plain(err error) string {
	s := err.Error()
	if k := strings.Index(s, " ("); k > 0 {
		s = s[:k]
	}
	return strings.TrimSpace(s)
}
