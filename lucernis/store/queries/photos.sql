-- name: list_photos(plan_id)
-- Those of a plan without their bytes, oldest first.
SELECT photo_id, subject, kind, note, made_at, length(picture) AS size_bytes FROM photo
WHERE plan_id = :plan_id AND removed = 0 ORDER BY rowid;

-- name: get_photo(plan_id, photo_id)
-- Its bytes.
SELECT picture FROM photo WHERE plan_id = :plan_id AND photo_id = :photo_id AND removed = 0;

-- name: get_photo_count(plan_id)
-- How many a plan holds, shown or not.
SELECT count(*) AS photos FROM photo WHERE plan_id = :plan_id;

-- name: insert_photo(photo_id, plan_id, subject, kind, note, made_at, picture)
-- Keeps a photo.
INSERT INTO photo (photo_id, plan_id, subject, kind, note, made_at, picture)
VALUES (:photo_id, :plan_id, :subject, :kind, :note, :made_at, :picture);

-- name: update_photo_removed(plan_id, photo_id, removed)
-- Takes a photo away or brings it back.
UPDATE photo SET removed = :removed WHERE plan_id = :plan_id AND photo_id = :photo_id AND removed <> :removed;
