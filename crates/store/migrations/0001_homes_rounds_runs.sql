-- A home is one document with its past: each change is a revision, and undo moves the pointer back.
CREATE TABLE home (
    id         TEXT PRIMARY KEY,
    revision   INTEGER NOT NULL,
    changed_at TEXT NOT NULL,
    FOREIGN KEY (id, revision) REFERENCES revision (home_id, number) DEFERRABLE INITIALLY DEFERRED
) STRICT;

CREATE TABLE revision (
    home_id  TEXT NOT NULL REFERENCES home (id) ON DELETE CASCADE DEFERRABLE INITIALLY DEFERRED,
    number   INTEGER NOT NULL,
    what     TEXT NOT NULL,
    document TEXT NOT NULL CHECK (json_valid(document)),
    PRIMARY KEY (home_id, number)
) STRICT;

CREATE TABLE round (
    id       TEXT PRIMARY KEY,
    home_id  TEXT NOT NULL REFERENCES home (id) ON DELETE CASCADE,
    setup_id TEXT NOT NULL,
    begun    TEXT NOT NULL,
    document TEXT NOT NULL CHECK (json_valid(document))
) STRICT;

CREATE INDEX round_of_home ON round (home_id, begun);

-- The trace of a run is kept apart, so that opening a home with thousands of runs reads none of them.
CREATE TABLE run (
    id       TEXT PRIMARY KEY,
    round_id TEXT NOT NULL REFERENCES round (id) ON DELETE CASCADE,
    spot_id  TEXT NOT NULL,
    at       TEXT NOT NULL,
    document TEXT NOT NULL CHECK (json_valid(document)),
    trace    TEXT NOT NULL CHECK (json_valid(trace))
) STRICT;

CREATE INDEX run_of_round ON run (round_id, at);
