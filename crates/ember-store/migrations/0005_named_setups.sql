-- What is worth recalling has a name.
ALTER TABLE treatment ADD COLUMN name TEXT CHECK (length(name) BETWEEN 1 AND 60);

-- What a thing of the player's own is: its name, size and weight.
ALTER TABLE shelf_item ADD COLUMN made TEXT CHECK (json_valid(made));
