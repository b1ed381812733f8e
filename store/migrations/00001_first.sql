-- +goose Up
CREATE TABLE project (
    id      TEXT PRIMARY KEY,
    name    TEXT NOT NULL,
    created INTEGER NOT NULL
) STRICT;

-- head is the revision that is shown; version counts every change of head, so that a stale edit is
-- told from a fresh one after an undo too.
CREATE TABLE shot (
    id      TEXT PRIMARY KEY,
    project TEXT NOT NULL REFERENCES project (id) ON DELETE CASCADE,
    head    INTEGER NOT NULL,
    version INTEGER NOT NULL,
    created INTEGER NOT NULL
) STRICT;

-- Revisions form a tree and are never removed: undo goes to the parent, redo to the newest child.
CREATE TABLE revision (
    shot     TEXT NOT NULL REFERENCES shot (id) ON DELETE CASCADE,
    number   INTEGER NOT NULL,
    parent   INTEGER NOT NULL,
    document BLOB NOT NULL,
    words    TEXT NOT NULL,
    made     INTEGER NOT NULL,
    PRIMARY KEY (shot, number)
) STRICT;
CREATE INDEX revision_parent ON revision (shot, parent);

CREATE TABLE asset (
    hash   TEXT PRIMARY KEY,
    report TEXT NOT NULL,
    made   INTEGER NOT NULL
) STRICT;

CREATE TABLE run (
    id       TEXT PRIMARY KEY,
    shot     TEXT NOT NULL,
    title    TEXT NOT NULL,
    document BLOB NOT NULL,
    settings TEXT NOT NULL,
    folder   TEXT NOT NULL UNIQUE,
    state    TEXT NOT NULL,
    message  TEXT NOT NULL,
    made     INTEGER NOT NULL
) STRICT;

CREATE TABLE frame (
    run    TEXT NOT NULL REFERENCES run (id) ON DELETE CASCADE,
    number INTEGER NOT NULL,
    file   TEXT NOT NULL,
    state  TEXT NOT NULL,
    sha256 TEXT NOT NULL DEFAULT '',
    bytes  INTEGER NOT NULL DEFAULT 0,
    millis INTEGER NOT NULL DEFAULT 0,
    PRIMARY KEY (run, number)
) STRICT;

-- +goose Down
DROP TABLE frame;
DROP TABLE run;
DROP TABLE asset;
DROP TABLE revision;
DROP TABLE shot;
DROP TABLE project;
