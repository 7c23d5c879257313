-- How the joints of a glue-up were pressed, where that was no mere force: nothing, hand, tape, weight, spring, screw,
-- vacuum (core.glue.pressing); empty where it was not said.
ALTER TABLE glueup ADD COLUMN pressed_by TEXT NOT NULL DEFAULT '';
