-- Photos of pieces (by stage), boards and bottles; kept in the database, so that a copy of it is a copy of everything.
CREATE TABLE photo (
    id         INTEGER PRIMARY KEY,
    kind       TEXT NOT NULL CHECK (kind IN ('piece', 'board', 'bottle')),
    subject_id INTEGER NOT NULL,
    caption    TEXT NOT NULL DEFAULT '',
    stage      TEXT NOT NULL,
    media_type TEXT NOT NULL CHECK (media_type IN ('image/jpeg', 'image/png', 'image/webp')),
    content    BLOB NOT NULL CHECK (length(content) BETWEEN 12 AND 4194304),
    at         TEXT NOT NULL,
    action_id  INTEGER NOT NULL REFERENCES action (id)
) STRICT;
CREATE INDEX photo_subject ON photo (kind, subject_id);
-- Photos that were taken away again.
CREATE TABLE photo_gone (
    photo_id  INTEGER NOT NULL REFERENCES photo (id),
    action_id INTEGER NOT NULL REFERENCES action (id)
) STRICT;
