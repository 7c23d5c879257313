-- The arm of the load when a piece was loaded: it is hung again with a longer one, and the earlier moment stays.
ALTER TABLE observation ADD COLUMN arm_mm REAL CHECK (arm_mm > 0);
