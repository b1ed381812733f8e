-- +goose Up
-- How often in a row the process ended while a run was being rendered, with no frame done in between.
ALTER TABLE run ADD COLUMN attempts INTEGER NOT NULL DEFAULT 0;

-- +goose Down
ALTER TABLE run DROP COLUMN attempts;
