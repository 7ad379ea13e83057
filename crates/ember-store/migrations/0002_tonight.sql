-- Genres of the user's own, and built-in ones that the user changed.
CREATE TABLE preset (
    code TEXT PRIMARY KEY,
    content TEXT NOT NULL CHECK (json_valid(content))
) STRICT, WITHOUT ROWID;

-- Venues, songs and set lists. What is removed stays, marked, so that it can be brought back.
CREATE TABLE venue (
    id INTEGER PRIMARY KEY,
    -- For finding and sorting: the name in small letters.
    found_by TEXT NOT NULL,
    content TEXT NOT NULL CHECK (json_valid(content)),
    -- Milliseconds since 1970, UTC. NULL: not removed.
    gone_at INTEGER
) STRICT;

CREATE TABLE song (
    id INTEGER PRIMARY KEY,
    found_by TEXT NOT NULL,
    content TEXT NOT NULL CHECK (json_valid(content)),
    gone_at INTEGER
) STRICT;
CREATE INDEX song_by_title ON song (found_by, id) WHERE gone_at IS NULL;

-- Songs in their order with breaks between them; entries name songs by number.
CREATE TABLE set_list (
    id INTEGER PRIMARY KEY,
    found_by TEXT NOT NULL,
    content TEXT NOT NULL CHECK (json_valid(content)),
    gone_at INTEGER
) STRICT;

-- What is played is a song, or a genre and a tempo as before.
ALTER TABLE tonight ADD COLUMN music TEXT NOT NULL DEFAULT '{}' CHECK (json_valid(music));
UPDATE tonight SET music = json_object('genre', genre, 'bpm', bpm);
ALTER TABLE tonight DROP COLUMN genre;
ALTER TABLE tonight DROP COLUMN bpm;
ALTER TABLE tonight ADD COLUMN song_id INTEGER REFERENCES song (id);
ALTER TABLE tonight ADD COLUMN venue_id INTEGER REFERENCES venue (id);
ALTER TABLE tonight ADD COLUMN set_list_id INTEGER REFERENCES set_list (id);
