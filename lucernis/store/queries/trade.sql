-- name: list_stock()
-- In the order it was put.
SELECT key, length_m, count, note FROM stock ORDER BY place;

-- name: delete_stock()
-- A shelf that is put takes the place of the one before.
DELETE FROM stock;

-- name: insert_stock(place, key, length_m, count, note)
-- One thing on the shelf.
INSERT INTO stock (place, key, length_m, count, note) VALUES (:place, :key, :length_m, :count, :note);

-- name: get_terms()
-- There is one set of them.
SELECT content FROM terms WHERE one = 1;

-- name: insert_terms(content)
-- In the place of those before.
INSERT INTO terms (one, content) VALUES (1, :content) ON CONFLICT (one) DO UPDATE SET content = excluded.content;

-- name: list_quotes(plan_id)
-- Newest first.
SELECT number, plan_id, revision, made_on, valid_until, content FROM quote
WHERE plan_id = :plan_id ORDER BY number DESC;

-- name: get_last_quote(year)
-- Of a year, by the whole workshop.
SELECT max(number) AS number FROM quote WHERE number LIKE :year;

-- name: insert_quote(number, plan_id, revision, made_on, valid_until, content)
-- Keeps a quote for good.
INSERT INTO quote (number, plan_id, revision, made_on, valid_until, content)
VALUES (:number, :plan_id, :revision, :made_on, :valid_until, :content);
