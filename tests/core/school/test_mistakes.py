"""Cases to find mistakes in: every code can be produced and only it, cases have what they claim, grades are fair."""

from __future__ import annotations

import os

import pytest

from lucernis.core.checks.codes import CODES
from lucernis.core.evaluation.judged import findings_of
from lucernis.core.report import Finding
from lucernis.core.school.breaking.registry import BREAKERS
from lucernis.core.school.breaking.van import good_van, van_names
from lucernis.core.school.dice import Dice
from lucernis.core.school.grades import Mark, by_every_set, grade
from lucernis.core.school.mistakes import (
    DRAWS,
    NOT_IN_A_CASE,
    MistakeCase,
    break_van,
    mistake_case,
    producible,
    put_in,
    recipes,
)
from lucernis.errors import NothingFits
from lucernis.plan.document import parse_plan
from tests.helpers import RANKS, every_finding

# `make soak` plays five hundred.
CASES = int(os.environ.get("LUCERNIS_SCHOOL_CASES", "12"))


def new_ones(case: MistakeCase) -> list[Finding]:
    """Findings of the broken van that the good one has not, by all checks and without the school's own code."""
    before = every_finding(good_van(case.van).report.findings)
    findings = findings_of(parse_plan(case.document))
    return [one for one in findings if every_finding([one]).keys() - before.keys()]


def exactly(case: MistakeCase) -> None:
    """A case has the mistakes it claims, and nothing else as grave as the lightest of them."""
    found = new_ones(case)
    lightest = max(RANKS[one.severity] for one in case.mistakes)
    for mistake in case.mistakes:
        assert any(mistake.code == code and subject in mistake.subjects for code, subject in every_finding(found)), (
            mistake
        )
    claimed = {(code, subject) for one in case.mistakes for code in one.codes for subject in one.subjects}
    for one in found:
        if RANKS[one.severity] <= lightest:
            assert (one.code, one.subject) in claimed, f"{one.code} at {one.subject} was not claimed"


@pytest.mark.parametrize("name", van_names())
def test_good_vans_have_nothing_to_stop_or_mend(name: str) -> None:
    assert {one.severity for one in good_van(name).report.findings} <= {"look"}
    assert all(run.wire.pinned for run in good_van(name).report.runs)


def test_every_code_is_in_a_case_or_says_why_not() -> None:
    assert set(producible()) | NOT_IN_A_CASE == set(CODES)
    assert not set(producible()) & NOT_IN_A_CASE
    assert set(BREAKERS) == set(producible())


@pytest.mark.parametrize("code", producible())
def test_a_code_can_be_produced_and_only_it(code: str) -> None:
    case = break_van([code], 5)
    assert [one.code for one in case.mistakes] == [code]
    exactly(case)


def test_recipes_are_draws_of_known_codes_in_known_vans() -> None:
    assert set(recipes()) == set(van_names())
    for mine in recipes().values():
        assert set(mine) <= set(BREAKERS)
        assert all(draws == sorted(set(draws)) and draws[0] >= 0 and draws[-1] < DRAWS for draws in mine.values())


@pytest.mark.parametrize("seed", range(CASES))
def test_generated_cases_have_exactly_what_they_claim(seed: int) -> None:
    exactly(mistake_case(seed, 1 + seed % 4))


def test_the_same_seed_is_the_same_case() -> None:
    one, other = mistake_case(4711, 3), mistake_case(4711, 3)
    assert one == other
    assert mistake_case(4712, 3) != one


@pytest.mark.parametrize(("level", "most"), [(1, 1), (2, 2), (3, 3), (4, 3)])
def test_levels_hold_their_number_and_their_kind(level: int, most: int) -> None:
    for seed in range(6):
        case = mistake_case(seed, level)
        assert 1 <= len(case.mistakes) <= most
        if level == 4:
            assert len(case.mistakes) == 3
        if level <= 2:
            assert all(one.hard <= level for one in case.mistakes)


def test_what_no_van_takes_is_refused_by_name() -> None:
    with pytest.raises(NothingFits, match="no van takes"):
        break_van(["bank-mixed-lead", "shunt-over"], 1)


def test_a_van_that_does_not_take_a_mistake_says_so() -> None:
    # The pickup has no shunt.
    assert put_in(good_van("siskin"), [("shunt-over", 0)]) is None


def test_mistakes_that_take_the_same_away_are_drawn_anew() -> None:
    """A run that one mistake removes is asked for by another: that pair is no case, and no error."""
    good = good_van("dipper")
    gone = [("panel-loose", 0), ("panel-uncontrolled", 0)]
    assert put_in(good, gone) is None
    exactly(mistake_case(135, 4))


def test_dice_draw_the_same_and_nothing_from_nothing() -> None:
    assert Dice(1, 2).some_of(range(9), 4) == Dice(1, 2).some_of(range(9), 4)
    assert Dice(1, 2).some_of(range(9), 4) != Dice(1, 3).some_of(range(9), 4)
    with pytest.raises(NothingFits):
        Dice(1).one_of([])


class TestGrade:
    """Marks and mends."""

    case = mistake_case(7, 2)
    good = parse_plan(good_van(case.van).doc)
    broken = parse_plan(case.document)

    def right(self) -> list[Mark]:
        return [Mark(one.subject, one.code) for one in self.case.mistakes]

    def test_all_found_and_mended_is_a_hundred(self) -> None:
        found = grade(self.case, self.right(), self.good)
        assert (found.points, found.clean, found.alarms, found.brought) == (100.0, True, [], [])

    def test_nothing_done_is_nothing(self) -> None:
        found = grade(self.case, [], self.broken)
        assert (found.points, found.clean) == (0.0, False)
        assert {one.outcome for one in found.mistakes} == {"missed"}

    def test_found_without_a_mend_is_half(self) -> None:
        assert grade(self.case, self.right(), self.broken).points == 50.0

    def test_the_right_place_under_another_reason_counts_in_part(self) -> None:
        first = self.case.mistakes[0]
        other = next(code for code in CODES if code not in first.codes)
        found = grade(self.case, [Mark(first.subject, other)], self.broken)
        assert found.mistakes[0].outcome == "place"
        assert found.alarms == []
        assert 0 < found.points < 50

    def test_a_false_alarm_costs_and_is_named(self) -> None:
        elsewhere = next(
            run.id for run in self.good.runs if all(run.id not in one.subjects for one in self.case.mistakes)
        )
        found = grade(self.case, [*self.right(), Mark(elsewhere, "fuse-missing")], self.good)
        assert found.alarms == [Mark(elsewhere, "fuse-missing")]
        assert found.points == 90.0

    def test_what_was_to_be_looked_at_before_is_no_alarm(self) -> None:
        case = next(one for one in (mistake_case(k, 1) for k in range(30)) if one.van == "siskin")
        was = good_van("siskin").report.findings[0]
        found = grade(case, [Mark(was.subject, was.code)], parse_plan(case.document))
        assert found.alarms == []

    def test_a_mend_that_brings_something_in_costs(self) -> None:
        doc = good_van(self.case.van).doc
        spoilt = {**doc, "parts": [one | {"fixed": False} if one["kind"] == "battery" else one for one in doc["parts"]]}
        found = grade(self.case, self.right(), parse_plan(spoilt))
        assert not found.clean
        assert len(found.brought) >= 1
        assert found.points < 90

    def test_schools_are_told_where_they_disagree(self) -> None:
        """The pickup is wired by one set; the others ask for other distances, drops and margins."""
        told = by_every_set(parse_plan(good_van("siskin").doc))
        assert len(told) == 4
        own = next(one for one in told if one.label == "Overland, B&S")
        assert (own.stops, own.fixes) == (0, 0)
        assert any(one.stops + one.fixes for one in told)
