-- name: list_plans(archived)
-- The shelf, in the order the plans were put there.
SELECT p.plan_id, p.revision, p.archived, p.created_at, r.made_at, r.document
FROM plan AS p
JOIN revision AS r ON r.plan_id = p.plan_id AND r.revision = p.revision
WHERE p.archived = :archived
ORDER BY p.sort_order, p.plan_id;

-- name: get_head(plan_id)
-- The newest revision of a plan.
SELECT p.plan_id, p.archived, r.revision, r.kind, r.origin, r.before, r.redo, r.summary, r.made_at, r.document
FROM plan AS p
JOIN revision AS r ON r.plan_id = p.plan_id AND r.revision = p.revision
WHERE p.plan_id = :plan_id;

-- name: get_revision(plan_id, revision)
-- One revision, whole.
SELECT plan_id, revision, kind, origin, before, redo, summary, made_at, document
FROM revision
WHERE plan_id = :plan_id AND revision = :revision;

-- name: list_revisions(plan_id, most)
-- The history, newest first, without the documents.
SELECT revision, kind, origin, before, summary, made_at
FROM revision
WHERE plan_id = :plan_id
ORDER BY revision DESC
LIMIT :most;

-- name: get_last_place()
-- Where on the shelf the next plan goes.
SELECT coalesce(max(sort_order), 0) AS last_place FROM plan;

-- name: insert_plan(plan_id, created_at, sort_order)
-- A new plan; its first revision follows in the same transaction.
INSERT INTO plan (plan_id, revision, created_at, sort_order) VALUES (:plan_id, 1, :created_at, :sort_order);

-- name: insert_revision(plan_id, revision, kind, origin, before, redo, summary, made_at, document, key)
-- A revision.
INSERT INTO revision (plan_id, revision, kind, origin, before, redo, summary, made_at, document, key)
VALUES (:plan_id, :revision, :kind, :origin, :before, :redo, :summary, :made_at, :document, :key);

-- name: get_by_key(plan_id, key)
-- The revision an edit with that key has made.
SELECT revision FROM revision WHERE plan_id = :plan_id AND key = :key;

-- name: update_head(plan_id, revision)
-- Makes a revision the newest.
UPDATE plan SET revision = :revision WHERE plan_id = :plan_id;

-- name: update_archived(plan_id, archived)
-- Takes a plan off the shelf or puts it back.
UPDATE plan SET archived = :archived WHERE plan_id = :plan_id;
