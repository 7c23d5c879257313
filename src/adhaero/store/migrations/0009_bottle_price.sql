-- What a pack of glue cost, in the user's currency, and the glue in it (g): the cost of a joint follows.
ALTER TABLE bottle ADD COLUMN price REAL CHECK (price IS NULL OR price >= 0);
ALTER TABLE bottle ADD COLUMN pack_g REAL CHECK (pack_g IS NULL OR pack_g > 0);
