-- The pass phrase of the bench, hashed (PHC string); one row at most.
CREATE TABLE lock (
    id   INTEGER PRIMARY KEY CHECK (id = 1),
    hash TEXT NOT NULL
) STRICT;
