-- Proof loads, which are no strengths; what else is told of a reading (``details``); and further readings of the same
-- break (``beside`` the loading that they are of).
DROP VIEW current_observation;
CREATE TABLE observation_new (
    id               INTEGER PRIMARY KEY,
    specimen_id      INTEGER NOT NULL REFERENCES specimen (id),
    pull_id          INTEGER REFERENCES pull (id),
    setup_id         INTEGER REFERENCES rig_setup (id),
    kind             TEXT NOT NULL CHECK (kind IN ('exact', 'between', 'at_least', 'fell_apart', 'held', 'seen', 'proof', 'void')),
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
    loading          INTEGER NOT NULL DEFAULT 1 CHECK (loading > 0),
    beside           INTEGER CHECK (beside > 0),
    details          TEXT NOT NULL DEFAULT '{}' CHECK (json_valid(details)),
    replaces_id      INTEGER REFERENCES observation (id),
    action_id        INTEGER NOT NULL REFERENCES action (id),
    CHECK (kind <> 'exact' OR (low_n > 0 AND low_n = high_n)),
    CHECK (kind <> 'between' OR low_n < high_n),
    CHECK (kind <> 'at_least' OR (low_n > 0 AND high_n IS NULL)),
    CHECK (kind <> 'held' OR (low_n > 0 AND held_s IS NOT NULL)),
    CHECK (kind <> 'seen' OR (low_n IS NULL AND high_n IS NULL AND failure_mode IS NOT NULL)),
    CHECK (kind <> 'proof' OR (high_n IS NULL AND json_extract(details, '$.ended') IS NOT NULL)),
    CHECK (kind <> 'void' OR reason <> '')
) STRICT;
INSERT INTO observation_new (id, specimen_id, pull_id, setup_id, kind, low_n, high_n, held_s, first_crack_n,
    failure_mode, shares, wood_failure_pct, source, reason, note, confirmed, person, at, loading, replaces_id, action_id)
SELECT id, specimen_id, pull_id, setup_id, kind, low_n, high_n, held_s, first_crack_n,
    failure_mode, shares, wood_failure_pct, source, reason, note, confirmed, person, at, loading, replaces_id, action_id
FROM observation ORDER BY id;
DROP TABLE observation;
ALTER TABLE observation_new RENAME TO observation;
CREATE INDEX observation_specimen ON observation (specimen_id);
CREATE INDEX observation_replaces ON observation (replaces_id) WHERE replaces_id IS NOT NULL;
CREATE INDEX observation_action ON observation (action_id);
CREATE INDEX observation_beyond ON observation (setup_id) WHERE instr(confirmed, 'over capacity') > 0;
CREATE VIEW current_observation AS
SELECT o.* FROM observation o JOIN action a ON a.id = o.action_id AND a.undone_by IS NULL
WHERE NOT EXISTS (SELECT 1 FROM observation r JOIN action ra ON ra.id = r.action_id
                  WHERE r.replaces_id = o.id AND ra.undone_by IS NULL);
