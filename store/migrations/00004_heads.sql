-- +goose Up
-- What says whether the Yard's rows are stale is read without the documents and rows themselves.
CREATE INDEX document_heads ON document (kind, place, id, version);
CREATE INDEX glance_heads ON glance (drive, stale, drive_version, place_version, rules, stale_after);

-- +goose Down
DROP INDEX glance_heads;
DROP INDEX document_heads;
