-- What closed the drum's other end before a change of its head, and after it: holes were cut, a mesh was put on, the head was left off.
-- NULL: as it was.
ALTER TABLE head_change ADD COLUMN before_front TEXT CHECK (json_valid(before_front));
ALTER TABLE head_change ADD COLUMN after_front TEXT CHECK (json_valid(after_front));

-- The player would rather not try a hole in a way that can be undone.
CREATE TABLE front_trial_declined (
    drum_id INTEGER PRIMARY KEY REFERENCES drum (id) ON DELETE CASCADE,
    -- Milliseconds since 1970, UTC.
    at INTEGER NOT NULL
) STRICT;
