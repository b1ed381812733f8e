-- +goose Up
-- Runs of a higher priority are rendered before others.
ALTER TABLE run ADD COLUMN priority INTEGER NOT NULL DEFAULT 0;

-- +goose Down
ALTER TABLE run DROP COLUMN priority;
