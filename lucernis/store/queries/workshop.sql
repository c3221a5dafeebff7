-- name: list_prices()
-- In the order of the list they came in.
SELECT key, label, unit, price, note, supplier, currency FROM price ORDER BY place, key;

-- name: delete_prices()
-- A list that is brought in takes the place of the one before.
DELETE FROM price;

-- name: insert_price(key, place, label, unit, price, note, supplier, currency)
-- One line of a list.
INSERT INTO price (key, place, label, unit, price, note, supplier, currency)
VALUES (:key, :place, :label, :unit, :price, :note, :supplier, :currency);

-- name: list_weather()
-- Names alone: the files are large.
SELECT name, made_at FROM weather ORDER BY name;

-- name: get_weather(name)
-- One file as it came.
SELECT content FROM weather WHERE name = :name;

-- name: insert_weather(name, content, made_at)
-- A name that is taken gets the new file.
INSERT INTO weather (name, content, made_at) VALUES (:name, :content, :made_at)
ON CONFLICT (name) DO UPDATE SET content = excluded.content, made_at = excluded.made_at;

-- name: delete_weather(name)
-- Plans that name it then say that it is missing.
DELETE FROM weather WHERE name = :name;

-- name: get_weather_count()
-- How many there are.
SELECT count(*) AS files FROM weather;

-- name: list_consumers()
-- In the order of the list they came in.
SELECT row FROM consumer ORDER BY place;

-- name: delete_consumers()
-- A list that is brought in takes the place of the one before.
DELETE FROM consumer;

-- name: insert_consumer(place, row)
-- One line of a list.
INSERT INTO consumer (place, row) VALUES (:place, :row);
