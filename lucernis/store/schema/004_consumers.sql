-- Consumers of the workshop's own, beside those that ship; one row of their CSV each.
CREATE TABLE consumer (
    place       INTEGER PRIMARY KEY CHECK (place >= 0),
    row         TEXT NOT NULL CHECK (length(row) <= 1000)
) STRICT;
