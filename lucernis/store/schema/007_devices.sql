-- Devices that were let in from the network, each with a token of its own; only its hash is kept.
CREATE TABLE device (
    device_id   TEXT PRIMARY KEY CHECK (length(device_id) BETWEEN 1 AND 40),
    name        TEXT NOT NULL CHECK (length(name) BETWEEN 1 AND 60),
    token_hash  TEXT NOT NULL UNIQUE CHECK (length(token_hash) = 64),
    made_at     TEXT NOT NULL
) STRICT;
