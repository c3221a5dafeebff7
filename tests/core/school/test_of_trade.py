"""Mistakes are of the trade: what no person at work does is in no case, ratings are those parts are sold in, and a case
stays what it was when it was begun."""

from __future__ import annotations

from typing import Any

import pytest

from lucernis.core.school import mistakes
from lucernis.core.school.breaking.registry import BREAKERS
from lucernis.core.school.breaking.van import AMPS, good_van
from lucernis.core.school.fault_case import case_kept, fault_case
from lucernis.core.school.fault_case import kept as fault_kept
from lucernis.core.school.mistakes import break_van, mistake_case
from lucernis.errors import NothingFits

ODD = {
    "drop-out-of-reach", "wire-no-figure", "waiver-idle", "body-not-cleared", "battery-hot", "charger-place",
    "keyed-feed-over", "sources-tied", "battery-missing", "part-unfed", "chassis-cannot-return",
}  # fmt: skip
RATED = {"busbar-over": "rated_a", "guard-above-rating": "rated_a", "switch-over": "rated_a", "relay-over": "contact_a"}


def _changed(van: str, document: dict[str, Any]) -> list[tuple[str, str, Any]]:
    before = {one["id"]: one for one in good_van(van).doc["parts"]}
    return [
        (one["id"], name, value)
        for one in document["parts"]
        for name, value in one.items()
        if one["id"] in before and before[one["id"]].get(name) != value
    ]


def test_what_nobody_does_is_in_no_case() -> None:
    assert {code for code, one in BREAKERS.items() if not one.of_trade} == ODD
    codes = set()
    for seed in range(40):
        for level in (1, 3):
            try:
                codes |= {one.code for one in mistake_case(seed, level).mistakes}
            except NothingFits:
                continue
    assert len(codes) > 25
    assert not codes & ODD


@pytest.mark.parametrize(("code", "field"), RATED.items())
def test_ratings_are_those_parts_are_sold_in(code: str, field: str) -> None:
    for seed in range(3):
        made = break_van([code], seed)
        values = [value for _, name, value in _changed(made.van, made.document) if name == field]
        assert values
        assert set(values) <= set(AMPS)


def test_lithium_of_six_volts_is_in_no_van() -> None:
    for seed in range(3):
        made = break_van(["series-unequal"], seed)
        six = [one for one in made.document["parts"] if one["kind"] == "battery" and one.get("rated_v") == 6]
        assert six
        assert all(one["chemistry"] != "lfp" for one in six)


def test_a_case_stays_what_it_was_when_its_seed_gives_another(monkeypatch: pytest.MonkeyPatch) -> None:
    begun = mistake_case(4, 2)
    kept = mistakes.kept(begun)
    monkeypatch.setattr(mistakes, "mistake_case", lambda seed, level: pytest.fail("asked by its seed"))
    again = mistakes.case_kept(4, 2, kept)
    assert (again.van, again.mistakes) == (begun.van, begun.mistakes)


def test_a_fault_stays_what_it_was_when_its_seed_gives_another() -> None:
    begun, other = fault_case(3, 2), fault_case(8, 2)
    again = case_kept(8, 2, fault_kept(begun))
    assert (again.van, again.planted, again.symptoms) == (begun.van, begun.planted, begun.symptoms)
    assert again.planted.cause.id != other.planted.cause.id
    # Kept by an older program, or of a cause that is known no more: its seed decides.
    assert case_kept(8, 2, None) == other
    assert case_kept(8, 2, fault_kept(begun) | {"cause": "unknown:x"}).planted.cause.id == other.planted.cause.id
