-- Points of a method's checklist that were looked at: for a batch under a set-up, on a day.
CREATE TABLE rig_tick (
    id        INTEGER PRIMARY KEY,
    batch_id  INTEGER NOT NULL REFERENCES batch (id),
    setup_id  INTEGER NOT NULL REFERENCES rig_setup (id),
    day       TEXT NOT NULL,
    keys      TEXT NOT NULL CHECK (json_valid(keys)),
    action_id INTEGER NOT NULL REFERENCES action (id)
) STRICT;
CREATE INDEX rig_tick_batch ON rig_tick (batch_id, setup_id, day);
