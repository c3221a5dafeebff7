-- The newest document stands with its plan; revisions are kept as what they changed, whole every now and then. Each has
-- a checksum of its whole document, so that one that reads differently some day is noticed.
CREATE TABLE revision_lean (
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
    -- Whether the content is a whole document or what changed against the revision before.
    whole       INTEGER NOT NULL CHECK (whole IN (0, 1)),
    content     TEXT NOT NULL CHECK (json_valid(content)),
    checksum    TEXT NOT NULL CHECK (length(checksum) = 64),
    key         TEXT CHECK (length(key) BETWEEN 8 AND 80),
    PRIMARY KEY (plan_id, revision)
) STRICT, WITHOUT ROWID;
INSERT INTO revision_lean
SELECT plan_id, revision, kind, origin, before, redo, summary, made_at, 1, document, sha256_hex(document), key
FROM revision;
DROP TABLE revision;
ALTER TABLE revision_lean RENAME TO revision;
CREATE UNIQUE INDEX revision_key ON revision (plan_id, key) WHERE key IS NOT NULL;

ALTER TABLE plan ADD COLUMN document TEXT NOT NULL DEFAULT '{}' CHECK (json_valid(document));
UPDATE plan SET document = (
    SELECT r.content FROM revision AS r WHERE r.plan_id = plan.plan_id AND r.revision = plan.revision
);

-- Names people give to revisions: "as quoted", "as built".
CREATE TABLE revision_name (
    plan_id     TEXT NOT NULL,
    revision    INTEGER NOT NULL,
    name        TEXT NOT NULL CHECK (length(name) BETWEEN 1 AND 60),
    PRIMARY KEY (plan_id, revision),
    FOREIGN KEY (plan_id, revision) REFERENCES revision (plan_id, revision)
) STRICT, WITHOUT ROWID;

-- What the shelf shows of a plan, by what it was computed from: computed again whenever either is another.
CREATE TABLE card (
    plan_id     TEXT PRIMARY KEY REFERENCES plan (plan_id),
    made_from   TEXT NOT NULL,
    content     TEXT NOT NULL CHECK (json_valid(content))
) STRICT;
