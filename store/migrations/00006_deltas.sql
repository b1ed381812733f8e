-- +goose Up
-- A revision's document is told against that of another one of the shot, its base; 0 for one that stands by itself.
-- Level is how many documents have to be known before it.
ALTER TABLE revision ADD COLUMN base INTEGER NOT NULL DEFAULT 0;
ALTER TABLE revision ADD COLUMN level INTEGER NOT NULL DEFAULT 0;
-- A shot's name, so that a list needs no documents.
ALTER TABLE shot ADD COLUMN name TEXT NOT NULL DEFAULT '';

-- +goose Down
ALTER TABLE shot DROP COLUMN name;
-- What is told against others cannot be read by what does not know of it: those revisions go.
DELETE FROM revision WHERE base <> 0;
ALTER TABLE revision DROP COLUMN level;
ALTER TABLE revision DROP COLUMN base;
