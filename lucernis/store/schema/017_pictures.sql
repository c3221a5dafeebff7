-- Pictures by what is in them: one that two jobs show is kept once, and backups share those they have in common.
CREATE TABLE picture (
    sha256      TEXT PRIMARY KEY CHECK (length(sha256) = 64),
    picture     BLOB NOT NULL CHECK (length(picture) BETWEEN 100 AND 2000000)
) STRICT;
INSERT OR IGNORE INTO picture (sha256, picture) SELECT sha256_bytes(picture), picture FROM photo;
CREATE TABLE photo_new (
    photo_id    TEXT PRIMARY KEY CHECK (length(photo_id) BETWEEN 1 AND 40),
    plan_id     TEXT NOT NULL REFERENCES plan (plan_id),
    -- The channel, place, run or part it shows, and which of them that is; those from before do not say.
    subject     TEXT NOT NULL CHECK (length(subject) BETWEEN 1 AND 40),
    kind        TEXT NOT NULL DEFAULT '' CHECK (kind IN ('', 'channel', 'place', 'run', 'part')),
    note        TEXT NOT NULL CHECK (length(note) <= 400),
    made_at     TEXT NOT NULL,
    removed     INTEGER NOT NULL DEFAULT 0 CHECK (removed IN (0, 1)),
    -- Its picture. In a backup the picture itself lies beside it.
    sha256      TEXT NOT NULL CHECK (length(sha256) = 64)
) STRICT;
INSERT INTO photo_new (photo_id, plan_id, subject, kind, note, made_at, removed, sha256)
SELECT photo_id, plan_id, subject, kind, note, made_at, removed, sha256_bytes(picture) FROM photo ORDER BY rowid;
DROP TABLE photo;
ALTER TABLE photo_new RENAME TO photo;
CREATE INDEX photo_of_plan ON photo (plan_id);
