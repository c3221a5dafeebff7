-- name: list_plan_ids(archived)
-- The shelf, in the order the plans were put there; vans of the school stand apart.
SELECT plan_id FROM plan AS p
WHERE archived = :archived AND NOT EXISTS (SELECT 1 FROM school_case AS c WHERE c.plan_id = p.plan_id)
ORDER BY sort_order, plan_id;

-- name: get_head(plan_id)
-- The newest revision of a plan, its document as it stands with the plan.
SELECT p.plan_id, p.archived, p.document, r.revision, r.kind, r.origin, r.before, r.redo, r.summary, r.made_at,
    r.checksum
FROM plan AS p
JOIN revision AS r ON r.plan_id = p.plan_id AND r.revision = p.revision
WHERE p.plan_id = :plan_id;

-- name: get_revision(plan_id, revision)
-- One revision without its document.
SELECT plan_id, revision, kind, origin, before, redo, summary, made_at, checksum
FROM revision
WHERE plan_id = :plan_id AND revision = :revision;

-- name: list_contents(plan_id, revision)
-- What a document is rebuilt from: the last whole one and every change since.
SELECT revision, whole, content
FROM revision
WHERE plan_id = :plan_id AND revision <= :revision AND revision >= (
    SELECT max(w.revision) FROM revision AS w WHERE w.plan_id = :plan_id AND w.revision <= :revision AND w.whole = 1
)
ORDER BY revision;

-- name: get_last_whole(plan_id)
-- The newest revision that is kept whole.
SELECT max(revision) AS revision FROM revision WHERE plan_id = :plan_id AND whole = 1;

-- name: list_revisions(plan_id, before, most)
-- A page of the history, newest first, without the documents.
SELECT r.revision, r.kind, r.origin, r.before, r.summary, r.made_at, coalesce(n.name, '') AS name
FROM revision AS r
LEFT JOIN revision_name AS n ON n.plan_id = r.plan_id AND n.revision = r.revision
WHERE r.plan_id = :plan_id AND r.revision < :before
ORDER BY r.revision DESC
LIMIT :most;

-- name: list_named(plan_id)
-- Revisions that have a name, newest first.
SELECT r.revision, r.kind, r.origin, r.before, r.summary, r.made_at, n.name
FROM revision_name AS n
JOIN revision AS r ON r.plan_id = n.plan_id AND r.revision = n.revision
WHERE n.plan_id = :plan_id
ORDER BY r.revision DESC;

-- name: list_all(plan_id)
-- The whole history with its contents, oldest first, to be taken away.
SELECT r.revision, r.kind, r.origin, r.before, r.redo, r.summary, r.made_at, r.whole, r.content, r.checksum,
    coalesce(n.name, '') AS name
FROM revision AS r
LEFT JOIN revision_name AS n ON n.plan_id = r.plan_id AND n.revision = r.revision
WHERE r.plan_id = :plan_id
ORDER BY r.revision;

-- name: get_last_place()
-- Where on the shelf the next plan goes.
SELECT coalesce(max(sort_order), 0) AS last_place FROM plan;

-- name: insert_plan(plan_id, created_at, sort_order, document)
-- A new plan; its first revision follows in the same transaction.
INSERT INTO plan (plan_id, revision, created_at, sort_order, document)
VALUES (:plan_id, 1, :created_at, :sort_order, :document);

-- name: insert_revision(plan_id, revision, kind, origin, before, redo, summary, made_at, whole, content, checksum, key)
-- A revision.
INSERT INTO revision (
    plan_id, revision, kind, origin, before, redo, summary, made_at, whole, content, checksum, key
) VALUES (
    :plan_id, :revision, :kind, :origin, :before, :redo, :summary, :made_at, :whole, :content, :checksum, :key
);

-- name: get_by_key(plan_id, key)
-- The revision an edit with that key has made.
SELECT revision FROM revision WHERE plan_id = :plan_id AND key = :key;

-- name: update_head(plan_id, revision, document)
-- Makes a revision the newest.
UPDATE plan SET revision = :revision, document = :document WHERE plan_id = :plan_id;

-- name: update_archived(plan_id, archived)
-- Takes a plan off the shelf or puts it back.
UPDATE plan SET archived = :archived WHERE plan_id = :plan_id;

-- name: insert_name(plan_id, revision, name)
-- Gives a revision a name in place of the one it had.
INSERT INTO revision_name (plan_id, revision, name) VALUES (:plan_id, :revision, :name)
ON CONFLICT (plan_id, revision) DO UPDATE SET name = excluded.name;

-- name: delete_name(plan_id, revision)
-- Takes a name back.
DELETE FROM revision_name WHERE plan_id = :plan_id AND revision = :revision;
