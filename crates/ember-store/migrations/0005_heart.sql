-- What is worth recalling has a name.
ALTER TABLE treatment ADD COLUMN name TEXT CHECK (length(name) BETWEEN 1 AND 60);

-- What a thing of the player's own is: its name, size and weight.
ALTER TABLE shelf_item ADD COLUMN made TEXT CHECK (json_valid(made));

-- More that a player rules out.
ALTER TABLE tonight ADD COLUMN no_residue INTEGER NOT NULL DEFAULT 0;
ALTER TABLE tonight ADD COLUMN nothing_unsightly INTEGER NOT NULL DEFAULT 0;
ALTER TABLE tonight ADD COLUMN within_a_minute INTEGER NOT NULL DEFAULT 0;
