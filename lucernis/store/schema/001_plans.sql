-- Plans and their revisions. A revision is never changed or removed: undo and redo are revisions too.
CREATE TABLE plan (
    plan_id     TEXT PRIMARY KEY CHECK (length(plan_id) BETWEEN 1 AND 40),
    revision    INTEGER NOT NULL CHECK (revision BETWEEN 1 AND 1000000000),
    archived    INTEGER NOT NULL DEFAULT 0 CHECK (archived IN (0, 1)),
    created_at  TEXT NOT NULL,
    sort_order  INTEGER NOT NULL CHECK (sort_order BETWEEN 0 AND 1000000000)
) STRICT;

CREATE TABLE revision (
    plan_id     TEXT NOT NULL REFERENCES plan (plan_id),
    revision    INTEGER NOT NULL CHECK (revision BETWEEN 1 AND 1000000000),
    kind        TEXT NOT NULL CHECK (kind IN ('new', 'edit', 'undo', 'redo')),
    -- The edit whose outcome this revision shows: itself, or the one an undo or redo went back to.
    origin      INTEGER NOT NULL CHECK (origin BETWEEN 1 AND revision),
    -- For an edit: the origin of what it was made on. NULL for the first.
    before      INTEGER CHECK (before BETWEEN 1 AND revision - 1),
    -- Origins a redo can go to, nearest last, as a JSON list.
    redo        TEXT NOT NULL CHECK (json_valid(redo)),
    summary     TEXT NOT NULL,
    made_at     TEXT NOT NULL,
    document    TEXT NOT NULL CHECK (json_valid(document)),
    PRIMARY KEY (plan_id, revision)
) STRICT, WITHOUT ROWID;
