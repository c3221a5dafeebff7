-- Readings, fuses and what was found, and what was done after: more kinds of entries, and figures beside their words.
-- What a kind may be stands in the program, so that a new one needs no new table.
DROP TRIGGER record_stays;
DROP TRIGGER record_keeps;
CREATE TABLE record_new (
    plan_id     TEXT NOT NULL REFERENCES plan (plan_id),
    number      INTEGER NOT NULL CHECK (number BETWEEN 1 AND 1000000000),
    -- Sent again because its answer was lost, an entry is not made twice.
    key         TEXT NOT NULL CHECK (length(key) BETWEEN 8 AND 80),
    kind        TEXT NOT NULL CHECK (length(kind) BETWEEN 2 AND 20),
    -- Id of the step, run, reading or list it speaks of.
    subject     TEXT NOT NULL CHECK (length(subject) <= 160),
    -- What the plan said of it then.
    was         TEXT NOT NULL CHECK (length(was) <= 4000),
    text        TEXT NOT NULL CHECK (length(text) <= 1000),
    -- Figures and names as JSON: value, unit, band, instrument, odometer.
    detail      TEXT NOT NULL DEFAULT '{}' CHECK (json_valid(detail) AND length(detail) <= 4000),
    who         TEXT NOT NULL CHECK (length(who) <= 60),
    -- When it was done, by the clock of who did it; and when it arrived.
    made_at     TEXT NOT NULL,
    kept_at     TEXT NOT NULL,
    revision    INTEGER NOT NULL CHECK (revision BETWEEN 1 AND 1000000000),
    -- The entry it takes back.
    takes_back  INTEGER CHECK (takes_back BETWEEN 1 AND number - 1),
    PRIMARY KEY (plan_id, number),
    CHECK ((kind = 'back') = (takes_back IS NOT NULL))
) STRICT, WITHOUT ROWID;
INSERT INTO record_new (plan_id, number, key, kind, subject, was, text, who, made_at, kept_at, revision, takes_back)
SELECT plan_id, number, key, kind, subject, was, text, who, made_at, kept_at, revision, takes_back FROM record;
DROP TABLE record;
ALTER TABLE record_new RENAME TO record;
CREATE UNIQUE INDEX record_key ON record (plan_id, key);
CREATE UNIQUE INDEX record_back ON record (plan_id, takes_back) WHERE takes_back IS NOT NULL;
CREATE INDEX record_kind ON record (kind, plan_id);
CREATE TRIGGER record_stays BEFORE UPDATE ON record BEGIN SELECT RAISE(ABORT, 'the record is only added to'); END;
CREATE TRIGGER record_keeps BEFORE DELETE ON record BEGIN SELECT RAISE(ABORT, 'the record is only added to'); END;
