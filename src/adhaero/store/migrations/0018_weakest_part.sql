-- Where the load acts, and the part of rig and fixture that bears least, which is the limit whatever the cell can read.
ALTER TABLE rig_setup ADD COLUMN load_point TEXT NOT NULL DEFAULT '';
ALTER TABLE rig_setup ADD COLUMN weakest TEXT NOT NULL DEFAULT '';
ALTER TABLE rig_setup ADD COLUMN weakest_n REAL CHECK (weakest_n > 0);
