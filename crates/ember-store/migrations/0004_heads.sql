-- What is known about a drum grows; one column holds it.
ALTER TABLE drum ADD COLUMN content TEXT NOT NULL DEFAULT '{}' CHECK (json_valid(content));
UPDATE drum SET content = json_object(
    'name', name,
    'kind', kind,
    'diameter_in', diameter_in,
    'depth_in', depth_in,
    'lugs', lugs,
    -- Plies were not asked for; film of 13 mil and more is as good as always two of them.
    'batter', json_object('film_mil', batter_film_mil, 'plies', CASE WHEN batter_film_mil >= 13 THEN 2 ELSE 1 END),
    'lower', json(CASE WHEN lower_film_mil IS NOT NULL THEN json_object('film_mil', lower_film_mil) END),
    'wires', json(CASE WHEN kind = 'snare' THEN '{"strands":20,"tension":"medium"}' END)
);
ALTER TABLE drum DROP COLUMN name;
ALTER TABLE drum DROP COLUMN kind;
ALTER TABLE drum DROP COLUMN diameter_in;
ALTER TABLE drum DROP COLUMN depth_in;
ALTER TABLE drum DROP COLUMN lugs;
ALTER TABLE drum DROP COLUMN batter_film_mil;
ALTER TABLE drum DROP COLUMN lower_film_mil;

-- Another head was put on: rounds and takes from before are of the old one.
CREATE TABLE head_change (
    id INTEGER PRIMARY KEY,
    drum_id INTEGER NOT NULL REFERENCES drum (id) ON DELETE CASCADE,
    side TEXT NOT NULL,
    -- Milliseconds since 1970, UTC.
    at INTEGER NOT NULL,
    before TEXT NOT NULL CHECK (json_valid(before)),
    after TEXT NOT NULL CHECK (json_valid(after)),
    -- What was taken off the drum with it.
    treatment_id INTEGER REFERENCES treatment (id) ON DELETE SET NULL,
    -- Taken back. NULL: it stands.
    gone_at INTEGER
) STRICT;
CREATE INDEX head_change_of_drum ON head_change (drum_id, at) WHERE gone_at IS NULL;
INSERT INTO head_change (drum_id, side, at, before, after)
    SELECT drum_id, side, since, json_extract(content, '$.batter'), json_extract(content, '$.batter')
    FROM head JOIN drum ON drum.id = drum_id WHERE since IS NOT NULL AND side = 'batter';
INSERT INTO head_change (drum_id, side, at, before, after)
    SELECT drum_id, side, since, json_extract(content, '$.lower'), json_extract(content, '$.lower')
    FROM head JOIN drum ON drum.id = drum_id
    WHERE since IS NOT NULL AND side = 'lower' AND json_extract(content, '$.lower') IS NOT NULL;
ALTER TABLE head DROP COLUMN since;
-- When its rods were last finger-tight. NULL: not known.
ALTER TABLE head ADD COLUMN seated_at INTEGER;

-- Rods let down on purpose.
CREATE TABLE uneven (
    id INTEGER PRIMARY KEY,
    drum_id INTEGER NOT NULL REFERENCES drum (id) ON DELETE CASCADE,
    side TEXT NOT NULL,
    recipe TEXT NOT NULL,
    begun_at INTEGER NOT NULL,
    -- Eighths of a turn on each rod in hoop order.
    eighths TEXT NOT NULL CHECK (json_valid(eighths)),
    -- When the rods were back. NULL: it is uneven now.
    ended_at INTEGER,
    -- Taken back, as never done. NULL: it stands.
    gone_at INTEGER
) STRICT;
CREATE INDEX uneven_of_head ON uneven (drum_id, side, begun_at) WHERE gone_at IS NULL;
