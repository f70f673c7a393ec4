-- Pictures of spots and devices, without what a camera writes beside them.
CREATE TABLE picture (
    id       TEXT PRIMARY KEY,
    home_id  TEXT NOT NULL REFERENCES home (id) ON DELETE CASCADE,
    at       TEXT NOT NULL,
    document TEXT NOT NULL CHECK (json_valid(document)),
    jpeg     BLOB NOT NULL
) STRICT;
CREATE INDEX picture_of_home ON picture (home_id, at);
