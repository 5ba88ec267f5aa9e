-- +goose Up
-- Drives of one tag in a place are found without its other rows.
CREATE INDEX glance_tags ON glance (place, tag COLLATE NOCASE, archived, drive);

-- +goose Down
DROP INDEX glance_tags;
