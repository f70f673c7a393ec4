-- Whether the stand-in phone is what was paired, whose runs are made up.
ALTER TABLE pairing ADD COLUMN stand_in INTEGER NOT NULL DEFAULT 0;
