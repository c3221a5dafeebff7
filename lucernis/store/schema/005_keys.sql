-- Each edit carries a key of its own: sent again because its answer was lost, it is not done twice.
ALTER TABLE revision ADD COLUMN key TEXT CHECK (length(key) BETWEEN 8 AND 80);
CREATE UNIQUE INDEX revision_key ON revision (plan_id, key) WHERE key IS NOT NULL;
