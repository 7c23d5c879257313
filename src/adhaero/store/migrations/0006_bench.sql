-- How a clamp's force is known and the caul that goes with it; and the mixes and bottles found by what they belong to.

ALTER TABLE clamp ADD COLUMN known_by TEXT NOT NULL DEFAULT '';
ALTER TABLE clamp ADD COLUMN caul_mm REAL CHECK (caul_mm >= 0);
CREATE INDEX mix_glueup ON mix (glueup_id);
CREATE INDEX mix_action ON mix (action_id);
CREATE INDEX bottle_event_bottle ON bottle_event (bottle_id);
