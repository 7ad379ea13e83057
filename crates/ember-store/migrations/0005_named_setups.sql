-- What is worth recalling has a name.
ALTER TABLE treatment ADD COLUMN name TEXT CHECK (length(name) BETWEEN 1 AND 60);
