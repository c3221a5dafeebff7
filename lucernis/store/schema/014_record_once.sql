-- REPLACE takes an entry away without a word to the trigger that keeps it: an entry's number and key are given once.
CREATE TRIGGER record_once BEFORE INSERT ON record
WHEN EXISTS (SELECT 1 FROM record WHERE plan_id = NEW.plan_id AND (number = NEW.number OR key = NEW.key))
BEGIN SELECT RAISE(ABORT, 'the record is only added to'); END;
