"""The scheduler over skills, progress, and what to do in ten minutes."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import pytest

from lucernis.core.school.drills.drill import skills
from lucernis.learning.progress import progress, ten_minutes
from lucernis.learning.schedule import after, due_at, kept_frac

NOW = datetime(2026, 11, 27, 9, 0, tzinfo=UTC)


def answered(*rights: bool, gap: timedelta = timedelta(days=3)) -> tuple[int, int, str]:
    level, streak, card = 1, 0, ""
    for at, is_right in enumerate(rights):
        stands = after(level, streak, card, is_right=is_right, now=NOW + at * gap)
        level, streak, card = stands.level, stands.streak, stands.card
    return level, streak, card


@pytest.mark.parametrize(
    ("rights", "level"),
    [
        ((True, True), 1),
        ((True, True, True), 2),
        ((True,) * 6, 3),
        ((True,) * 12, 4),
        ((True,) * 30, 4),
        ((False, False), 1),
    ],
)
def test_three_in_a_row_are_a_level_more_and_four_is_the_last(rights: tuple[bool, ...], level: int) -> None:
    assert answered(*rights)[0] == level


def test_two_wrong_in_a_row_are_a_level_less_and_one_is_not() -> None:
    assert answered(True, True, True, False)[0] == 2
    assert answered(True, True, True, False, False)[0] == 1
    assert answered(True, True, True, False, True, False)[0] == 2


def test_a_right_answer_puts_it_off_further_each_time_and_a_wrong_one_brings_it_back() -> None:
    """FSRS as published: intervals grow with right answers, a lapse shortens them."""
    waits = []
    level, streak, card, now = 1, 0, "", NOW
    for _ in range(5):
        stands = after(level, streak, card, is_right=True, now=now)
        card = stands.card
        due = due_at(card)
        assert due is not None
        waits.append(due - now)
        now = due
    assert waits[-1] > waits[2] > waits[0]
    lapsed = due_at(after(level, streak, card, is_right=False, now=now).card)
    assert lapsed is not None
    assert lapsed - now < waits[-1]


def test_what_is_kept_fades_with_time() -> None:
    _, _, card = answered(True, True, True)
    soon, late = (kept_frac(card, NOW + timedelta(days=days)) for days in (7, 90))
    assert 0 < late < soon <= 1
    assert kept_frac("", NOW) == 0.0
    assert due_at("") is None


def test_the_same_answers_are_due_the_same_day() -> None:
    assert answered(True, False, True) == answered(True, False, True)


def test_a_beginner_is_offered_what_is_new_in_its_order() -> None:
    todo = ten_minutes(progress({}, {}, NOW), 0)
    assert [one.skill for one in todo] == [one.id for one in skills()][: len(todo)]
    assert sum(one.minutes for one in todo) <= 10


def test_what_is_due_and_most_nearly_forgotten_comes_first() -> None:
    old, fresh = answered(True)[2], after(1, 0, "", is_right=True, now=NOW + timedelta(days=40)).card
    stand = progress(
        {"drop": (1, old), "units": (1, fresh)}, {"drop": (1, 1), "units": (1, 1)}, NOW + timedelta(days=40)
    )
    todo = ten_minutes(stand, 0)
    assert todo[0].skill == "drop"
    assert "units" not in {one.skill for one in todo}


def test_an_open_case_is_offered_first_and_a_new_one_once_three_skills_stand() -> None:
    assert ten_minutes(progress({}, {}, NOW), 1)[0].kind == "case"
    levels = {one.id: (2, answered(True, True, True)[2]) for one in skills()[:3]}
    tallies = {one.id: (3, 3) for one in skills()[:3]}
    kinds = [one.kind for one in ten_minutes(progress(levels, tallies, NOW), 0)]
    assert kinds[-1] == "mistake"
    assert "mistake" not in [one.kind for one in ten_minutes(progress({}, {}, NOW), 0)]


def test_there_is_always_something_to_do() -> None:
    card = after(4, 0, "", is_right=True, now=NOW).card
    levels = {one.id: (4, card) for one in skills()}
    tallies = {one.id: (9, 9) for one in skills()}
    assert ten_minutes(progress(levels, tallies, NOW), 0)


def test_what_is_right_below_ones_level_moves_no_level() -> None:
    """Level four is earned by questions of the level one stands at."""
    now = datetime(2026, 3, 1, tzinfo=UTC)
    stands = after(3, 2, "", is_right=True, now=now, asked=1)
    assert (stands.level, stands.streak) == (3, 2)
    assert after(3, 2, "", is_right=True, now=now, asked=3).level == 4
    # What is wrong below it counts all the more.
    assert after(3, -1, "", is_right=False, now=now, asked=1).level == 2
