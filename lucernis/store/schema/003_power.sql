-- What the workshop keeps beside its plans: prices, and weather files that plans name.
CREATE TABLE price (
    key         TEXT PRIMARY KEY CHECK (length(key) BETWEEN 1 AND 60),
    place       INTEGER NOT NULL CHECK (place >= 0),
    label       TEXT NOT NULL CHECK (length(label) <= 80),
    unit        TEXT NOT NULL CHECK (length(unit) <= 20),
    price       REAL NOT NULL CHECK (price >= 0 AND price <= 1000000),
    note        TEXT NOT NULL CHECK (length(note) <= 200)
) STRICT;

CREATE TABLE weather (
    name        TEXT PRIMARY KEY CHECK (length(name) BETWEEN 1 AND 40),
    content     TEXT NOT NULL CHECK (length(content) <= 4000000),
    made_at     TEXT NOT NULL
) STRICT;
