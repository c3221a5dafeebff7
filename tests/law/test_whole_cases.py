"""Whole systems an installer would sign, and the one thing that was spoilt in each: it alone is said."""

from __future__ import annotations

from typing import Any

import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.report import Report
from lucernis.plan.document import parse_plan
from tests.helpers import every_finding, run
from tests.law.cases import HEAVY, boat, van, wire
from tests.law.plans import SETS


def report_of(doc: dict[str, Any]) -> Report:
    return evaluate(parse_plan(doc))


def grave(report: Report) -> list[str]:
    return [f"{one.code} {one.subject}: {one.what}" for one in report.findings if one.severity != "look"]


def free_areas(report: Report) -> dict[str, float]:
    return {one.id: one.wire.area_mm2 for one in report.runs if one.id.startswith(("w", "anchor", "running", "shared"))}


def copper_kg(report: Report) -> float:
    """Copper of the runs nobody pinned, as used by both legs. [kg]"""
    return sum(2 * one.length_m * one.wire.area_mm2 * 8.96e-3 for one in report.runs if one.wire.area_mm2 < 60)


def test_a_good_van_is_left_in_peace() -> None:
    report = report_of(van())
    assert grave(report) == []
    looks = [(one.code, one.what) for one in report.findings if one.code != "wire-one-up"]
    assert len(looks) <= 2, looks


@pytest.mark.parametrize("practice", SETS)
def test_three_percent_on_four_loads_is_no_cliff(practice: str) -> None:
    """16 to 10 AWG on branches, 8 SAE, which is thinner than 8 AWG, for ten amperes over four metres (common practice,
    no source); whatever can't keep its limit is named alone."""
    areas = free_areas(report_of(van(sensitive=True, practice=practice)))
    assert max(areas.values()) <= 7.3, areas
    report = report_of(van(sensitive=True, practice=practice))
    assert copper_kg(report) < 12
    assert {one.subject for one in report.findings if one.code == "drop-out-of-reach"} <= {
        "fridge", "usb_rear", "usb_galley", "router", *areas}  # fmt: skip


def test_an_inverter_nine_metres_off_is_judged_at_its_two_kilowatts() -> None:
    near = grave(report_of(van(inverter_w=2000.0, in_use_w=100.0)))
    far = grave(report_of(van(inverter_m=9.0, inverter_w=2000.0, in_use_w=100.0)))
    assert not any("inverter" in one or " r7:" in one for one in near)
    assert any("inverter" in one or " r7:" in one for one in far)


def test_a_series_jumper_in_one_box_is_no_stop() -> None:
    report = report_of(van(series=True))
    assert not [
        one for one in every_finding(report.findings).values() if one.subject == "r0" and one.severity == "stop"
    ]


@pytest.mark.parametrize(("length_m", "found"), [(0.25, False), (0.5, False), (0.6, True)])
def test_bare_jumpers_of_a_bank_are_free_up_to_half_a_metre(length_m: float, found: bool) -> None:
    """Two batteries side by side in one box, joined by two jumpers; the trunk leaves diagonally."""
    doc = van()
    second = next(one for one in doc["parts"] if one["id"] == "house") | {"id": "second", "name": "Second", "tag": "B2"}
    doc["parts"].append(second)
    doc["runs"] += [
        wire(f"j{legs}", "house", "second", length_m, legs=legs, **HEAVY) for legs in ("positive", "negative")
    ]
    run(doc, "r3")["start"] = {"part": "second"}
    stops = [one for one in every_finding(report_of(doc).findings).values() if one.severity == "stop"]
    assert bool([one for one in stops if one.subject == "jpositive"]) is found, [one.what for one in stops]
    assert found or not stops


def test_a_shared_lamp_names_the_backfeed_and_leaves_sizes_sane() -> None:
    report = report_of(boat())
    told = [one for one in every_finding(report.findings).values() if "backwards" in one.what]
    assert told
    assert any("anchor" in one.what and "Bow" in one.what for one in told), [one.what for one in told]
    assert max(free_areas(report).values()) <= 6.01
    assert copper_kg(report) <= 1.5 * copper_kg(report_of(boat(shared=False)))


def test_lamps_of_their_own_feed_nothing_backwards() -> None:
    told = every_finding(report_of(boat(shared=False)).findings).values()
    assert not [one for one in told if "backwards" in one.what]
