-- Several kits of one player's drums. A kit names its drums in playing order, as JSON; a drum may be in several.
CREATE TABLE kit (
    id INTEGER PRIMARY KEY,
    found_by TEXT NOT NULL,
    content TEXT NOT NULL CHECK (json_valid(content)),
    -- Milliseconds since 1970, UTC. NULL: not removed.
    gone_at INTEGER
) STRICT;

-- The one there was so far.
INSERT INTO kit (id, found_by, content) SELECT 1, 'my kit', json_object('name', 'My kit', 'drums',
    (SELECT json_group_array(json_object('drum_id', id)) FROM (SELECT id FROM drum ORDER BY position, id)));

-- The kit that is played tonight. NULL: the first.
ALTER TABLE tonight ADD COLUMN kit_id INTEGER REFERENCES kit (id);

-- What is ruled out, as one JSON: there are more and more such words.
ALTER TABLE tonight ADD COLUMN limits TEXT NOT NULL DEFAULT '{}' CHECK (json_valid(limits));
UPDATE tonight SET limits = json_object(
    'clear_surface', json(iif(clear_surface, 'true', 'false')),
    'nothing_inside', json(iif(nothing_inside, 'true', 'false')),
    'no_residue', json(iif(no_residue, 'true', 'false')),
    'nothing_unsightly', json(iif(nothing_unsightly, 'true', 'false')),
    'within_a_minute', json(iif(within_a_minute, 'true', 'false')),
    'nothing_bought', json(iif(nothing_bought, 'true', 'false')));
ALTER TABLE tonight DROP COLUMN clear_surface;
ALTER TABLE tonight DROP COLUMN nothing_inside;
ALTER TABLE tonight DROP COLUMN no_residue;
ALTER TABLE tonight DROP COLUMN nothing_unsightly;
ALTER TABLE tonight DROP COLUMN within_a_minute;
ALTER TABLE tonight DROP COLUMN nothing_bought;
