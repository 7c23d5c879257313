-- What people guess before the first break: sealed until then, each with its time.
CREATE TABLE guess (
    id        INTEGER PRIMARY KEY,
    batch_id  INTEGER NOT NULL REFERENCES batch (id),
    person    TEXT NOT NULL CHECK (length(person) BETWEEN 1 AND 60),
    how       TEXT NOT NULL CHECK (how IN ('load', 'share', 'rank', 'outcome')),
    value     TEXT NOT NULL CHECK (json_valid(value)),
    at        TEXT NOT NULL,
    action_id INTEGER NOT NULL REFERENCES action (id)
) STRICT;
CREATE INDEX guess_batch ON guess (batch_id);
