-- A piece may be loaded several times: held at the end of the rack, hung again. Every loading has a reading of its own,
-- and a correction replaces it within its loading.
ALTER TABLE observation ADD COLUMN loading INTEGER NOT NULL DEFAULT 1 CHECK (loading > 0);
