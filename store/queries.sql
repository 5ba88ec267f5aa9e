-- name: next_seq
UPDATE counter SET n = n + ? WHERE name = 'seq' RETURNING n;
-- name: last_seq
SELECT n FROM counter WHERE name = 'seq';
-- name: document
SELECT id, kind, place, version, body FROM document WHERE id = ?;
-- name: documents
SELECT id, kind, place, version, body FROM document WHERE kind = ? AND (place = ? OR ? = '') ORDER BY id;
-- name: put_document
INSERT INTO document (id, kind, place, version, body) VALUES (?, ?, ?, ?, ?)
ON CONFLICT (id) DO UPDATE SET version = excluded.version, body = excluded.body;
-- name: add_change
INSERT INTO change (seq, id, doc, version, person, device, at, edit, undoes, why, ops) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?);
-- name: changes
SELECT seq, id, doc, version, person, device, at, edit, undoes, why, ops FROM change WHERE doc = ? ORDER BY seq;
-- name: recent_changes
SELECT * FROM (SELECT seq, id, doc, version, person, device, at, edit, undoes, why, ops FROM change WHERE doc = ? ORDER BY seq DESC LIMIT ?) ORDER BY seq;
-- name: change
SELECT doc FROM change WHERE id = ?;
-- name: add_entry
INSERT INTO entry (seq, id, doc, kind, person, device, at, body) VALUES (?, ?, ?, ?, ?, ?, ?, ?);
-- name: entries
SELECT seq, id, doc, kind, person, device, at, body FROM entry WHERE doc = ? ORDER BY seq;
-- name: entry
SELECT seq, id, doc, kind, person, device, at, body FROM entry WHERE id = ?;
-- name: since
SELECT seq, doc FROM change WHERE seq > ? UNION ALL SELECT seq, doc FROM entry WHERE seq > ? ORDER BY seq LIMIT 1000;
-- name: put_attachment
INSERT INTO attachment (sha256, type, bytes) VALUES (?, ?, ?) ON CONFLICT (sha256) DO NOTHING;
-- name: attachment
SELECT type, bytes FROM attachment WHERE sha256 = ?;
-- name: put_glance
INSERT OR REPLACE INTO glance (drive, place, tag, machine, location, archived, marks, next, next_detail, next_gate, worst, worst_title, about, search, drive_version, place_version, rules, stale_after)
VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?);
-- name: stale_glance
SELECT id FROM document d WHERE id = ? AND NOT EXISTS (SELECT 1 FROM glance g WHERE g.drive = d.id AND g.drive_version = d.version AND g.rules = ?
  AND g.place_version = (SELECT p.version FROM document p WHERE p.id = d.place) AND (g.stale_after = '' OR g.stale_after > ?));
-- name: stale_glances
SELECT id FROM document d WHERE kind = 'drive' AND NOT EXISTS (SELECT 1 FROM glance g WHERE g.drive = d.id AND g.drive_version = d.version AND g.rules = ?
  AND g.place_version = (SELECT p.version FROM document p WHERE p.id = d.place) AND (g.stale_after = '' OR g.stale_after > ?));
