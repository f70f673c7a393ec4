-- Revisions are only ever added: a change, an undo and a redo each get a number of their own, never used before.
ALTER TABLE revision ADD COLUMN kind TEXT NOT NULL DEFAULT 'step' CHECK (kind IN ('step', 'undo', 'redo'));
-- Who made it: undo takes back one's own steps.
ALTER TABLE revision ADD COLUMN editor TEXT NOT NULL DEFAULT '';
ALTER TABLE revision ADD COLUMN at TEXT NOT NULL DEFAULT '';
-- The revision whose document is the state before this step; earlier than the last one when pauses in typing were joined.
ALTER TABLE revision ADD COLUMN since INTEGER;
ALTER TABLE revision ADD COLUMN undoes INTEGER;
ALTER TABLE revision ADD COLUMN undone_by INTEGER;
-- Whether a later step carries this one on, so that it is not listed by itself.
ALTER TABLE revision ADD COLUMN joined INTEGER NOT NULL DEFAULT 0;
-- What the step did to rounds and runs.
ALTER TABLE revision ADD COLUMN effects TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(effects));
UPDATE revision SET since = number - 1 WHERE number > 1;

-- Before, an undo left later numbers to be used again. The state in force gets the highest number; what was undone goes.
CREATE TEMP TABLE top AS SELECT home_id, max(number) AS number FROM revision GROUP BY home_id;
DELETE FROM revision WHERE number > (SELECT revision FROM home WHERE home.id = revision.home_id);
UPDATE revision SET number = (SELECT number FROM top WHERE top.home_id = revision.home_id)
 WHERE number = (SELECT revision FROM home WHERE home.id = revision.home_id);
UPDATE home SET revision = (SELECT number FROM top WHERE top.home_id = home.id);
DROP TABLE top;

-- Goes up with every change of rounds and runs, in the same transaction, so that nothing kept in memory can be stale.
ALTER TABLE home ADD COLUMN readings INTEGER NOT NULL DEFAULT 1;
-- Set while a large file comes in piece by piece; such a home is not listed, and goes at the next start.
ALTER TABLE home ADD COLUMN arriving INTEGER NOT NULL DEFAULT 0;

-- What the list of homes shows, so that it need not read every home.
CREATE TABLE head (
    home_id  TEXT PRIMARY KEY REFERENCES home (id) ON DELETE CASCADE,
    revision INTEGER NOT NULL,
    readings INTEGER NOT NULL,
    until    TEXT NOT NULL,
    document TEXT NOT NULL CHECK (json_valid(document))
) STRICT;

-- A home as a round was taken in it; rounds of one state share it.
CREATE TABLE frozen (
    id       TEXT PRIMARY KEY,
    document TEXT NOT NULL CHECK (json_valid(document))
) STRICT;

ALTER TABLE round ADD COLUMN frozen_id TEXT REFERENCES frozen (id);
ALTER TABLE round ADD COLUMN tested TEXT NOT NULL DEFAULT '{}' CHECK (json_valid(tested));
-- The step that deleted it; undo brings it back.
ALTER TABLE round ADD COLUMN deleted_in INTEGER;
ALTER TABLE run ADD COLUMN removed_in INTEGER;
CREATE INDEX round_frozen ON round (frozen_id);

-- Rounds from before this was kept get the home as it stands now, and say so by `kept_at`.
INSERT INTO frozen (id, document)
SELECT home.id || '/' || home.revision, revision.document
  FROM home JOIN revision ON revision.home_id = home.id AND revision.number = home.revision
 WHERE EXISTS (SELECT 1 FROM round WHERE round.home_id = home.id);
UPDATE round SET frozen_id = (SELECT home.id || '/' || home.revision FROM home WHERE home.id = round.home_id),
                 tested = json_object('kept_at', strftime('%Y-%m-%dT%H:%M:%fZ', 'now'), 'law', NULL, 'forecasts', json('[]'));

-- Times of one length sort as text: before, "05.5Z" came before "05Z".
UPDATE run SET at = CASE WHEN instr(at, '.') = 0 THEN replace(at, 'Z', '.000000000Z')
                         ELSE substr(substr(at, 1, length(at) - 1) || '000000000', 1, 29) || 'Z' END;
UPDATE round SET begun = CASE WHEN instr(begun, '.') = 0 THEN replace(begun, 'Z', '.000000000Z')
                              ELSE substr(substr(begun, 1, length(begun) - 1) || '000000000', 1, 29) || 'Z' END;
