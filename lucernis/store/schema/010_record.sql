-- What was done to the vehicle, beside the plan and not in its revisions. Entries are only ever added: one that was a
-- slip is taken back by a further entry that names it.
CREATE TABLE record (
    plan_id     TEXT NOT NULL REFERENCES plan (plan_id),
    number      INTEGER NOT NULL CHECK (number BETWEEN 1 AND 1000000000),
    -- Sent again because its answer was lost, an entry is not made twice.
    key         TEXT NOT NULL CHECK (length(key) BETWEEN 8 AND 80),
    kind        TEXT NOT NULL CHECK (kind IN ('done', 'note', 'deviation', 'printed', 'shelf', 'back')),
    -- Id of the step, run or list it speaks of.
    subject     TEXT NOT NULL CHECK (length(subject) <= 120),
    -- What the plan said of it then.
    was         TEXT NOT NULL CHECK (length(was) <= 4000),
    text        TEXT NOT NULL CHECK (length(text) <= 1000),
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
CREATE UNIQUE INDEX record_key ON record (plan_id, key);
CREATE UNIQUE INDEX record_back ON record (plan_id, takes_back) WHERE takes_back IS NOT NULL;
CREATE TRIGGER record_stays BEFORE UPDATE ON record BEGIN SELECT RAISE(ABORT, 'the record is only added to'); END;
CREATE TRIGGER record_keeps BEFORE DELETE ON record BEGIN SELECT RAISE(ABORT, 'the record is only added to'); END;
