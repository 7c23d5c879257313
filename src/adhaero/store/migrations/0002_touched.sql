-- What stands is found for single pieces as quickly as for whole batches: by the indexes, row by row, instead of a
-- list of everything that was ever replaced. And the pieces that an action touched are found by the action.

CREATE INDEX measurement_action ON measurement (action_id);
CREATE INDEX glueup_action ON glueup (action_id);
CREATE INDEX glueup_specimen_action ON glueup_specimen (action_id);
CREATE INDEX glueup_specimen_glueup ON glueup_specimen (glueup_id);
CREATE INDEX specimen_event_action ON specimen_event (action_id);
CREATE INDEX observation_action ON observation (action_id);

DROP VIEW current_measurement;
CREATE VIEW current_measurement AS
SELECT m.* FROM measurement m JOIN action a ON a.id = m.action_id AND a.undone_by IS NULL
WHERE NOT EXISTS (SELECT 1 FROM measurement r JOIN action ra ON ra.id = r.action_id
                  WHERE r.replaces_id = m.id AND ra.undone_by IS NULL);

DROP VIEW current_glueup_specimen;
CREATE VIEW current_glueup_specimen AS
SELECT m.* FROM glueup_specimen m JOIN action a ON a.id = m.action_id AND a.undone_by IS NULL
WHERE NOT EXISTS (SELECT 1 FROM glueup_specimen r JOIN action ra ON ra.id = r.action_id
                  WHERE r.replaces_id = m.id AND ra.undone_by IS NULL);

DROP VIEW current_specimen_event;
CREATE VIEW current_specimen_event AS
SELECT m.* FROM specimen_event m JOIN action a ON a.id = m.action_id AND a.undone_by IS NULL
WHERE NOT EXISTS (SELECT 1 FROM specimen_event r JOIN action ra ON ra.id = r.action_id
                  WHERE r.replaces_id = m.id AND ra.undone_by IS NULL);

DROP VIEW current_observation;
CREATE VIEW current_observation AS
SELECT o.* FROM observation o JOIN action a ON a.id = o.action_id AND a.undone_by IS NULL
WHERE NOT EXISTS (SELECT 1 FROM observation r JOIN action ra ON ra.id = r.action_id
                  WHERE r.replaces_id = o.id AND ra.undone_by IS NULL);

DROP VIEW current_glueup;
CREATE VIEW current_glueup AS
SELECT g.* FROM glueup g JOIN action a ON a.id = g.action_id AND a.undone_by IS NULL;

DROP VIEW current_specimen;
CREATE VIEW current_specimen AS
SELECT s.* FROM specimen s JOIN action a ON a.id = s.action_id AND a.undone_by IS NULL;
