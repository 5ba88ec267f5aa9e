-- name: next_seq
UPDATE counter SET n = n + ? WHERE name = 'seq' RETURNING n;
-- name: last_seq
SELECT n FROM counter WHERE name = 'seq';
-- name: document
SELECT id, kind, place, version, body, sum = row_sum(id, kind, place, version, body) FROM document WHERE id = ?;
-- name: documents
SELECT id, kind, place, version, body, sum = row_sum(id, kind, place, version, body) FROM document WHERE kind = ? AND (place = ? OR ? = '') ORDER BY id;
-- name: document_ids
SELECT id FROM document WHERE kind = ? AND place = ? ORDER BY id;
-- name: drives_by_family
SELECT id, json_extract(body, '$.tag'), json_extract(body, '$.rating.dialect') AS family FROM document
WHERE kind = 'drive' AND place = ? AND family <> '' AND COALESCE(json_extract(body, '$.archived'), 0) = 0 ORDER BY family, 2, id;
-- name: shown_rows
SELECT json_extract(e.body, '$.code') AS code, min(coalesce(json_extract(d.body, '$.tag'), '')) FROM document AS d
JOIN document AS p ON p.id = d.place AND coalesce(json_extract(p.body, '$.kind'), '') <> 'simulated'
JOIN entry AS e ON e.doc = d.id
WHERE d.kind = 'drive' AND d.id <> ? AND json_extract(d.body, '$.rating.dialect') = ? AND coalesce(json_extract(d.body, '$.rating.dialect_version'), '') = ?
AND (e.kind = 'reading' AND json_extract(e.body, '$.how') <> 'eye' AND json_extract(e.body, '$.steps') IS NOT NULL
OR e.kind = 'write' AND json_extract(e.body, '$.read_back') IS NOT NULL)
GROUP BY code;
-- name: put_document
INSERT INTO document (id, kind, place, version, body, sum) VALUES (?1, ?2, ?3, ?4, ?5, row_sum(?1, ?2, ?3, ?4, ?5))
ON CONFLICT (id) DO UPDATE SET version = excluded.version, body = excluded.body, sum = row_sum(document.id, document.kind, document.place, excluded.version, excluded.body);
-- name: put_coming
INSERT OR REPLACE INTO coming (id, kind, place, version, body) VALUES (?, ?, ?, ?, ?);
-- name: all_came
INSERT INTO document (id, kind, place, version, body, sum) SELECT id, kind, place, version, body, row_sum(id, kind, place, version, body) FROM coming;
-- name: forget_changes
DELETE FROM change WHERE doc IN (SELECT id FROM coming);
-- name: forget_entries
DELETE FROM entry WHERE doc IN (SELECT id FROM coming);
-- name: forget_coming
DELETE FROM coming;
-- name: is_coming
SELECT id FROM coming WHERE id = ?;
-- name: add_change
INSERT INTO change (seq, id, doc, version, person, device, at, edit, undoes, why, ops, initials, name, typed, clock, sum)
VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, ?12, ?13, ?14, ?15, row_sum(?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, ?12, ?13, ?14, ?15));
-- name: changes
SELECT seq, id, doc, version, person, device, at, edit, undoes, why, ops, initials, name, typed, clock, sum = row_sum(seq, id, doc, version, person, device, at, edit, undoes, why, ops, initials, name, typed, clock)
FROM change WHERE doc = ? AND seq > ? AND seq <= ? ORDER BY seq;
-- name: extent_of_changes
SELECT count(*), coalesce(max(seq), 0) FROM change WHERE doc = ?;
-- name: change
SELECT seq, id, doc, version, person, device, at, edit, undoes, why, ops, initials, name, typed, clock, sum = row_sum(seq, id, doc, version, person, device, at, edit, undoes, why, ops, initials, name, typed, clock)
FROM change WHERE id = ?;
-- name: add_entry
INSERT INTO entry (seq, id, doc, kind, person, device, at, body, initials, name, clock, sum)
VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, row_sum(?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11));
-- name: entries
SELECT seq, id, doc, kind, person, device, at, body, initials, name, clock, sum = row_sum(seq, id, doc, kind, person, device, at, body, initials, name, clock) FROM entry WHERE doc = ? AND seq > ? AND seq <= ? ORDER BY seq;
-- name: extent_of_entries
SELECT count(*), coalesce(max(seq), 0) FROM entry WHERE doc = ?;
-- name: entry
SELECT seq, id, doc, kind, person, device, at, body, initials, name, clock, sum = row_sum(seq, id, doc, kind, person, device, at, body, initials, name, clock) FROM entry WHERE id = ?;
-- name: since
SELECT seq, doc FROM change WHERE seq > ? UNION ALL SELECT seq, doc FROM entry WHERE seq > ? ORDER BY seq LIMIT 1000;
-- name: newest_record
SELECT max(coalesce((SELECT at FROM entry ORDER BY seq DESC LIMIT 1), ''), coalesce((SELECT at FROM change ORDER BY seq DESC LIMIT 1), ''));
-- name: last_of
SELECT max((SELECT coalesce(max(seq), 0) FROM change WHERE doc = ?), (SELECT coalesce(max(seq), 0) FROM entry WHERE doc = ?));
-- name: put_attachment
INSERT INTO attachment (sha256, type, bytes, sum) VALUES (?1, ?2, ?3, row_sum(?1, ?2, ?3)) ON CONFLICT (sha256) DO NOTHING;
-- name: attachment
SELECT type, bytes, sum = row_sum(sha256, type, bytes) FROM attachment WHERE sha256 = ?;
-- name: has_attachment
SELECT length(bytes) FROM attachment WHERE sha256 = ?;
-- name: put_glance
INSERT OR REPLACE INTO glance (drive, place, tag, machine, location, archived, marks, next, next_detail, next_gate, worst, worst_title, about, search, drive_version, place_version, rules, stale_after, stale, sum)
VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, ?12, ?13, ?14, ?15, ?16, ?17, ?18, 0, row_sum(?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, ?12, ?13, ?14, ?15, ?16, ?17, ?18));
-- name: drop_damaged_glances
DELETE FROM glance WHERE sum <> row_sum(drive, place, tag, machine, location, archived, marks, next, next_detail, next_gate, worst, worst_title, about, search, drive_version, place_version, rules, stale_after);
-- name: stale_by_supplies
UPDATE glance SET stale = 1 WHERE place = ?1 AND drive IN (SELECT d.id FROM document d, json_each(d.body, '$.supplies') s
  WHERE d.kind = 'drive' AND d.place = ?1 AND s.key IN (SELECT value FROM json_each(?2)));
-- name: worked_on
SELECT DISTINCT d.id FROM document d, json_each(d.body, '$.supplies') s WHERE d.kind = 'drive' AND d.place = ?1 AND s.value AND s.key IN (SELECT value FROM json_each(?2))
  AND EXISTS (SELECT 1 FROM entry e WHERE e.doc = d.id AND e.at >= ?3) ORDER BY d.id;
-- name: stale_by_circuits
UPDATE glance SET stale = 1 WHERE place = ?1 AND drive IN (SELECT d.id FROM document d
  WHERE d.kind = 'drive' AND d.place = ?1 AND json_extract(d.body, '$.stop.circuit') IN (SELECT value FROM json_each(?2)));
-- name: stale_by_tag
UPDATE glance INDEXED BY glance_tags SET stale = 1 WHERE place = ?2 AND tag COLLATE NOCASE IN (?3, (SELECT tag FROM glance WHERE drive = ?1)) AND tag <> '' AND drive <> ?1
  AND NOT EXISTS (SELECT 1 FROM glance WHERE drive = ?1 AND tag = ?3 AND archived = ?4);
-- name: same_tag
SELECT machine FROM glance INDEXED BY glance_tags WHERE place = ?1 AND tag = ?2 COLLATE NOCASE AND archived = 0 AND drive <> ?3 ORDER BY drive LIMIT 3;
-- name: stale_glance
SELECT id FROM document d WHERE id = ? AND NOT EXISTS (SELECT 1 FROM glance g WHERE g.drive = d.id AND g.stale = 0 AND g.drive_version = d.version AND g.rules = ?
  AND g.place_version = (SELECT p.version FROM document p WHERE p.id = d.place) AND (g.stale_after = '' OR g.stale_after > ?));
-- name: stale_glances
SELECT d.id FROM document d INDEXED BY document_heads LEFT JOIN document p ON p.id = d.place LEFT JOIN glance g INDEXED BY glance_heads ON g.drive = d.id
WHERE d.kind = 'drive' AND (d.place = ?1 OR ?1 = '') AND (g.drive IS NULL OR g.stale <> 0 OR g.drive_version <> d.version OR g.rules <> ?2
  OR g.place_version IS NOT p.version OR g.stale_after <> '' AND g.stale_after <= ?3);
