-- What a player does not own is suggested only where it costs nothing.
ALTER TABLE tonight ADD COLUMN nothing_bought INTEGER NOT NULL DEFAULT 0;
