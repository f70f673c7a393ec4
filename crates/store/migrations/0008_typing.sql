-- Which sitting of typing a step belongs to: steps of one sitting that follow each other are one step to undo.
ALTER TABLE revision ADD COLUMN typing TEXT NOT NULL DEFAULT '';
