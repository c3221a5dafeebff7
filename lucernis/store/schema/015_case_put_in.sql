-- What was put into the van of a case when it was begun, as JSON: it is graded by that, whatever a seed gives later.
ALTER TABLE school_case ADD COLUMN put_in TEXT CHECK (put_in IS NULL OR (json_valid(put_in) AND length(put_in) <= 20000));
