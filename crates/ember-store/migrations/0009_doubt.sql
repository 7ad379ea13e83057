-- What speaks against a take with a treatment on: that it sounds like the open drum, like another one, or nothing like what was expected.
-- Such a take counts only where the user says so.
ALTER TABLE take ADD COLUMN doubt TEXT CHECK (doubt IS NULL OR json_valid(doubt));
ALTER TABLE take ADD COLUMN counted INTEGER NOT NULL DEFAULT 0;
