"""Faults to find with a meter, letters to plan from, words, and what scripted players reach."""

from __future__ import annotations

from dataclasses import replace

import pytest

from lucernis.core.checks.codes import CODES
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.evaluation.unjudged import without_judgement
from lucernis.core.prove.causes import causes_of
from lucernis.core.school.breaking.van import good_van
from lucernis.core.school.fault_case import (
    EVENING_MIN,
    Look,
    causes_at,
    fault_case,
    frame_of_van,
    grade_fault,
    own_path,
    symptom_text,
    take,
)
from lucernis.core.school.grades import Mark, grade
from lucernis.core.school.letters import grade_letter, letter, proposal_of, start_of
from lucernis.core.school.mistakes import mistake_case
from lucernis.core.school.words import word, word_picture, words
from lucernis.errors import UnknownRow
from lucernis.plan.document import parse_plan
from lucernis.practice.labels import LABELS


class TestFault:
    """Faults."""

    case = fault_case(1, 1)

    def test_the_same_seed_is_the_same_and_something_is_said(self) -> None:
        assert fault_case(1, 1) == self.case
        assert 1 <= len(self.case.symptoms) <= 3
        assert symptom_text(frame_of_van(self.case.van), self.case.symptoms[0])

    def test_a_reading_shows_the_same_every_time_and_costs(self) -> None:
        made = frame_of_van(self.case.van)
        reading = made.volts("+b1", "-b1", part="b1").id
        first, again = (take(self.case, [], reading, "rest") for _ in range(2))
        assert first == again
        assert 12.0 < first.value < 13.5
        assert first.minutes >= 1

    def test_another_state_costs_more(self) -> None:
        made = frame_of_van(self.case.van)
        reading = made.volts("+b1", "-b1", part="b1").id
        other = next(name for name in made.situations if name.startswith("load:"))
        first = take(self.case, [], reading, "rest")
        assert take(self.case, [first], reading, other).minutes > first.minutes

    def test_found_near_and_missed(self) -> None:
        right = self.case.planted.cause
        made = frame_of_van(self.case.van)
        near = next(
            one
            for one in causes_of(made)
            if one.id != right.id and {one.part, one.run} & ({right.part, right.run} - {""})
        )
        far = next(one for one in causes_of(made) if not {one.part, one.run} & {right.part, right.run} - {""})
        own, _ = own_path(self.case)
        grades = {
            one: grade_fault(self.case, own, cause)
            for one, cause in (("found", right.id), ("near", near.id), ("missed", far.id))
        }
        assert [grades[one].outcome for one in grades] == ["found", "near", "missed"]
        assert grades["found"].points == 100.0
        assert grades["near"].points == 25.0
        assert grades["missed"].points == 0.0

    def slowly(self, minutes: float) -> list[Look]:
        """The program's own readings, taking so long together."""
        own, _ = own_path(self.case)
        return [replace(one, minutes=minutes / len(own)) for one in own]

    def test_after_the_evening_nothing_is_given_for_speed(self) -> None:
        found = grade_fault(self.case, self.slowly(EVENING_MIN + 1), self.case.planted.cause.id)
        assert (found.outcome, found.points) == ("found", 60.0)

    def test_slower_than_the_program_is_less_than_as_quick(self) -> None:
        own, _ = own_path(self.case)
        slow = self.slowly(2 * sum(one.minutes for one in own))
        assert grade_fault(self.case, slow, self.case.planted.cause.id).points == pytest.approx(60 + 40 * 0.5, abs=0.2)

    def test_a_guess_that_happens_to_be_right_is_no_find(self) -> None:
        """Nothing read, or something read that says nothing of it."""
        made = frame_of_van(self.case.van)
        right = self.case.planted.cause.id
        bank = take(self.case, [], made.volts("+b1", "-b1", part="b1").id, "rest")
        for looks in ([], [bank]):
            graded = grade_fault(self.case, looks, right)
            assert (graded.outcome, graded.points) == ("guessed", 20.0)

    def test_causes_at_a_part_are_of_that_part(self) -> None:
        right = self.case.planted.cause
        subject = right.part or right.run
        assert right.id in {one.id for one in causes_at(self.case.van, subject)}
        with pytest.raises(UnknownRow, match="no part or run"):
            causes_at(self.case.van, "nothing")

    def test_an_unknown_state_is_named(self) -> None:
        with pytest.raises(UnknownRow, match="no state"):
            take(self.case, [], frame_of_van(self.case.van).volts("+b1", "-b1", part="b1").id, "asleep")


class TestLetter:
    """Letters."""

    made = letter(3, 2, "metric_caravan")

    def test_the_proposal_itself_is_graded_well_and_an_empty_plan_is_nothing(self) -> None:
        proposed = grade_letter(self.made, proposal_of(self.made))
        empty = grade_letter(self.made, parse_plan(start_of(self.made)))
        assert proposed.points >= 95
        assert proposed.missing == []
        assert empty.points == 0
        assert len(empty.missing) == len(self.made.wanted)

    def test_what_is_left_out_is_named(self) -> None:
        doc = start_of(self.made)
        first = self.made.wanted[0]
        doc["parts"].append(
            {"kind": "load", "id": "l1", "tag": "L01", "name": "Mine", "power_w": first.power_w, "hours_per_day": 1}
        )
        found = grade_letter(self.made, parse_plan(doc))
        assert first.name not in found.missing
        assert len(found.missing) == len(self.made.wanted) - 1

    def test_a_letter_is_the_same_and_names_its_devices(self) -> None:
        assert letter(3, 2, "metric_caravan") == self.made
        assert all(one.name.lower() in self.made.text for one in self.made.wanted)
        assert f"{self.made.days:g} days" in self.made.text

    def test_higher_levels_ask_for_more(self) -> None:
        assert len(letter(3, 4, "metric_caravan").wanted) > len(letter(3, 1, "metric_caravan").wanted)


class TestWords:
    """The glossary."""

    def test_every_term_and_every_code_is_there_with_why_and_source(self) -> None:
        names = {one.name for one in words()}
        assert names == set(LABELS["terms"]) | set(CODES)
        assert all(one.what and one.why and one.source for one in words())

    @pytest.mark.parametrize("name", sorted(LABELS["terms"]))
    def test_every_term_has_a_picture_that_marks_it(self, name: str) -> None:
        picture = word_picture(name)
        assert picture is not None
        assert sum("this is it" in piece.label for piece in picture.pieces) == 1
        for piece in picture.pieces:
            for stroke in piece.strokes:
                assert all(0 <= x <= picture.width and 0 <= y <= picture.height for x, y in stroke.points)

    def test_case_does_not_matter_and_what_is_not_there_is_named(self) -> None:
        assert word("selectivity").name == "Selectivity"
        with pytest.raises(UnknownRow, match="no term or code"):
            word("flux capacitor")


def test_a_report_without_judgement_gives_nothing_away_and_keeps_its_figures() -> None:
    case = mistake_case(7, 2)
    report = evaluate(parse_plan(case.document), with_working=False)
    hidden = without_judgement(report)
    assert report.findings
    assert hidden.findings == []
    assert {one.verdict for one in (*hidden.runs, *hidden.loads, *hidden.parts, *hidden.channels)} == {"good"}
    assert not any(one.finding_ids for one in (*hidden.runs, *hidden.loads, *hidden.parts, *hidden.channels))
    assert (hidden.summary.open_stop, hidden.summary.open_fix, hidden.summary.open_look) == (0, 0, 0)
    assert [one.design_current_a for one in hidden.runs] == [one.design_current_a for one in report.runs]
    assert all(one.wire.computed_label == one.wire.label for one in hidden.runs)


class TestPlayers:
    """Scripted players: one who marks what is usual and mends nothing, and one who knows."""

    def test_naive_and_expert_stand_far_apart(self) -> None:
        naive, expert = [], []
        for seed in range(6):
            case = mistake_case(seed, 1 + seed % 3)
            broken, good = parse_plan(case.document), parse_plan(good_van(case.van).doc)
            usual = [Mark(run.id, "fuse-above-wire") for run in broken.runs[:3]]
            naive.append(grade(case, usual, broken).points)
            expert.append(grade(case, [Mark(one.subject, one.code) for one in case.mistakes], good).points)
        assert max(naive) <= 25
        assert min(expert) == 100

    def test_the_program_by_its_own_readings_finds_most_faults(self) -> None:
        cases = [fault_case(seed, 1) for seed in range(4)]
        found = sum(own_path(one)[1] == one.planted.cause.id for one in cases)
        assert found >= 3
