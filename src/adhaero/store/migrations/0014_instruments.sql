-- What a rig measures and how the load on the piece follows from it (JSON; empty: it shows newtons), with its
-- calibration; and how the lines of a foreign indicator are read (empty: the rig's own protocol).
ALTER TABLE rig_setup ADD COLUMN instrument TEXT NOT NULL DEFAULT '{}' CHECK (json_valid(instrument));
ALTER TABLE rig_setup ADD COLUMN pattern TEXT NOT NULL DEFAULT '';

-- What was seen of a rig: a check weight read, or looked over after an overload.
CREATE TABLE rig_event (
    id        INTEGER PRIMARY KEY,
    rig_id    INTEGER NOT NULL REFERENCES rig (id),
    setup_id  INTEGER NOT NULL REFERENCES rig_setup (id),
    kind      TEXT NOT NULL CHECK (kind IN ('check', 'inspected')),
    known_n   REAL CHECK (known_n > 0),
    shown     REAL,
    note      TEXT NOT NULL DEFAULT '',
    person    TEXT NOT NULL DEFAULT '',
    at        TEXT NOT NULL,
    action_id INTEGER NOT NULL REFERENCES action (id),
    CHECK (kind <> 'check' OR (known_n IS NOT NULL AND shown IS NOT NULL))
) STRICT;
CREATE INDEX rig_event_rig ON rig_event (rig_id, at);

-- The few times when a rig was at the end of its range, found without reading every pull.
CREATE INDEX pull_at_the_end ON pull (setup_id) WHERE json_extract(proposal, '$.bound_by') = 'range';
CREATE INDEX observation_beyond ON observation (setup_id) WHERE instr(confirmed, 'over capacity') > 0;
