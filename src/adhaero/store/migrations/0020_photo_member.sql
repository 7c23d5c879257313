-- Of which member of a joint (A, B, C) a photo is; empty for the whole.
ALTER TABLE photo ADD COLUMN member TEXT NOT NULL DEFAULT '' CHECK (member IN ('', 'A', 'B', 'C'));
