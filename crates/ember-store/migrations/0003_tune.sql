-- A head's state: what it is to be tuned to.
CREATE TABLE head (
    drum_id INTEGER NOT NULL REFERENCES drum (id) ON DELETE CASCADE,
    side TEXT NOT NULL,
    -- Milliseconds since 1970, UTC. Rounds from before are of another head. NULL: as long as the drum is known.
    since INTEGER,
    -- Pitch that its lugs are to have, Hz. NULL: even at the pitch it has.
    wanted_hz REAL,
    PRIMARY KEY (drum_id, side)
) STRICT, WITHOUT ROWID;

-- A round of taps, one beside each lug of a head.
CREATE TABLE tuning_round (
    id INTEGER PRIMARY KEY,
    drum_id INTEGER NOT NULL REFERENCES drum (id) ON DELETE CASCADE,
    side TEXT NOT NULL,
    source TEXT NOT NULL,
    begun_at INTEGER NOT NULL,
    lugs INTEGER NOT NULL,
    -- What its taps say together; worked out again with every tap.
    pitches TEXT NOT NULL CHECK (json_valid(pitches)),
    -- Eighths of a turn that each rod was given after it. NULL: none were reported.
    turned TEXT CHECK (json_valid(turned)),
    -- NULL: not removed.
    gone_at INTEGER
) STRICT;
CREATE INDEX tuning_round_of_head ON tuning_round (drum_id, side, begun_at) WHERE gone_at IS NULL;

CREATE TABLE tap (
    id INTEGER PRIMARY KEY,
    round_id INTEGER NOT NULL REFERENCES tuning_round (id) ON DELETE CASCADE,
    -- From 0, clockwise from the first.
    lug INTEGER NOT NULL,
    heard_at INTEGER NOT NULL,
    -- Why it was asked again. NULL: it counts, unless a later one beside the same lug does.
    fault TEXT,
    -- FLAC, from shortly before the tap.
    sound BLOB NOT NULL,
    onset_index INTEGER NOT NULL
) STRICT;
CREATE INDEX tap_of_round ON tap (round_id, id);
