"""Shorts that hold for any plan: what adding copper, length, batteries or fuses may and may not do."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.faults.study import FaultStudy, study_faults
from lucernis.core.sizing.choice import size_plan
from lucernis.core.wire.heat import adiabatic_end_c
from lucernis.exports.tables_csv import faults_csv, states_csv
from lucernis.plan.document import parse_plan
from lucernis.plan.rules import plan_rules
from tests.helpers import part, run, small_document

SIZES = st.sampled_from(["18", "14", "10", "6", "2"])


def pinned(length_m: float, size: str, parallel: int = 1, capacity_ah: float = 100.0) -> FaultStudy:
    """Shorts of the small plan with the wire of its feeder and of one branch insisted on."""
    doc = small_document()
    part(doc, "b1").update(capacity_ah=capacity_ah)
    run(doc, "r1").update(wire={"system": "awg", "size": "4", "reason": "test"})
    run(doc, "r2").update(length_m=length_m, wire={"system": "awg", "size": size, "reason": "test"}, parallel=parallel)
    plan = parse_plan(doc)
    return study_faults(plan, size_plan(plan, plan_rules(plan)))


def weakest_a(study: FaultStudy) -> float:
    return study.of_run["r2"][-1].weakest_a


@settings(max_examples=25, deadline=None)
@given(size=SIZES, near_m=st.floats(0.3, 10), more_m=st.floats(0.1, 10))
def test_longer_wire_never_makes_a_stronger_short(size: str, near_m: float, more_m: float) -> None:
    assert weakest_a(pinned(near_m + more_m, size)) < weakest_a(pinned(near_m, size))


@settings(max_examples=15, deadline=None)
@given(size=SIZES, length_m=st.floats(0.5, 10))
def test_second_conductor_and_bigger_battery_never_weaken_a_short(size: str, length_m: float) -> None:
    one = weakest_a(pinned(length_m, size))
    assert weakest_a(pinned(length_m, size, parallel=2)) > one
    assert weakest_a(pinned(length_m, size, capacity_ah=300.0)) > one


@settings(max_examples=25, deadline=None)
@given(size=SIZES, length_m=st.floats(0.5, 15))
def test_short_obeys_the_resistance_of_its_wire(size: str, length_m: float) -> None:
    """No short is stronger than the source's volts over the copper of its own loop, cold."""
    doc = small_document()
    run(doc, "r2").update(length_m=length_m, wire={"system": "awg", "size": size, "reason": "test"})
    plan = parse_plan(doc)
    sized = size_plan(plan, plan_rules(plan))
    study = study_faults(plan, sized)
    loop_ohm = 2 * length_m * sized.chosen["r2"].size.resistance_20_ohm_per_m
    # 18.5 V: no 12 V battery stands higher, whatever it is being charged with.
    assert study.of_run["r2"][-1].strongest_a < 18.5 / loop_ohm


@settings(max_examples=20, deadline=None)
@given(length_m=st.floats(13, 21))
def test_heat_let_through_is_current_squared_by_the_slow_time_inside_the_points(length_m: float) -> None:
    """Beyond the last point it stays at that point's, so it is no more than inside."""
    # A branch of so many metres is fused for its lamp at 5 A.
    start, _, finish = pinned(length_m, "18").of_run["r2"]
    assert not finish.beyond_points
    assert finish.slow_s is not None
    assert finish.fast_s is not None
    assert finish.heat_a2s == pytest.approx(finish.weakest_a**2 * finish.slow_s, rel=0.02)
    assert finish.fast_s <= finish.slow_s
    assert start.beyond_points
    assert start.heat_a2s is not None
    assert start.heat_a2s <= finish.heat_a2s


def test_adiabatic_end_is_the_equation_turned_round() -> None:
    """IEC 60364-4-43, 434.5.2 (from memory): 115 A·√s/mm² takes copper from 70 to 160 °C."""
    end_c = adiabatic_end_c(np.array([70.0]), np.array([(115 * 6) ** 2]), np.array([6.0]))
    assert end_c[0] == pytest.approx(160.0, abs=0.5)


def small_plan(change: Any = None) -> Any:
    doc = small_document()
    if change is not None:
        change(doc)
    return parse_plan(doc)


def small_report(change: Any = None) -> Any:
    return evaluate(small_plan(change))


def test_csv_of_shorts_has_three_lines_for_each_run_and_one_for_each_point() -> None:
    report = small_report()
    lines = faults_csv(report).decode("utf-8-sig").splitlines()
    points = sum(1 for node in report.nodes if node.fault is not None)
    assert len(lines) == 1 + points + 3 * len(report.runs)
    for line in lines[1:]:
        strongest, weakest = (float(cell) for cell in line.split(",")[2:4])
        assert math.isfinite(strongest)
        assert strongest >= weakest > 0


def test_csv_of_states_says_dead_where_no_battery_reaches() -> None:
    rows = [line.split(",") for line in states_csv(small_plan(), small_report()).decode("utf-8-sig").splitlines()]
    assert rows[0][2:] == ["Everything on", "Key off"]
    assert all(float(cell) > 0 for row in rows[1:] for cell in row[2:] if cell != "dead")

    def unfed(doc: dict[str, Any]) -> None:
        doc["runs"] = [one for one in doc["runs"] if one["id"] != "r1"]

    rows = [
        line.split(",") for line in states_csv(small_plan(unfed), small_report(unfed)).decode("utf-8-sig").splitlines()
    ]
    by_tag = {row[0]: row[2:] for row in rows[1:]}
    assert by_tag["L01"] == ["dead", "dead"]
    assert "dead" not in by_tag["B01"]
