-- Boards go out of use; and the plan at the saw is kept with its batch, the latest one that stands being the one in use.

ALTER TABLE board ADD COLUMN retired_by INTEGER REFERENCES action (id);

CREATE TABLE cut_plan (
    id        INTEGER PRIMARY KEY,
    batch_id  INTEGER NOT NULL REFERENCES batch (id),
    document  TEXT NOT NULL CHECK (json_valid(document)),
    seed      INTEGER NOT NULL,
    at        TEXT NOT NULL,
    action_id INTEGER NOT NULL REFERENCES action (id)
) STRICT;
CREATE INDEX cut_plan_batch ON cut_plan (batch_id);
