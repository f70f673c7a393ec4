-- What became of the steps of run sheets: the newest word on each, so that two people can tick at once.
CREATE TABLE tick (
    home_id  TEXT NOT NULL REFERENCES home (id) ON DELETE CASCADE,
    setup_id TEXT NOT NULL,
    step     TEXT NOT NULL,
    document TEXT NOT NULL CHECK (json_valid(document)),
    PRIMARY KEY (home_id, setup_id, step)
) STRICT;
