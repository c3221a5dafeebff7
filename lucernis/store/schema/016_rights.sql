-- What a device that was let in may do: all the host may, the work, or look at one job.
ALTER TABLE device ADD COLUMN role TEXT NOT NULL DEFAULT 'worker' CHECK (role IN ('owner', 'worker', 'reader'));
-- The job a reader sees; nothing refers to it, so that a device outlives whatever is brought back.
ALTER TABLE device ADD COLUMN plan_id TEXT NOT NULL DEFAULT '' CHECK ((role = 'reader') = (plan_id <> ''));
-- The name of the device an entry came from, as it was then; empty where it came from before this was kept.
ALTER TABLE record ADD COLUMN device TEXT NOT NULL DEFAULT '' CHECK (length(device) <= 60);
