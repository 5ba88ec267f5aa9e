-- +goose Up
-- Every row carries a checksum of all else that stands in it, so that a flipped bit is found when the row is read; row_sum is the program's own
-- function (store/sum.go). Names are kept with what people did as they were written then; a clock that was set or hurried marks what it touched.
ALTER TABLE document ADD COLUMN sum INTEGER NOT NULL DEFAULT 0;
UPDATE document SET sum = row_sum(id, kind, place, version, body);

ALTER TABLE change ADD COLUMN initials TEXT NOT NULL DEFAULT '';
ALTER TABLE change ADD COLUMN name TEXT NOT NULL DEFAULT '';
ALTER TABLE change ADD COLUMN typed TEXT NOT NULL DEFAULT '';
ALTER TABLE change ADD COLUMN clock TEXT NOT NULL DEFAULT '';
ALTER TABLE change ADD COLUMN sum INTEGER NOT NULL DEFAULT 0;
UPDATE change SET sum = row_sum(seq, id, doc, version, person, device, at, edit, undoes, why, ops, initials, name, typed, clock);

ALTER TABLE entry ADD COLUMN initials TEXT NOT NULL DEFAULT '';
ALTER TABLE entry ADD COLUMN name TEXT NOT NULL DEFAULT '';
ALTER TABLE entry ADD COLUMN clock TEXT NOT NULL DEFAULT '';
ALTER TABLE entry ADD COLUMN sum INTEGER NOT NULL DEFAULT 0;
UPDATE entry SET sum = row_sum(seq, id, doc, kind, person, device, at, body, initials, name, clock);

ALTER TABLE attachment ADD COLUMN sum INTEGER NOT NULL DEFAULT 0;
UPDATE attachment SET sum = row_sum(sha256, type, bytes);

-- Derived, so made anew: with a checksum, and a mark for rows that an act elsewhere has made stale.
DROP TABLE glance;
CREATE TABLE glance (
  drive TEXT PRIMARY KEY,
  place TEXT NOT NULL,
  tag TEXT NOT NULL,
  machine TEXT NOT NULL,
  location TEXT NOT NULL,
  archived INTEGER NOT NULL,
  marks TEXT NOT NULL,
  next TEXT NOT NULL,
  next_detail TEXT NOT NULL,
  next_gate TEXT NOT NULL,
  worst TEXT NOT NULL,
  worst_title TEXT NOT NULL,
  about TEXT NOT NULL,
  search TEXT NOT NULL,
  drive_version INTEGER NOT NULL,
  place_version INTEGER NOT NULL,
  rules TEXT NOT NULL,
  stale_after TEXT NOT NULL,
  stale INTEGER NOT NULL DEFAULT 0,
  sum INTEGER NOT NULL
) STRICT;
CREATE INDEX glance_place ON glance (place, archived, tag);

-- What is being brought in by an import that has not ended: its documents, which nobody sees before they are all there.
CREATE TABLE coming (id TEXT PRIMARY KEY, kind TEXT NOT NULL, place TEXT NOT NULL, version INTEGER NOT NULL, body TEXT NOT NULL) STRICT;
