-- name: list_entries(plan_id)
-- The record of a plan, oldest first.
SELECT number, kind, subject, was, text, detail, who, made_at, kept_at, revision, takes_back, key, device FROM record
WHERE plan_id = :plan_id ORDER BY number;

-- name: get_by_key(plan_id, key)
-- An entry that was sent before.
SELECT number, kind, subject, was, text, detail, who, made_at, kept_at, revision, takes_back, key, device FROM record
WHERE plan_id = :plan_id AND key = :key;

-- name: get_last(plan_id)
-- How many entries there are.
SELECT coalesce(max(number), 0) AS number FROM record WHERE plan_id = :plan_id;

-- name: get_entry(plan_id, number)
-- One entry, and whether another takes it back.
SELECT kind, (SELECT b.number FROM record AS b WHERE b.plan_id = :plan_id AND b.takes_back = :number) AS taken_by
FROM record WHERE plan_id = :plan_id AND number = :number;

-- name: insert_entry(plan_id, number, key, kind, subject, was, text, detail, who, made_at, kept_at, revision, takes_back, device)
-- Adds an entry.
INSERT INTO record (plan_id, number, key, kind, subject, was, text, detail, who, made_at, kept_at, revision, takes_back,
    device)
VALUES (:plan_id, :number, :key, :kind, :subject, :was, :text, :detail, :who, :made_at, :kept_at, :revision, :takes_back,
    :device);

-- name: list_kind(kind)
-- Entries of one kind of every job that is not taken off the shelf, but for those taken back.
SELECT r.plan_id, r.number, r.kind, r.subject, r.was, r.text, r.detail, r.who, r.made_at, r.kept_at, r.revision,
    r.takes_back, r.key, r.device
FROM record AS r
WHERE r.kind = :kind
    AND NOT EXISTS (SELECT 1 FROM record AS b WHERE b.plan_id = r.plan_id AND b.takes_back = r.number)
ORDER BY r.plan_id, r.number;
