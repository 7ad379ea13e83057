-- The order in which things happened, whatever the clock said: each gets the next number.
CREATE TABLE sequence (
    id INTEGER PRIMARY KEY CHECK (id = 1),
    last INTEGER NOT NULL
) STRICT;

ALTER TABLE take ADD COLUMN seq INTEGER NOT NULL DEFAULT 0;
-- Goes up whenever what the take says changes.
ALTER TABLE take ADD COLUMN revision INTEGER NOT NULL DEFAULT 0;
-- Strikes that count, as in its summary, to find usable takes by.
ALTER TABLE take ADD COLUMN strikes_used INTEGER NOT NULL DEFAULT 0;
-- Bytes of its strikes' sound.
ALTER TABLE take ADD COLUMN sound_bytes INTEGER NOT NULL DEFAULT 0;
UPDATE take SET sound_bytes = coalesce((SELECT sum(length(sound)) FROM strike WHERE strike.take_id = take.id), 0);
ALTER TABLE treatment ADD COLUMN seq INTEGER NOT NULL DEFAULT 0;
-- Whether it closed the drum's other end otherwise, with devices or without.
ALTER TABLE treatment ADD COLUMN of_front INTEGER NOT NULL DEFAULT 0;
-- What lies where and how the other end is closed, as text: the same layout has the same.
ALTER TABLE treatment ADD COLUMN layout TEXT NOT NULL DEFAULT '';
UPDATE treatment SET layout = json_extract(plan, '$.placements') || coalesce(json_extract(plan, '$.front'), '');
ALTER TABLE uneven ADD COLUMN begun_seq INTEGER NOT NULL DEFAULT 0;
ALTER TABLE uneven ADD COLUMN ended_seq INTEGER;
ALTER TABLE head ADD COLUMN seated_seq INTEGER;

-- Made anew, since a CHECK cannot be changed: json_valid(NULL) is NULL, which some versions of SQLite take for a broken rule.
CREATE TABLE head_change_anew (
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
    gone_at INTEGER,
    -- What closed the drum's other end before a change of its head, and after it. NULL: as it was.
    before_front TEXT CHECK (before_front IS NULL OR json_valid(before_front)),
    after_front TEXT CHECK (after_front IS NULL OR json_valid(after_front)),
    seq INTEGER NOT NULL DEFAULT 0
) STRICT;
INSERT INTO head_change_anew SELECT id, drum_id, side, at, before, after, treatment_id, gone_at, before_front, after_front, 0 FROM head_change;
DROP TABLE head_change;
ALTER TABLE head_change_anew RENAME TO head_change;
CREATE INDEX head_change_of_drum ON head_change (drum_id, seq) WHERE gone_at IS NULL;

CREATE TABLE tuning_round_anew (
    id INTEGER PRIMARY KEY,
    drum_id INTEGER NOT NULL REFERENCES drum (id) ON DELETE CASCADE,
    side TEXT NOT NULL,
    source TEXT NOT NULL,
    begun_at INTEGER NOT NULL,
    lugs INTEGER NOT NULL,
    -- What its taps say together; worked out again with every tap.
    pitches TEXT NOT NULL CHECK (json_valid(pitches)),
    -- Eighths of a turn that each rod was given after it. NULL: none were reported.
    turned TEXT CHECK (turned IS NULL OR json_valid(turned)),
    -- NULL: not removed.
    gone_at INTEGER,
    seq INTEGER NOT NULL DEFAULT 0
) STRICT;
INSERT INTO tuning_round_anew SELECT id, drum_id, side, source, begun_at, lugs, pitches, turned, gone_at, 0 FROM tuning_round;
DROP TABLE tuning_round;
ALTER TABLE tuning_round_anew RENAME TO tuning_round;
CREATE INDEX tuning_round_of_head ON tuning_round (drum_id, side, seq) WHERE gone_at IS NULL;

CREATE TABLE shelf_item_anew (
    device TEXT PRIMARY KEY,
    count INTEGER NOT NULL CHECK (count BETWEEN 0 AND 99),
    -- What a thing of the player's own is: its name, size and weight.
    made TEXT CHECK (made IS NULL OR json_valid(made))
) STRICT, WITHOUT ROWID;
INSERT INTO shelf_item_anew SELECT device, count, made FROM shelf_item;
DROP TABLE shelf_item;
ALTER TABLE shelf_item_anew RENAME TO shelf_item;

-- What is there already is put in order by the clock, which is all that is known of it. At the same moment a change of heads comes first,
-- since takes from then on are of the new head.
CREATE TABLE happening AS
SELECT kind, id, row_number() OVER (ORDER BY at, rank, id) AS seq FROM (
    SELECT 'head_change' AS kind, id, at, 0 AS rank FROM head_change
    UNION ALL SELECT 'uneven', id, begun_at, 1 FROM uneven
    UNION ALL SELECT 'ended', id, ended_at, 2 FROM uneven WHERE ended_at IS NOT NULL
    UNION ALL SELECT 'seated', rowid_of, seated_at, 3 FROM
        (SELECT 2 * drum_id + (side = 'lower') AS rowid_of, seated_at FROM head WHERE seated_at IS NOT NULL)
    UNION ALL SELECT 'treatment', id, done_at, 4 FROM treatment
    UNION ALL SELECT 'take', id, begun_at, 5 FROM take
    UNION ALL SELECT 'round', id, begun_at, 6 FROM tuning_round
);
CREATE INDEX happening_by_id ON happening (kind, id);
UPDATE take SET seq = (SELECT seq FROM happening WHERE kind = 'take' AND happening.id = take.id),
    strikes_used = coalesce(json_extract(summary, '$.strikes_used'), 0);
UPDATE treatment SET seq = (SELECT seq FROM happening WHERE kind = 'treatment' AND happening.id = treatment.id),
    of_front = json_extract(plan, '$.front') IS NOT NULL;
UPDATE head_change SET seq = (SELECT seq FROM happening WHERE kind = 'head_change' AND happening.id = head_change.id);
UPDATE tuning_round SET seq = (SELECT seq FROM happening WHERE kind = 'round' AND happening.id = tuning_round.id);
UPDATE uneven SET begun_seq = (SELECT seq FROM happening WHERE kind = 'uneven' AND happening.id = uneven.id),
    ended_seq = (SELECT seq FROM happening WHERE kind = 'ended' AND happening.id = uneven.id);
UPDATE head SET seated_seq = (SELECT seq FROM happening WHERE kind = 'seated' AND happening.id = 2 * drum_id + (side = 'lower'));
INSERT INTO sequence SELECT 1, coalesce(max(seq), 0) FROM happening;
DROP TABLE happening;

DROP INDEX take_of_drum;
CREATE INDEX take_of_drum ON take (drum_id, seq);
CREATE INDEX take_usable ON take (drum_id, treatment_id, seq) WHERE strikes_used > 0;
DROP INDEX take_of_treatment;
CREATE INDEX take_of_treatment ON take (treatment_id, seq);
DROP INDEX treatment_of_drum;
CREATE INDEX treatment_of_drum ON treatment (drum_id, seq);
CREATE INDEX treatment_of_layout ON treatment (drum_id, layout);
CREATE INDEX treatment_in_order ON treatment (seq);
CREATE INDEX treatment_from_take ON treatment (open_take_id);
DROP INDEX uneven_of_head;
CREATE INDEX uneven_of_head ON uneven (drum_id, side, begun_seq) WHERE gone_at IS NULL;

-- What tests taught, so that it need not be worked out again at every start. One row; its key says from which tests.
CREATE TABLE learned (
    id INTEGER PRIMARY KEY CHECK (id = 1),
    key TEXT NOT NULL,
    content TEXT NOT NULL CHECK (json_valid(content))
) STRICT;

-- What the user decided about keeping: one row.
CREATE TABLE keeping (
    id INTEGER PRIMARY KEY CHECK (id = 1),
    content TEXT NOT NULL CHECK (json_valid(content))
) STRICT;
