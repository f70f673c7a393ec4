-- In which form a head was kept: another version of the program may show other things of a home, and makes them anew.
ALTER TABLE head ADD COLUMN form TEXT NOT NULL DEFAULT '';
