-- What was worked out from the facts of a batch and holds until its next action: it may be deleted at any time.
CREATE TABLE worked_out (
    name        TEXT    NOT NULL,
    batch_id    INTEGER NOT NULL,
    last_action INTEGER NOT NULL,
    rule        TEXT    NOT NULL,
    body        TEXT    NOT NULL,
    PRIMARY KEY (name, batch_id)
) STRICT, WITHOUT ROWID;

-- Everything that can be searched, line by line; batch 0 is the shop. `words` is what is looked through.
CREATE TABLE search_line (
    id       INTEGER PRIMARY KEY,
    batch_id INTEGER NOT NULL,
    code     TEXT    NOT NULL,
    what     TEXT    NOT NULL,
    told     TEXT    NOT NULL,
    words    TEXT    NOT NULL
) STRICT;
CREATE INDEX search_line_batch ON search_line (batch_id);
CREATE INDEX search_line_code ON search_line (code);
CREATE VIRTUAL TABLE search_text USING fts5 (
    words, content = 'search_line', content_rowid = 'id', tokenize = 'trigram', detail = 'full'
);
