-- name: list_parts()
-- Own parts by name.
SELECT part_id, name, note, fields FROM part ORDER BY name, part_id;

-- name: insert_part(part_id, name, note, fields, made_at)
-- A new own part.
INSERT INTO part (part_id, name, note, fields, made_at) VALUES (:part_id, :name, :note, :fields, :made_at);

-- name: delete_part(part_id)
-- Plans hold copies, so that a part taken out changes none of them.
DELETE FROM part WHERE part_id = :part_id;

-- name: get_part_count()
-- How many there are.
SELECT count(*) AS parts FROM part;
