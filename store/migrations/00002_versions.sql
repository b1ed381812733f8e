-- +goose Up
-- A named version is a revision that is kept under a name of its own.
CREATE TABLE named_version (
    shot     TEXT NOT NULL REFERENCES shot (id) ON DELETE CASCADE,
    revision INTEGER NOT NULL,
    name     TEXT NOT NULL,
    made     INTEGER NOT NULL,
    PRIMARY KEY (shot, revision)
) STRICT;

-- Small pictures of revisions, as the page showed them.
CREATE TABLE thumbnail (
    shot     TEXT NOT NULL REFERENCES shot (id) ON DELETE CASCADE,
    revision INTEGER NOT NULL,
    picture  BLOB NOT NULL,
    PRIMARY KEY (shot, revision)
) STRICT;

-- +goose Down
DROP TABLE thumbnail;
DROP TABLE named_version;
