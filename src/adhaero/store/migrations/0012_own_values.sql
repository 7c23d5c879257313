-- Values of properties that a plan defines for itself. The subject is a piece's code (a face: with its half), the label
-- of a board or of a bottle. The last one of a subject stands.
CREATE TABLE own_value (
    id        INTEGER PRIMARY KEY,
    batch_id  INTEGER NOT NULL REFERENCES batch (id),
    property  TEXT NOT NULL,
    subject   TEXT NOT NULL CHECK (length(subject) BETWEEN 1 AND 80),
    number    REAL,
    grade     TEXT NOT NULL DEFAULT '',
    at        TEXT NOT NULL,
    action_id INTEGER NOT NULL REFERENCES action (id)
) STRICT;
CREATE INDEX own_value_batch ON own_value (batch_id, property, subject);
