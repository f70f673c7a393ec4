-- Phones that may test in a round: of the token only its digest is kept.
CREATE TABLE pairing (
    digest     TEXT PRIMARY KEY,
    home_id    TEXT NOT NULL REFERENCES home (id) ON DELETE CASCADE,
    round_id   TEXT NOT NULL REFERENCES round (id) ON DELETE CASCADE,
    made_at    TEXT NOT NULL,
    expires_at TEXT NOT NULL
) STRICT;
CREATE INDEX pairing_home ON pairing (home_id);
CREATE INDEX pairing_round ON pairing (round_id);

-- What a test recorded sample by sample: JSON, compressed.
CREATE TABLE sample (
    run_id TEXT PRIMARY KEY REFERENCES run (id) ON DELETE CASCADE,
    gzip   BLOB NOT NULL
) STRICT;
