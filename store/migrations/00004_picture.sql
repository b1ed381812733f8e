-- +goose Up
-- What the picture of a frame depends on, as a hash: frames of the same one are the same.
ALTER TABLE frame ADD COLUMN picture TEXT NOT NULL DEFAULT '';
-- Further files of it, below the run's folder, a line each.
ALTER TABLE frame ADD COLUMN also TEXT NOT NULL DEFAULT '';
CREATE INDEX frame_picture ON frame (picture) WHERE picture <> '';

-- +goose Down
DROP INDEX frame_picture;
ALTER TABLE frame DROP COLUMN also;
ALTER TABLE frame DROP COLUMN picture;
