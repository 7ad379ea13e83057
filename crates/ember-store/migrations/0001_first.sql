-- The kit, in playing order.
CREATE TABLE drum (
    id INTEGER PRIMARY KEY,
    position INTEGER NOT NULL,
    name TEXT NOT NULL,
    kind TEXT NOT NULL,
    diameter_in REAL NOT NULL,
    depth_in REAL NOT NULL,
    lugs INTEGER NOT NULL,
    batter_film_mil REAL NOT NULL,
    -- NULL: the lower (front) head is off.
    lower_film_mil REAL
) STRICT;

-- What the user owns, and how many.
CREATE TABLE shelf_item (
    device TEXT PRIMARY KEY,
    count INTEGER NOT NULL CHECK (count BETWEEN 0 AND 99)
) STRICT, WITHOUT ROWID;

-- What is played, and what is ruled out. One row.
CREATE TABLE tonight (
    id INTEGER PRIMARY KEY CHECK (id = 1),
    genre TEXT NOT NULL,
    bpm REAL NOT NULL,
    clear_surface INTEGER NOT NULL,
    nothing_inside INTEGER NOT NULL
) STRICT;

-- A plan carried out on a drum.
CREATE TABLE treatment (
    id INTEGER PRIMARY KEY,
    drum_id INTEGER NOT NULL REFERENCES drum (id) ON DELETE CASCADE,
    -- The take of the open drum that the expectation started from.
    open_take_id INTEGER NOT NULL REFERENCES take (id) ON DELETE CASCADE,
    -- Milliseconds since 1970, UTC.
    done_at INTEGER NOT NULL,
    -- NULL: still on the drum.
    off_at INTEGER,
    plan TEXT NOT NULL CHECK (json_valid(plan))
) STRICT;
CREATE INDEX treatment_of_drum ON treatment (drum_id, done_at);
-- A drum carries at most one treatment.
CREATE UNIQUE INDEX treatment_on_drum ON treatment (drum_id) WHERE off_at IS NULL;

-- Strikes on one drum in one state.
CREATE TABLE take (
    id INTEGER PRIMARY KEY,
    drum_id INTEGER NOT NULL REFERENCES drum (id) ON DELETE CASCADE,
    -- NULL: the drum was open.
    treatment_id INTEGER REFERENCES treatment (id) ON DELETE CASCADE,
    source TEXT NOT NULL,
    -- Name of the file that was read.
    source_name TEXT,
    begun_at INTEGER NOT NULL,
    -- What the strikes say together; worked out again whenever they change.
    summary TEXT NOT NULL CHECK (json_valid(summary)),
    partials TEXT NOT NULL CHECK (json_valid(partials))
) STRICT;
CREATE INDEX take_of_drum ON take (drum_id, begun_at);
CREATE INDEX take_of_treatment ON take (treatment_id);

CREATE TABLE strike (
    id INTEGER PRIMARY KEY,
    take_id INTEGER NOT NULL REFERENCES take (id) ON DELETE CASCADE,
    position INTEGER NOT NULL,
    -- Left out by the user.
    dropped INTEGER NOT NULL DEFAULT 0,
    measurement TEXT NOT NULL CHECK (json_valid(measurement)),
    -- The strike's sound, from shortly before the hit, as FLAC.
    sound BLOB NOT NULL,
    onset_index INTEGER NOT NULL,
    UNIQUE (take_id, position)
) STRICT;
