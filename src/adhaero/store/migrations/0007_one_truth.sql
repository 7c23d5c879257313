-- One truth per fact. Readings keep the range of the rig that they were made with; which set-up is in use, and every
-- setting, is an action like any other; a treatment that was left out is not run, not void; labels of things in the
-- shop are free again when these go out of use, and come back with an undo. Tables that nothing used yet leave.

DROP VIEW current_observation;
DROP TABLE person;
DROP TABLE prediction;
DROP TABLE load_step;
DROP TABLE face_map;
DROP TABLE photo;
DROP TABLE exclusion;

-- A revision of how a rig is set up, with the range it had then; readings point to the one they were made under.
CREATE TABLE rig_setup_new (
    id            INTEGER PRIMARY KEY,
    rig_id        INTEGER NOT NULL REFERENCES rig (id),
    fixture       TEXT NOT NULL,
    reason        TEXT NOT NULL DEFAULT '',
    capacity_n    REAL NOT NULL CHECK (capacity_n > 0),
    resolution_n  REAL NOT NULL CHECK (resolution_n > 0),
    working_share REAL NOT NULL CHECK (working_share > 0 AND working_share <= 1),
    at            TEXT NOT NULL,
    action_id     INTEGER REFERENCES action (id)
) STRICT;
INSERT INTO rig_setup_new
SELECT s.id, s.rig_id, s.fixture, s.reason, r.capacity_n, r.resolution_n, r.working_share, s.at, s.action_id
FROM rig_setup s JOIN rig r ON r.id = s.rig_id;

-- Which set-up is in use, and where its rig is connected: the latest row that stands.
CREATE TABLE rig_use (
    id        INTEGER PRIMARY KEY,
    setup_id  INTEGER NOT NULL REFERENCES rig_setup (id),
    port      TEXT NOT NULL DEFAULT '',
    at        TEXT NOT NULL,
    action_id INTEGER REFERENCES action (id)
) STRICT;
INSERT INTO rig_use SELECT s.id, s.id, r.port, s.at, s.action_id FROM rig_setup s JOIN rig r ON r.id = s.rig_id;

DROP TABLE rig_setup;
DROP TABLE calibration;
ALTER TABLE rig_setup_new RENAME TO rig_setup;

CREATE TABLE rig_new (
    id        INTEGER PRIMARY KEY,
    name      TEXT NOT NULL UNIQUE CHECK (length(name) BETWEEN 1 AND 80),
    action_id INTEGER REFERENCES action (id)
) STRICT;
INSERT INTO rig_new SELECT id, name, action_id FROM rig;
DROP TABLE rig;
ALTER TABLE rig_new RENAME TO rig;

CREATE TABLE setting_new (
    id        INTEGER PRIMARY KEY,
    key       TEXT NOT NULL,
    value     TEXT NOT NULL CHECK (json_valid(value)),
    action_id INTEGER REFERENCES action (id)
) STRICT;
INSERT INTO setting_new (key, value)
SELECT CASE key WHEN 'bench' THEN 'working-hours' ELSE key END, value FROM setting;
DROP TABLE setting;
ALTER TABLE setting_new RENAME TO setting;
CREATE INDEX setting_key ON setting (key);

INSERT INTO specimen_event (specimen_id, kind, at, note, action_id)
SELECT specimen_id, 'not run', at, substr(reason, 10), action_id FROM observation
WHERE kind = 'void' AND reason LIKE 'not run: _%'
  AND id NOT IN (SELECT replaces_id FROM observation WHERE replaces_id IS NOT NULL);

-- A void reading keeps its load. ``confirmed`` holds what was asked before the reading was saved, and was so.
CREATE TABLE observation_new (
    id               INTEGER PRIMARY KEY,
    specimen_id      INTEGER NOT NULL REFERENCES specimen (id),
    pull_id          INTEGER REFERENCES pull (id),
    setup_id         INTEGER REFERENCES rig_setup (id),
    kind             TEXT NOT NULL CHECK (kind IN ('exact', 'between', 'at_least', 'fell_apart', 'held', 'seen', 'void')),
    low_n            REAL CHECK (low_n BETWEEN 0 AND 1000000),
    high_n           REAL CHECK (high_n BETWEEN 0 AND 1000000),
    held_s           REAL CHECK (held_s >= 0),
    first_crack_n    REAL CHECK (first_crack_n >= 0),
    failure_mode     TEXT,
    shares           TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(shares)),
    wood_failure_pct REAL CHECK (wood_failure_pct BETWEEN 0 AND 100),
    source           TEXT NOT NULL CHECK (source IN ('rig', 'typed', 'weights', 'vessel', 'file')),
    reason           TEXT NOT NULL DEFAULT '',
    note             TEXT NOT NULL DEFAULT '',
    confirmed        TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(confirmed)),
    person           TEXT NOT NULL DEFAULT '',
    at               TEXT NOT NULL,
    replaces_id      INTEGER REFERENCES observation (id),
    action_id        INTEGER NOT NULL REFERENCES action (id),
    CHECK (kind <> 'exact' OR (low_n > 0 AND low_n = high_n)),
    CHECK (kind <> 'between' OR low_n < high_n),
    CHECK (kind <> 'at_least' OR (low_n > 0 AND high_n IS NULL)),
    CHECK (kind <> 'held' OR (low_n > 0 AND held_s IS NOT NULL)),
    CHECK (kind <> 'seen' OR (low_n IS NULL AND high_n IS NULL AND failure_mode IS NOT NULL)),
    CHECK (kind <> 'void' OR reason <> '')
) STRICT;
INSERT INTO observation_new (id, specimen_id, pull_id, setup_id, kind, low_n, high_n, held_s, first_crack_n,
    failure_mode, shares, wood_failure_pct, source, reason, note, person, at, replaces_id, action_id)
SELECT id, specimen_id, pull_id, setup_id, kind, low_n, high_n, held_s, first_crack_n,
    failure_mode, shares, wood_failure_pct, source, reason, note, person, at, replaces_id, action_id
FROM observation
WHERE NOT (kind = 'void' AND reason LIKE 'not run: _%'
           AND id NOT IN (SELECT replaces_id FROM observation WHERE replaces_id IS NOT NULL))
ORDER BY id;
DROP TABLE observation;
ALTER TABLE observation_new RENAME TO observation;
CREATE INDEX observation_specimen ON observation (specimen_id);
CREATE INDEX observation_replaces ON observation (replaces_id) WHERE replaces_id IS NOT NULL;
CREATE INDEX observation_action ON observation (action_id);
CREATE VIEW current_observation AS
SELECT o.* FROM observation o JOIN action a ON a.id = o.action_id AND a.undone_by IS NULL
WHERE NOT EXISTS (SELECT 1 FROM observation r JOIN action ra ON ra.id = r.action_id
                  WHERE r.replaces_id = o.id AND ra.undone_by IS NULL);

CREATE TABLE board_new (
    id            INTEGER PRIMARY KEY,
    label         TEXT NOT NULL,
    species       TEXT NOT NULL,
    source        TEXT NOT NULL DEFAULT '',
    length_mm     REAL CHECK (length_mm > 0),
    width_mm      REAL CHECK (width_mm > 0),
    thickness_mm  REAL CHECK (thickness_mm > 0),
    moisture_pct  REAL CHECK (moisture_pct BETWEEN 0 AND 200),
    density_kg_m3 REAL CHECK (density_kg_m3 > 0),
    price         REAL CHECK (price >= 0),
    note          TEXT NOT NULL DEFAULT '',
    action_id     INTEGER REFERENCES action (id),
    retired_by    INTEGER REFERENCES action (id)
) STRICT;
INSERT INTO board_new SELECT id, replace(label, ' (gone ' || id || ')', ''), species, source, length_mm, width_mm,
    thickness_mm, moisture_pct, density_kg_m3, price, note, action_id, retired_by FROM board;
DROP TABLE board;
ALTER TABLE board_new RENAME TO board;

CREATE TABLE bottle_new (
    id         INTEGER PRIMARY KEY,
    label      TEXT NOT NULL CHECK (length(label) BETWEEN 1 AND 80),
    family     TEXT NOT NULL,
    lot        TEXT NOT NULL DEFAULT '',
    opened_on  TEXT,
    expires_on TEXT,
    limits     TEXT NOT NULL DEFAULT '{}' CHECK (json_valid(limits)),
    note       TEXT NOT NULL DEFAULT '',
    action_id  INTEGER REFERENCES action (id)
) STRICT;
INSERT INTO bottle_new SELECT id, label, family, lot, opened_on, expires_on, limits, note, action_id FROM bottle;
DROP TABLE bottle;
ALTER TABLE bottle_new RENAME TO bottle;

CREATE TABLE clamp_new (
    id          INTEGER PRIMARY KEY,
    label       TEXT NOT NULL,
    kind        TEXT NOT NULL,
    count       INTEGER NOT NULL CHECK (count > 0),
    force_n     REAL CHECK (force_n > 0),
    places      INTEGER NOT NULL DEFAULT 1 CHECK (places > 0),
    jaw_mm      REAL CHECK (jaw_mm > 0),
    force_known TEXT NOT NULL DEFAULT 'estimated' CHECK (force_known IN ('measured', 'estimated', 'unknown')),
    known_by    TEXT NOT NULL DEFAULT '',
    caul_mm     REAL CHECK (caul_mm >= 0),
    action_id   INTEGER REFERENCES action (id),
    retired_by  INTEGER REFERENCES action (id)
) STRICT;
INSERT INTO clamp_new SELECT id, replace(label, ' (gone ' || id || ')', ''), kind, count, force_n, places, jaw_mm,
    force_known, known_by, caul_mm, action_id, retired_by FROM clamp;
DROP TABLE clamp;
ALTER TABLE clamp_new RENAME TO clamp;
