-- name: list_devices()
-- In the order they were let in.
SELECT device_id, name, made_at, role, plan_id FROM device ORDER BY made_at, device_id;

-- name: get_device(token_hash)
-- The device a token belongs to.
SELECT device_id, name, made_at, role, plan_id FROM device WHERE token_hash = :token_hash;

-- name: get_device_count()
-- How many there are.
SELECT count(*) AS devices FROM device;

-- name: insert_device(device_id, name, token_hash, made_at, role, plan_id)
-- Lets a device in.
INSERT INTO device (device_id, name, token_hash, made_at, role, plan_id)
VALUES (:device_id, :name, :token_hash, :made_at, :role, :plan_id);

-- name: update_device_role(device_id, role)
-- Gives a device another role; who sees one job only stays so.
UPDATE device SET role = :role WHERE device_id = :device_id AND role <> 'reader';

-- name: delete_device(device_id)
-- Its token opens nothing from now on.
DELETE FROM device WHERE device_id = :device_id;
