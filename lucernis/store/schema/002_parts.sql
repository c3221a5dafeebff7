-- Own parts, kept beside what ships, to be used again in any plan.
CREATE TABLE part (
    part_id     TEXT PRIMARY KEY CHECK (length(part_id) BETWEEN 1 AND 40),
    name        TEXT NOT NULL CHECK (length(name) BETWEEN 1 AND 80),
    note        TEXT NOT NULL CHECK (length(note) <= 200),
    fields      TEXT NOT NULL CHECK (json_valid(fields)),
    made_at     TEXT NOT NULL
) STRICT;
