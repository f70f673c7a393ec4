-- The far end of internet tests, as it was noted at the bench; one row at most.
CREATE TABLE far_end (
    id    INTEGER PRIMARY KEY CHECK (id = 1),
    url   TEXT NOT NULL,
    token TEXT NOT NULL
) STRICT;

-- A home that was deleted can be brought back until the program ends; then it goes for good.
ALTER TABLE home ADD COLUMN deleted INTEGER NOT NULL DEFAULT 0 CHECK (deleted IN (0, 1));
