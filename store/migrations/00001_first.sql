-- +goose Up
CREATE TABLE counter (name TEXT PRIMARY KEY, n INTEGER NOT NULL) STRICT;
INSERT INTO counter VALUES ('seq', 0);

CREATE TABLE document (
  id TEXT PRIMARY KEY,
  kind TEXT NOT NULL,
  place TEXT NOT NULL,
  version INTEGER NOT NULL,
  body TEXT NOT NULL
) STRICT;
CREATE INDEX document_place ON document (place, kind);

-- Every edit of a document. The body can be rebuilt from its changes.
CREATE TABLE change (
  seq INTEGER PRIMARY KEY,
  id TEXT NOT NULL UNIQUE,
  doc TEXT NOT NULL,
  version INTEGER NOT NULL,
  person TEXT NOT NULL,
  device TEXT NOT NULL,
  at TEXT NOT NULL,
  edit TEXT NOT NULL,
  undoes TEXT NOT NULL,
  why TEXT NOT NULL,
  ops TEXT NOT NULL
) STRICT;
CREATE INDEX change_doc ON change (doc, seq);

-- Append-only.
CREATE TABLE entry (
  seq INTEGER PRIMARY KEY,
  id TEXT NOT NULL UNIQUE,
  doc TEXT NOT NULL,
  kind TEXT NOT NULL,
  person TEXT NOT NULL,
  device TEXT NOT NULL,
  at TEXT NOT NULL,
  body TEXT NOT NULL
) STRICT;
CREATE INDEX entry_doc ON entry (doc, seq);

CREATE TABLE attachment (sha256 TEXT PRIMARY KEY, type TEXT NOT NULL, bytes BLOB NOT NULL) STRICT;

-- Derived: what a row of the Yard shows. May be dropped and rebuilt.
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
  stale_after TEXT NOT NULL
) STRICT;
CREATE INDEX glance_place ON glance (place, archived, tag);
