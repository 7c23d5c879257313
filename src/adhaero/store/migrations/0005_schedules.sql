-- Clamps go out of use; and the schedule of a batch is kept as it was shown: the latest one that stands is in use.

ALTER TABLE clamp ADD COLUMN retired_by INTEGER REFERENCES action (id);

CREATE TABLE schedule (
    id        INTEGER PRIMARY KEY,
    batch_id  INTEGER NOT NULL REFERENCES batch (id),
    document  TEXT NOT NULL CHECK (json_valid(document)),
    at        TEXT NOT NULL,
    action_id INTEGER NOT NULL REFERENCES action (id)
) STRICT;
CREATE INDEX schedule_batch ON schedule (batch_id);
