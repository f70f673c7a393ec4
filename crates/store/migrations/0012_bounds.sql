-- A code may be withdrawn before its time is over.
ALTER TABLE pairing ADD COLUMN withdrawn_at TEXT;

-- A step that was taken back stays as that, so that an older word on it that arrives later does not count.
ALTER TABLE tick ADD COLUMN taken_back INTEGER NOT NULL DEFAULT 0 CHECK (taken_back IN (0, 1));

-- Addresses of kit reports that somebody at this bench has said; those that came with a file are not asked before.
CREATE TABLE kit_address (
    home_id TEXT NOT NULL REFERENCES home (id) ON DELETE CASCADE,
    address TEXT NOT NULL,
    PRIMARY KEY (home_id, address)
) STRICT;

-- Of each round a number that goes up with every change of its runs, so that only what has changed is read anew, and the bytes that its runs
-- take. Kept beside the round, whose own row is large.
CREATE TABLE held (
    round_id TEXT PRIMARY KEY REFERENCES round (id) ON DELETE CASCADE,
    number   INTEGER NOT NULL DEFAULT 1,
    bytes    INTEGER NOT NULL DEFAULT 0
) STRICT;
INSERT INTO held (round_id, bytes)
SELECT round.id, (SELECT coalesce(sum(octet_length(run.document) + octet_length(run.trace)), 0) FROM run
                   WHERE run.round_id = round.id AND run.removed_in IS NULL)
  FROM round;

CREATE TRIGGER held_round AFTER INSERT ON round BEGIN
    INSERT INTO held (round_id) VALUES (new.id);
END;
CREATE TRIGGER held_round_changed AFTER UPDATE OF document, tested ON round BEGIN
    UPDATE held SET number = number + 1 WHERE round_id = new.id;
END;
CREATE TRIGGER held_run AFTER INSERT ON run BEGIN
    UPDATE held SET number = number + 1, bytes = bytes + octet_length(new.document) + octet_length(new.trace) WHERE round_id = new.round_id;
END;
CREATE TRIGGER held_run_changed AFTER UPDATE OF document, removed_in ON run BEGIN
    UPDATE held SET number = number + 1,
                    bytes = bytes + (new.removed_in IS NULL) * (octet_length(new.document) + octet_length(new.trace))
                                  - (old.removed_in IS NULL) * (octet_length(old.document) + octet_length(old.trace))
     WHERE round_id = new.round_id;
END;
CREATE TRIGGER held_run_gone AFTER DELETE ON run WHEN old.removed_in IS NULL BEGIN
    UPDATE held SET number = number + 1, bytes = bytes - octet_length(old.document) - octet_length(old.trace) WHERE round_id = old.round_id;
END;
