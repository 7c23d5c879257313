-- Pieces that are made as one: sawn from a panel or a beam after gluing, or glued side by side on a backing board.
-- The parent has a code of its own, which stands for all of its pieces wherever they are still one.
CREATE TABLE parent (
    id        INTEGER PRIMARY KEY,
    code      TEXT NOT NULL UNIQUE CHECK (length(code) >= 4),
    batch_id  INTEGER NOT NULL REFERENCES batch (id),
    kind      TEXT NOT NULL CHECK (kind IN ('panel', 'beam', 'backing')),
    number    INTEGER NOT NULL CHECK (number > 0),
    action_id INTEGER NOT NULL REFERENCES action (id)
) STRICT;
CREATE INDEX parent_batch ON parent (batch_id);

ALTER TABLE specimen ADD COLUMN parent_id INTEGER REFERENCES parent (id);
CREATE INDEX specimen_parent ON specimen (parent_id) WHERE parent_id IS NOT NULL;

-- A view keeps the columns that its table had when it was made.
DROP VIEW current_specimen;
CREATE VIEW current_specimen AS
SELECT s.* FROM specimen s JOIN action a ON a.id = s.action_id AND a.undone_by IS NULL;

CREATE VIEW current_parent AS
SELECT p.* FROM parent p JOIN action a ON a.id = p.action_id AND a.undone_by IS NULL;
