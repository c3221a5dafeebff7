-- The school: who learns on this machine, how each skill stands, every answer given, and cases with their grades.
CREATE TABLE learner (
    learner_id  INTEGER PRIMARY KEY CHECK (learner_id BETWEEN 1 AND 1000000),
    name        TEXT NOT NULL UNIQUE COLLATE NOCASE CHECK (length(name) BETWEEN 1 AND 60),
    practice    TEXT NOT NULL CHECK (length(practice) BETWEEN 1 AND 40),
    made_at     TEXT NOT NULL
) STRICT;

-- How a skill stands: its level, and the state of the published scheduler as JSON.
CREATE TABLE skill_state (
    learner_id  INTEGER NOT NULL REFERENCES learner (learner_id),
    skill       TEXT NOT NULL CHECK (length(skill) BETWEEN 2 AND 40),
    level       INTEGER NOT NULL CHECK (level BETWEEN 1 AND 4),
    -- Right answers in a row at this level; below zero wrong ones.
    streak      INTEGER NOT NULL CHECK (streak BETWEEN -100 AND 100),
    card        TEXT NOT NULL CHECK (json_valid(card) AND length(card) <= 4000),
    PRIMARY KEY (learner_id, skill)
) STRICT, WITHOUT ROWID;

CREATE TABLE answer (
    number      INTEGER PRIMARY KEY CHECK (number BETWEEN 1 AND 1000000000),
    learner_id  INTEGER NOT NULL REFERENCES learner (learner_id),
    skill       TEXT NOT NULL CHECK (length(skill) BETWEEN 2 AND 40),
    level       INTEGER NOT NULL CHECK (level BETWEEN 1 AND 4),
    seed        INTEGER NOT NULL CHECK (seed BETWEEN 0 AND 4294967295),
    given       TEXT NOT NULL CHECK (json_valid(given) AND length(given) <= 400),
    is_right    INTEGER NOT NULL CHECK (is_right IN (0, 1)),
    mistake     TEXT NOT NULL CHECK (length(mistake) <= 200),
    made_at     TEXT NOT NULL
) STRICT;
CREATE INDEX answer_learner ON answer (learner_id, number);

CREATE TABLE school_case (
    case_id     TEXT PRIMARY KEY CHECK (length(case_id) BETWEEN 6 AND 40),
    learner_id  INTEGER NOT NULL REFERENCES learner (learner_id),
    kind        TEXT NOT NULL CHECK (kind IN ('mistake', 'fault', 'letter')),
    seed        INTEGER NOT NULL CHECK (seed BETWEEN 0 AND 4294967295),
    level       INTEGER NOT NULL CHECK (level BETWEEN 1 AND 4),
    practice    TEXT NOT NULL CHECK (length(practice) BETWEEN 1 AND 40),
    -- The van it is worked on, apart from the shelf.
    plan_id     TEXT UNIQUE REFERENCES plan (plan_id),
    -- What was marked or read so far, as JSON.
    work        TEXT NOT NULL CHECK (json_valid(work) AND length(work) <= 60000),
    points      REAL CHECK (points BETWEEN 0 AND 100),
    result      TEXT CHECK (result IS NULL OR json_valid(result)),
    made_at     TEXT NOT NULL,
    done_at     TEXT
) STRICT;
CREATE INDEX school_case_learner ON school_case (learner_id, made_at);
