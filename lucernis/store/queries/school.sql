-- name: list_learners()
-- Everybody who learns here.
SELECT learner_id, name, practice, made_at FROM learner ORDER BY name;

-- name: get_learner(learner_id)
-- One of them.
SELECT learner_id, name, practice, made_at FROM learner WHERE learner_id = :learner_id;

-- name: insert_learner(name, practice, made_at)
-- Somebody new.
INSERT INTO learner (name, practice, made_at) VALUES (:name, :practice, :made_at);

-- name: get_learner_named(name)
-- Somebody by name.
SELECT learner_id, name, practice, made_at FROM learner WHERE name = :name;

-- name: update_practice(learner_id, practice)
-- Another school of practice.
UPDATE learner SET practice = :practice WHERE learner_id = :learner_id;

-- name: list_skills(learner_id)
-- How the skills of a learner stand.
SELECT skill, level, streak, card FROM skill_state WHERE learner_id = :learner_id ORDER BY skill;

-- name: update_skill(learner_id, skill, level, streak, card)
-- A skill after an answer.
INSERT INTO skill_state (learner_id, skill, level, streak, card) VALUES (:learner_id, :skill, :level, :streak, :card)
ON CONFLICT (learner_id, skill) DO UPDATE SET level = excluded.level, streak = excluded.streak, card = excluded.card;

-- name: insert_answer(learner_id, skill, level, seed, given, is_right, mistake, made_at)
-- An answer that was given.
INSERT INTO answer (learner_id, skill, level, seed, given, is_right, mistake, made_at)
VALUES (:learner_id, :skill, :level, :seed, :given, :is_right, :mistake, :made_at);

-- name: get_asked(learner_id, skill, level, seed)
-- Whether a question was answered before.
SELECT count(*) AS asked FROM answer
WHERE learner_id = :learner_id AND skill = :skill AND level = :level AND seed = :seed;

-- name: list_tallies(learner_id)
-- Answers by skill and level.
SELECT skill, level, count(*) AS answers, sum(is_right) AS rights, max(made_at) AS last_at
FROM answer WHERE learner_id = :learner_id GROUP BY skill, level ORDER BY skill, level;

-- name: list_mistakes(learner_id)
-- Usual mistakes somebody made, most often first.
SELECT skill, mistake, count(*) AS times FROM answer
WHERE learner_id = :learner_id AND mistake <> '' GROUP BY skill, mistake ORDER BY times DESC, skill LIMIT 12;

-- name: insert_case(case_id, learner_id, kind, seed, level, practice, plan_id, put_in, made_at)
-- A case is begun.
INSERT INTO school_case (case_id, learner_id, kind, seed, level, practice, plan_id, work, put_in, made_at)
VALUES (:case_id, :learner_id, :kind, :seed, :level, :practice, :plan_id, '[]', :put_in, :made_at);

-- name: get_case(case_id)
-- One case.
SELECT case_id, learner_id, kind, seed, level, practice, plan_id, work, points, result, put_in, made_at, done_at
FROM school_case WHERE case_id = :case_id;

-- name: get_case_of_plan(plan_id)
-- The case a van belongs to.
SELECT case_id, learner_id, kind, seed, level, practice, plan_id, work, points, result, put_in, made_at, done_at
FROM school_case WHERE plan_id = :plan_id;

-- name: list_cases(learner_id)
-- The cases of a learner, newest first.
SELECT case_id, learner_id, kind, seed, level, practice, plan_id, work, points, result, put_in, made_at, done_at
FROM school_case WHERE learner_id = :learner_id ORDER BY made_at DESC, case_id LIMIT 200;

-- name: list_open_plans()
-- Vans that are looked over for mistakes just now.
SELECT plan_id, case_id FROM school_case WHERE kind = 'mistake' AND done_at IS NULL AND plan_id IS NOT NULL;

-- name: update_work(case_id, work)
-- What was marked or read so far.
UPDATE school_case SET work = :work WHERE case_id = :case_id AND done_at IS NULL;

-- name: update_result(case_id, points, result, done_at)
-- A case is handed in, once.
UPDATE school_case SET points = :points, result = :result, done_at = :done_at
WHERE case_id = :case_id AND done_at IS NULL;
