-- What the player says of drums as they sound, for each part of a kit and genre.
CREATE TABLE opinion (
    id INTEGER PRIMARY KEY,
    role TEXT NOT NULL,
    genre TEXT NOT NULL,
    said TEXT NOT NULL,
    said_at INTEGER NOT NULL,
    -- When it was forgotten on the player's wish; null while it counts.
    forgotten_at INTEGER
) STRICT;

CREATE INDEX opinion_of ON opinion (role, genre);
