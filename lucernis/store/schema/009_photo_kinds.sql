-- What kind of thing a photo shows: a place and a channel may have the same id. Those from before do not say, and show
-- with anything of their id.
ALTER TABLE photo ADD COLUMN kind TEXT NOT NULL DEFAULT '' CHECK (kind IN ('', 'channel', 'place', 'run', 'part'));
