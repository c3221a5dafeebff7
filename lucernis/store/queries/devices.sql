-- name: list_devices()
-- In the order they were let in.
SELECT device_id, name, made_at FROM device ORDER BY made_at, device_id;

-- name: get_device(token_hash)
-- The device a token belongs to.
SELECT device_id, name FROM device WHERE token_hash = :token_hash;

-- name: get_device_count()
-- How many there are.
SELECT count(*) AS devices FROM device;

-- name: insert_device(device_id, name, token_hash, made_at)
-- Lets a device in.
INSERT INTO device (device_id, name, token_hash, made_at) VALUES (:device_id, :name, :token_hash, :made_at);

-- name: delete_device(device_id)
-- Its token opens nothing from now on.
DELETE FROM device WHERE device_id = :device_id;
