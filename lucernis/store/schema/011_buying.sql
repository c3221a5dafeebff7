-- Who sells a thing, and in which money its price is.
ALTER TABLE price ADD COLUMN supplier TEXT NOT NULL DEFAULT '' CHECK (length(supplier) <= 80);
ALTER TABLE price ADD COLUMN currency TEXT NOT NULL DEFAULT '' CHECK (length(currency) <= 3);

-- What is on the workshop's shelf: things by their key in the price list, and wire by the length that is left of it.
CREATE TABLE stock (
    place       INTEGER PRIMARY KEY CHECK (place >= 0),
    key         TEXT NOT NULL CHECK (length(key) BETWEEN 1 AND 80),
    -- Of a piece of wire; 0 for what is counted.
    length_m    REAL NOT NULL CHECK (length_m >= 0 AND length_m <= 9999),
    count       REAL NOT NULL CHECK (count > 0 AND count <= 100000),
    note        TEXT NOT NULL CHECK (length(note) <= 200)
) STRICT;

-- What the workshop reckons its work by: one JSON object.
CREATE TABLE terms (
    one         INTEGER PRIMARY KEY CHECK (one = 1),
    content     TEXT NOT NULL CHECK (json_valid(content))
) STRICT;

-- Quotes as they were handed out: never changed, with the revision they were made from.
CREATE TABLE quote (
    number      TEXT PRIMARY KEY CHECK (length(number) BETWEEN 1 AND 20),
    plan_id     TEXT NOT NULL REFERENCES plan (plan_id),
    revision    INTEGER NOT NULL CHECK (revision BETWEEN 1 AND 1000000000),
    made_on     TEXT NOT NULL CHECK (length(made_on) = 10),
    valid_until TEXT NOT NULL CHECK (length(valid_until) = 10),
    content     TEXT NOT NULL CHECK (json_valid(content))
) STRICT;
CREATE INDEX quote_of_plan ON quote (plan_id);
