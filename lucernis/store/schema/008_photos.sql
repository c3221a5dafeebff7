-- Photos of a survey, beside the plan and not in its revisions. One that was taken away is no longer
-- shown; it is not wiped, so that a slip of the thumb loses nothing.
CREATE TABLE photo (
    photo_id    TEXT PRIMARY KEY CHECK (length(photo_id) BETWEEN 1 AND 40),
    plan_id     TEXT NOT NULL REFERENCES plan (plan_id),
    -- The channel, place, run or part it shows.
    subject     TEXT NOT NULL CHECK (length(subject) BETWEEN 1 AND 40),
    note        TEXT NOT NULL CHECK (length(note) <= 400),
    made_at     TEXT NOT NULL,
    removed     INTEGER NOT NULL DEFAULT 0 CHECK (removed IN (0, 1)),
    picture     BLOB NOT NULL CHECK (length(picture) BETWEEN 100 AND 2000000)
) STRICT;
CREATE INDEX photo_of_plan ON photo (plan_id);
