-- Drills that were run.
CREATE TABLE drill (
    id       TEXT PRIMARY KEY,
    home_id  TEXT NOT NULL REFERENCES home (id) ON DELETE CASCADE,
    document TEXT NOT NULL CHECK (json_valid(document))
) STRICT;
CREATE INDEX drill_of_home ON drill (home_id);
