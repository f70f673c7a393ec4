-- Long watches, as their logs tell them, and notes on devices.
CREATE TABLE watch (
    home_id  TEXT NOT NULL REFERENCES home (id) ON DELETE CASCADE,
    id       TEXT NOT NULL,
    summary  TEXT NOT NULL CHECK (json_valid(summary)),
    document TEXT NOT NULL CHECK (json_valid(document)),
    PRIMARY KEY (home_id, id)
) STRICT;
CREATE TABLE device_note (
    id       TEXT PRIMARY KEY,
    home_id  TEXT NOT NULL REFERENCES home (id) ON DELETE CASCADE,
    document TEXT NOT NULL CHECK (json_valid(document))
) STRICT;
CREATE INDEX device_note_of_home ON device_note (home_id);
