-- A pull that is loaded and released several times on purpose: a fall of its load does not end it.
ALTER TABLE pull ADD COLUMN in_cycles INTEGER NOT NULL DEFAULT 0 CHECK (in_cycles IN (0, 1));
