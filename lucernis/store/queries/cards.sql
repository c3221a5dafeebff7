-- name: list_cards()
-- What the shelf showed last of every plan.
SELECT plan_id, made_from, content FROM card;

-- name: insert_card(plan_id, made_from, content)
-- Keeps what the shelf shows of a plan, in place of what it showed before.
INSERT INTO card (plan_id, made_from, content) VALUES (:plan_id, :made_from, :content)
ON CONFLICT (plan_id) DO UPDATE SET made_from = excluded.made_from, content = excluded.content;
