-- The whole record of the work. Rules of this schema:
--
-- * Every row that a user causes names the action that caused it. Undoing an action sets its undone_by; facts are
--   never deleted. A fact is current if its action stands and no standing fact replaces it.
-- * Numbers are in N, mm, MPa, s, g, degrees Celsius and percent, as the column's name says. Times are UTC, ISO 8601.
-- * Check constraints repeat what core checks, so that no other way in can break a rule.

CREATE TABLE setting (
    key   TEXT PRIMARY KEY,
    value TEXT NOT NULL CHECK (json_valid(value))
) STRICT;

CREATE TABLE batch (
    id          INTEGER PRIMARY KEY,
    name        TEXT NOT NULL CHECK (length(name) BETWEEN 1 AND 120),
    created_at  TEXT NOT NULL,
    cloned_from INTEGER REFERENCES batch (id)
) STRICT;

-- Who did what, when and why: the audit trail, the undo list and the memory of idempotency keys in one.
CREATE TABLE action (
    id         INTEGER PRIMARY KEY,
    batch_id   INTEGER REFERENCES batch (id),
    stage      TEXT NOT NULL CHECK (stage IN ('plan', 'cut', 'glue', 'break', 'compare', 'shop')),
    kind       TEXT NOT NULL,
    summary    TEXT NOT NULL,
    at         TEXT NOT NULL,
    person     TEXT NOT NULL DEFAULT '',
    reason     TEXT NOT NULL DEFAULT '',
    before     TEXT CHECK (before IS NULL OR json_valid(before)),
    after      TEXT CHECK (after IS NULL OR json_valid(after)),
    undoable   INTEGER NOT NULL DEFAULT 1 CHECK (undoable IN (0, 1)),
    undone_by  INTEGER REFERENCES action (id),
    undoes     INTEGER REFERENCES action (id),
    key        TEXT UNIQUE,
    request    TEXT,
    response   TEXT CHECK (response IS NULL OR json_valid(response))
) STRICT;
CREATE INDEX action_batch ON action (batch_id, id);

-- Shop ----------------------------------------------------------------------------------------------------------------

CREATE TABLE person (
    id        INTEGER PRIMARY KEY,
    name      TEXT NOT NULL UNIQUE CHECK (length(name) BETWEEN 1 AND 60),
    action_id INTEGER REFERENCES action (id)
) STRICT;

CREATE TABLE board (
    id            INTEGER PRIMARY KEY,
    label         TEXT NOT NULL UNIQUE,
    species       TEXT NOT NULL,
    source        TEXT NOT NULL DEFAULT '',
    length_mm     REAL CHECK (length_mm > 0),
    width_mm      REAL CHECK (width_mm > 0),
    thickness_mm  REAL CHECK (thickness_mm > 0),
    moisture_pct  REAL CHECK (moisture_pct BETWEEN 0 AND 200),
    density_kg_m3 REAL CHECK (density_kg_m3 > 0),
    treatment     TEXT NOT NULL DEFAULT '',
    price         REAL CHECK (price >= 0),
    currency      TEXT NOT NULL DEFAULT '',
    note          TEXT NOT NULL DEFAULT '',
    action_id     INTEGER REFERENCES action (id)
) STRICT;

CREATE TABLE board_defect (
    id        INTEGER PRIMARY KEY,
    board_id  INTEGER NOT NULL REFERENCES board (id),
    kind      TEXT NOT NULL,
    x_mm      REAL NOT NULL,
    y_mm      REAL NOT NULL,
    length_mm REAL NOT NULL CHECK (length_mm > 0),
    width_mm  REAL NOT NULL CHECK (width_mm > 0),
    note      TEXT NOT NULL DEFAULT '',
    action_id INTEGER REFERENCES action (id)
) STRICT;

CREATE TABLE bottle (
    id             INTEGER PRIMARY KEY,
    label          TEXT NOT NULL UNIQUE CHECK (length(label) BETWEEN 1 AND 80),
    family         TEXT NOT NULL,
    lot            TEXT NOT NULL DEFAULT '',
    opened_on      TEXT,
    expires_on     TEXT,
    shelf_life_d   REAL CHECK (shelf_life_d > 0),
    pack_volume_ml REAL CHECK (pack_volume_ml > 0),
    pack_mass_g    REAL CHECK (pack_mass_g > 0),
    price          REAL CHECK (price >= 0),
    currency       TEXT NOT NULL DEFAULT '',
    limits         TEXT NOT NULL DEFAULT '{}' CHECK (json_valid(limits)),
    note           TEXT NOT NULL DEFAULT '',
    action_id      INTEGER REFERENCES action (id)
) STRICT;

-- Frozen, thawed, thickened, used up: state at the moment of use follows from these.
CREATE TABLE bottle_event (
    id        INTEGER PRIMARY KEY,
    bottle_id INTEGER NOT NULL REFERENCES bottle (id),
    at        TEXT NOT NULL,
    kind      TEXT NOT NULL,
    note      TEXT NOT NULL DEFAULT '',
    action_id INTEGER REFERENCES action (id)
) STRICT;

CREATE TABLE clamp (
    id          INTEGER PRIMARY KEY,
    label       TEXT NOT NULL UNIQUE,
    kind        TEXT NOT NULL,
    count       INTEGER NOT NULL CHECK (count > 0),
    force_n     REAL CHECK (force_n > 0),
    places      INTEGER NOT NULL DEFAULT 1 CHECK (places > 0),
    jaw_mm      REAL CHECK (jaw_mm > 0),
    force_known TEXT NOT NULL DEFAULT 'estimated' CHECK (force_known IN ('measured', 'estimated', 'unknown')),
    action_id   INTEGER REFERENCES action (id)
) STRICT;

CREATE TABLE rig (
    id            INTEGER PRIMARY KEY,
    name          TEXT NOT NULL UNIQUE,
    port          TEXT NOT NULL DEFAULT '',
    measures      TEXT NOT NULL DEFAULT 'force' CHECK (measures IN ('force', 'pressure', 'mass', 'moment')),
    unit          TEXT NOT NULL DEFAULT 'N',
    capacity_n    REAL NOT NULL CHECK (capacity_n > 0),
    resolution_n  REAL NOT NULL CHECK (resolution_n > 0),
    working_share REAL NOT NULL DEFAULT 0.8 CHECK (working_share > 0 AND working_share <= 1),
    line_pattern  TEXT NOT NULL DEFAULT '',
    note          TEXT NOT NULL DEFAULT '',
    action_id     INTEGER REFERENCES action (id)
) STRICT;

CREATE TABLE calibration (
    id        INTEGER PRIMARY KEY,
    rig_id    INTEGER NOT NULL REFERENCES rig (id),
    at        TEXT NOT NULL,
    factor    REAL NOT NULL CHECK (factor > 0),
    offset_n  REAL NOT NULL DEFAULT 0,
    points    TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(points)),
    action_id INTEGER REFERENCES action (id)
) STRICT;

-- A change of fixture, load point, rig or zero starts a new set-up; every pull points to the one it was made under.
CREATE TABLE rig_setup (
    id             INTEGER PRIMARY KEY,
    rig_id         INTEGER NOT NULL REFERENCES rig (id),
    calibration_id INTEGER REFERENCES calibration (id),
    fixture        TEXT NOT NULL,
    reason         TEXT NOT NULL DEFAULT '',
    lever_ratio    REAL NOT NULL DEFAULT 1 CHECK (lever_ratio > 0),
    arm_mm         REAL CHECK (arm_mm > 0),
    tare_n         REAL NOT NULL DEFAULT 0,
    at             TEXT NOT NULL,
    action_id      INTEGER REFERENCES action (id)
) STRICT;

-- Plan ----------------------------------------------------------------------------------------------------------------

-- The plan is a document. Draft versions are kept (undo); a lock or an amendment is a version of its own with a reason.
CREATE TABLE plan_version (
    id        INTEGER PRIMARY KEY,
    batch_id  INTEGER NOT NULL REFERENCES batch (id),
    number    INTEGER NOT NULL CHECK (number > 0),
    kind      TEXT NOT NULL CHECK (kind IN ('draft', 'locked', 'amended')),
    document  TEXT NOT NULL CHECK (json_valid(document)),
    seed      INTEGER NOT NULL,
    reason    TEXT NOT NULL DEFAULT '',
    action_id INTEGER NOT NULL REFERENCES action (id),
    UNIQUE (batch_id, number)
) STRICT;

CREATE TABLE prediction (
    id           INTEGER PRIMARY KEY,
    batch_id     INTEGER NOT NULL REFERENCES batch (id),
    treatment_id INTEGER REFERENCES treatment (id),
    person       TEXT NOT NULL,
    kind         TEXT NOT NULL CHECK (kind IN ('value', 'rank', 'outcome')),
    value        TEXT NOT NULL CHECK (json_valid(value)),
    at           TEXT NOT NULL,
    action_id    INTEGER NOT NULL REFERENCES action (id)
) STRICT;

CREATE TABLE treatment (
    id         INTEGER PRIMARY KEY,
    batch_id   INTEGER NOT NULL REFERENCES batch (id),
    letter     TEXT NOT NULL,
    label      TEXT NOT NULL,
    role       TEXT NOT NULL CHECK (role IN ('joint', 'solid')),
    control    TEXT CHECK (control IN ('solid', 'plain', 'untreated', 'dry', 'time-zero', 'standard')),
    replicates INTEGER NOT NULL CHECK (replicates > 0),
    action_id  INTEGER NOT NULL REFERENCES action (id)
) STRICT;
CREATE INDEX treatment_batch ON treatment (batch_id);

-- The levels of a treatment, known and free factors alike; exactly one of text and number, or neither for 'none'.
CREATE TABLE treatment_level (
    treatment_id INTEGER NOT NULL REFERENCES treatment (id),
    position     INTEGER NOT NULL,
    factor_key   TEXT NOT NULL,
    factor_name  TEXT NOT NULL,
    text         TEXT,
    number       REAL,
    unit         TEXT NOT NULL DEFAULT '',
    PRIMARY KEY (treatment_id, factor_key),
    CHECK (text IS NULL OR number IS NULL)
) STRICT, WITHOUT ROWID;

-- Codes are unique for good: the code of a piece whose lock was undone is not given out again.
CREATE TABLE specimen (
    id           INTEGER PRIMARY KEY,
    code         TEXT NOT NULL UNIQUE CHECK (length(code) >= 4),
    alias        TEXT NOT NULL DEFAULT '',
    batch_id     INTEGER NOT NULL REFERENCES batch (id),
    treatment_id INTEGER NOT NULL REFERENCES treatment (id),
    role         TEXT NOT NULL CHECK (role IN ('joint', 'solid', 'spare', 'dummy', 'trial')),
    replicate    INTEGER NOT NULL CHECK (replicate > 0),
    break_order  INTEGER NOT NULL,
    glue_order   INTEGER NOT NULL,
    block        TEXT NOT NULL DEFAULT '',
    glue         TEXT NOT NULL DEFAULT '',
    orientation  TEXT NOT NULL DEFAULT '',
    prep         TEXT NOT NULL DEFAULT '',
    pressure_mpa REAL CHECK (pressure_mpa >= 0),
    clamp_s      REAL CHECK (clamp_s >= 0),
    cure_s       REAL CHECK (cure_s >= 0),
    action_id    INTEGER NOT NULL REFERENCES action (id),
    CHECK (role <> 'joint' OR (glue <> '' AND orientation <> '' AND prep <> ''))
) STRICT;
CREATE INDEX specimen_batch ON specimen (batch_id, break_order);
CREATE INDEX specimen_treatment ON specimen (treatment_id);

-- Both pieces of a joint; a solid piece has one. Further members (three-member laps) follow the same letters.
CREATE TABLE adherend (
    specimen_id  INTEGER NOT NULL REFERENCES specimen (id),
    side         TEXT NOT NULL CHECK (side IN ('a', 'b', 'c', 'd')),
    material     TEXT NOT NULL,
    face         TEXT NOT NULL CHECK (face IN ('long', 'end', 'angle', 'not wood')),
    angle_deg    REAL,
    rings        TEXT NOT NULL DEFAULT '',
    board_id     INTEGER REFERENCES board (id),
    board_x_mm   REAL,
    board_y_mm   REAL,
    moisture_pct REAL,
    PRIMARY KEY (specimen_id, side)
) STRICT, WITHOUT ROWID;

-- An ordered list of what was done to a face: machining, agents, coats, waits.
CREATE TABLE surface_step (
    id          INTEGER PRIMARY KEY,
    specimen_id INTEGER NOT NULL REFERENCES specimen (id),
    side        TEXT NOT NULL,
    position    INTEGER NOT NULL,
    step        TEXT NOT NULL,
    grit        INTEGER,
    amount_g_m2 REAL,
    dilution    TEXT NOT NULL DEFAULT '',
    wait_s      REAL,
    at          TEXT,
    action_id   INTEGER NOT NULL REFERENCES action (id)
) STRICT;

-- Cut -----------------------------------------------------------------------------------------------------------------

CREATE TABLE measurement (
    id          INTEGER PRIMARY KEY,
    specimen_id INTEGER NOT NULL REFERENCES specimen (id),
    quantity    TEXT NOT NULL,
    value       REAL NOT NULL,
    typed       TEXT NOT NULL DEFAULT '',
    place       TEXT NOT NULL DEFAULT '',
    method      TEXT NOT NULL DEFAULT '',
    at          TEXT NOT NULL,
    replaces_id INTEGER REFERENCES measurement (id),
    action_id   INTEGER NOT NULL REFERENCES action (id)
) STRICT;
CREATE INDEX measurement_specimen ON measurement (specimen_id, quantity);
CREATE INDEX measurement_replaces ON measurement (replaces_id) WHERE replaces_id IS NOT NULL;

-- Glue ----------------------------------------------------------------------------------------------------------------

CREATE TABLE glueup (
    id           INTEGER PRIMARY KEY,
    batch_id     INTEGER NOT NULL REFERENCES batch (id),
    number       INTEGER NOT NULL,
    started_at   TEXT NOT NULL,
    ended_at     TEXT,
    person       TEXT NOT NULL DEFAULT '',
    air_c        REAL CHECK (air_c BETWEEN -40 AND 60),
    humidity_pct REAL CHECK (humidity_pct BETWEEN 0 AND 100),
    bottle_id    INTEGER REFERENCES bottle (id),
    bottle       TEXT NOT NULL DEFAULT '',
    force_n      REAL CHECK (force_n >= 0),
    clamps       INTEGER NOT NULL DEFAULT 1 CHECK (clamps > 0),
    force_known  TEXT NOT NULL DEFAULT 'estimated' CHECK (force_known IN ('measured', 'estimated', 'unknown')),
    spread_g_m2  REAL CHECK (spread_g_m2 >= 0),
    faces        TEXT NOT NULL DEFAULT 'one' CHECK (faces IN ('one', 'both')),
    note         TEXT NOT NULL DEFAULT '',
    action_id    INTEGER NOT NULL REFERENCES action (id)
) STRICT;
CREATE INDEX glueup_batch ON glueup (batch_id);

CREATE TABLE mix (
    id        INTEGER PRIMARY KEY,
    glueup_id INTEGER NOT NULL REFERENCES glueup (id),
    mixed_at  TEXT NOT NULL,
    ratio     TEXT NOT NULL DEFAULT '',
    deviation TEXT NOT NULL DEFAULT '',
    action_id INTEGER NOT NULL REFERENCES action (id)
) STRICT;

-- A specimen's part in a glue-up; what is NULL is as for the whole glue-up, what is not is an exception.
CREATE TABLE glueup_specimen (
    id           INTEGER PRIMARY KEY,
    glueup_id    INTEGER NOT NULL REFERENCES glueup (id),
    specimen_id  INTEGER NOT NULL REFERENCES specimen (id),
    position     INTEGER NOT NULL,
    force_n      REAL CHECK (force_n >= 0),
    clamps       INTEGER CHECK (clamps > 0),
    spread_g_m2  REAL CHECK (spread_g_m2 >= 0),
    bottle       TEXT,
    note         TEXT NOT NULL DEFAULT '',
    replaces_id  INTEGER REFERENCES glueup_specimen (id),
    action_id    INTEGER NOT NULL REFERENCES action (id)
) STRICT;
CREATE INDEX glueup_specimen_specimen ON glueup_specimen (specimen_id);
CREATE INDEX glueup_specimen_replaces ON glueup_specimen (replaces_id) WHERE replaces_id IS NOT NULL;

-- Everything else that happens to a piece, with its time: spread, closed, clamped, unclamped, conditioning in and out,
-- inspection, deviation, fastener, late step, exclusion from a rule. ``value`` holds what the kind needs.
CREATE TABLE specimen_event (
    id          INTEGER PRIMARY KEY,
    specimen_id INTEGER NOT NULL REFERENCES specimen (id),
    kind        TEXT NOT NULL,
    at          TEXT NOT NULL,
    value       TEXT NOT NULL DEFAULT '{}' CHECK (json_valid(value)),
    note        TEXT NOT NULL DEFAULT '',
    replaces_id INTEGER REFERENCES specimen_event (id),
    action_id   INTEGER NOT NULL REFERENCES action (id)
) STRICT;
CREATE INDEX specimen_event_specimen ON specimen_event (specimen_id, kind);
CREATE INDEX specimen_event_replaces ON specimen_event (replaces_id) WHERE replaces_id IS NOT NULL;

-- Climate of a place over time: a shelf, a bath, the shop.
CREATE TABLE climate (
    id           INTEGER PRIMARY KEY,
    place        TEXT NOT NULL,
    at           TEXT NOT NULL,
    air_c        REAL,
    humidity_pct REAL,
    action_id    INTEGER NOT NULL REFERENCES action (id)
) STRICT;

-- Break ---------------------------------------------------------------------------------------------------------------

-- One loading attempt. Its state is the device's, not the user's, and so the one thing here that is updated.
CREATE TABLE pull (
    id          INTEGER PRIMARY KEY,
    specimen_id INTEGER NOT NULL REFERENCES specimen (id),
    setup_id    INTEGER NOT NULL REFERENCES rig_setup (id),
    number      INTEGER NOT NULL CHECK (number > 0),
    state       TEXT NOT NULL CHECK (state IN ('open', 'ended', 'interrupted', 'discarded')),
    started_at  TEXT NOT NULL,
    ended_at    TEXT,
    proposal    TEXT CHECK (proposal IS NULL OR json_valid(proposal)),
    action_id   INTEGER NOT NULL REFERENCES action (id)
) STRICT;
CREATE INDEX pull_specimen ON pull (specimen_id);
CREATE UNIQUE INDEX one_open_pull ON pull (state) WHERE state = 'open';

-- Raw signal as it came in: little-endian doubles, triples of (seconds since the start of the pull, N, mm or NaN).
CREATE TABLE curve_chunk (
    pull_id  INTEGER NOT NULL REFERENCES pull (id),
    sequence INTEGER NOT NULL,
    samples  BLOB NOT NULL CHECK (length(samples) % 24 = 0),
    PRIMARY KEY (pull_id, sequence)
) STRICT;

CREATE TABLE observation (
    id               INTEGER PRIMARY KEY,
    specimen_id      INTEGER NOT NULL REFERENCES specimen (id),
    pull_id          INTEGER REFERENCES pull (id),
    setup_id         INTEGER REFERENCES rig_setup (id),
    kind             TEXT NOT NULL CHECK (kind IN ('exact', 'between', 'at_least', 'fell_apart', 'held', 'void')),
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
    tags             TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(tags)),
    person           TEXT NOT NULL DEFAULT '',
    at               TEXT NOT NULL,
    counts           INTEGER NOT NULL DEFAULT 1 CHECK (counts IN (0, 1)),
    replaces_id      INTEGER REFERENCES observation (id),
    action_id        INTEGER NOT NULL REFERENCES action (id),
    CHECK (kind <> 'exact' OR (low_n > 0 AND low_n = high_n)),
    CHECK (kind <> 'between' OR low_n < high_n),
    CHECK (kind <> 'at_least' OR (low_n > 0 AND high_n IS NULL)),
    CHECK (kind <> 'held' OR (low_n > 0 AND held_s IS NOT NULL)),
    CHECK (kind <> 'void' OR reason <> '')
) STRICT;
CREATE INDEX observation_specimen ON observation (specimen_id);
CREATE INDEX observation_replaces ON observation (replaces_id) WHERE replaces_id IS NOT NULL;

-- The weights put on and taken off, or any other running total of a pull.
CREATE TABLE load_step (
    id        INTEGER PRIMARY KEY,
    pull_id   INTEGER NOT NULL REFERENCES pull (id),
    sequence  INTEGER NOT NULL,
    change_n  REAL NOT NULL,
    total_n   REAL NOT NULL,
    at        TEXT NOT NULL,
    action_id INTEGER NOT NULL REFERENCES action (id)
) STRICT;

-- Where wood gave way, cell by cell of a grid over a broken face; one row an assessment.
CREATE TABLE face_map (
    id          INTEGER PRIMARY KEY,
    specimen_id INTEGER NOT NULL REFERENCES specimen (id),
    side        TEXT NOT NULL,
    columns     INTEGER NOT NULL CHECK (columns > 0),
    cells       TEXT NOT NULL CHECK (json_valid(cells)),
    assessor    TEXT NOT NULL DEFAULT '',
    at          TEXT NOT NULL,
    replaces_id INTEGER REFERENCES face_map (id),
    action_id   INTEGER NOT NULL REFERENCES action (id)
) STRICT;

CREATE TABLE photo (
    id          INTEGER PRIMARY KEY,
    specimen_id INTEGER REFERENCES specimen (id),
    board_id    INTEGER REFERENCES board (id),
    moment      TEXT NOT NULL DEFAULT '',
    file_name   TEXT NOT NULL,
    media_type  TEXT NOT NULL,
    bytes       BLOB NOT NULL,
    at          TEXT NOT NULL,
    action_id   INTEGER NOT NULL REFERENCES action (id)
) STRICT;

-- Compare -------------------------------------------------------------------------------------------------------------

CREATE TABLE exclusion (
    id          INTEGER PRIMARY KEY,
    specimen_id INTEGER NOT NULL REFERENCES specimen (id),
    reason      TEXT NOT NULL CHECK (length(reason) > 0),
    person      TEXT NOT NULL DEFAULT '',
    at          TEXT NOT NULL,
    action_id   INTEGER NOT NULL REFERENCES action (id)
) STRICT;

-- Statements of the user, thresholds and pass rules, comments and ideas: each tied to its batch, as a document.
CREATE TABLE remark (
    id          INTEGER PRIMARY KEY,
    batch_id    INTEGER NOT NULL REFERENCES batch (id),
    specimen_id INTEGER REFERENCES specimen (id),
    kind        TEXT NOT NULL CHECK (kind IN ('claim', 'statement', 'threshold', 'comment', 'idea', 'disclosure')),
    body        TEXT NOT NULL CHECK (json_valid(body)),
    at          TEXT NOT NULL,
    replaces_id INTEGER REFERENCES remark (id),
    action_id   INTEGER NOT NULL REFERENCES action (id)
) STRICT;

-- What stands now -----------------------------------------------------------------------------------------------------

CREATE VIEW standing_action AS SELECT id FROM action WHERE undone_by IS NULL;

CREATE VIEW current_measurement AS
SELECT m.* FROM measurement m
WHERE m.action_id IN standing_action
  AND m.id NOT IN (SELECT r.replaces_id FROM measurement r WHERE r.replaces_id IS NOT NULL AND r.action_id IN standing_action);

CREATE VIEW current_glueup AS SELECT g.* FROM glueup g WHERE g.action_id IN standing_action;

CREATE VIEW current_glueup_specimen AS
SELECT m.* FROM glueup_specimen m
WHERE m.action_id IN standing_action
  AND m.id NOT IN (SELECT r.replaces_id FROM glueup_specimen r WHERE r.replaces_id IS NOT NULL AND r.action_id IN standing_action);

CREATE VIEW current_specimen_event AS
SELECT m.* FROM specimen_event m
WHERE m.action_id IN standing_action
  AND m.id NOT IN (SELECT r.replaces_id FROM specimen_event r WHERE r.replaces_id IS NOT NULL AND r.action_id IN standing_action);

CREATE VIEW current_observation AS
SELECT o.* FROM observation o
WHERE o.action_id IN standing_action
  AND o.id NOT IN (SELECT r.replaces_id FROM observation r WHERE r.replaces_id IS NOT NULL AND r.action_id IN standing_action);

CREATE VIEW current_specimen AS SELECT s.* FROM specimen s WHERE s.action_id IN standing_action;
