-- What a pack of glue cost, in the user's currency, and the glue in it (g): the cost of a joint follows.
ALTER TABLE bottle ADD COLUMN price REAL CHECK (price IS NULL OR price >= 0);
ALTER TABLE bottle ADD COLUMN pack_g REAL CHECK (pack_g IS NULL OR pack_g > 0);

-- That the cautions of high risk of a stage were read on a day, and which they were (a list of keys).
CREATE TABLE caution_read (
    id        INTEGER PRIMARY KEY,
    batch_id  INTEGER NOT NULL REFERENCES batch (id),
    stage     TEXT NOT NULL CHECK (stage IN ('cut', 'glue', 'break')),
    day       TEXT NOT NULL,
    keys      TEXT NOT NULL CHECK (json_valid(keys)),
    action_id INTEGER NOT NULL REFERENCES action (id)
) STRICT;
CREATE INDEX caution_read_batch ON caution_read (batch_id, stage, day);
