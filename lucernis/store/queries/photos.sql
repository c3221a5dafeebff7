-- name: list_photos(plan_id)
-- Those of a plan without their bytes, oldest first.
SELECT photo_id, subject, kind, note, made_at, coalesce(length(picture), 0) AS size_bytes
FROM photo LEFT JOIN picture USING (sha256)
WHERE plan_id = :plan_id AND removed = 0 ORDER BY photo.rowid;

-- name: get_photo(plan_id, photo_id)
-- Its bytes; NULL where a backup was brought back without them.
SELECT picture FROM photo LEFT JOIN picture USING (sha256)
WHERE plan_id = :plan_id AND photo_id = :photo_id AND removed = 0;

-- name: get_photo_count(plan_id)
-- How many a plan holds, shown or not.
SELECT count(*) AS photos FROM photo WHERE plan_id = :plan_id;

-- name: insert_picture(digest, picture)
-- Keeps a picture, once however often it is shown.
INSERT INTO picture (sha256, picture) VALUES (:digest, :picture) ON CONFLICT (sha256) DO NOTHING;

-- name: insert_photo(photo_id, plan_id, subject, kind, note, made_at, digest)
-- Keeps what a picture shows.
INSERT INTO photo (photo_id, plan_id, subject, kind, note, made_at, sha256)
VALUES (:photo_id, :plan_id, :subject, :kind, :note, :made_at, :digest);

-- name: update_photo_removed(plan_id, photo_id, removed)
-- Takes a photo away or brings it back.
UPDATE photo SET removed = :removed WHERE plan_id = :plan_id AND photo_id = :photo_id AND removed <> :removed;
