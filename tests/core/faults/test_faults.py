"""Shorts: what flows, what opens, what the wire reaches. Properties on small plans; figures stand in tests/outside."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from lucernis.core.circuit.sources import source_figures
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.faults.study import FaultStudy, study_faults
from lucernis.core.protection.fuse_curves import (
    band,
    breaking_capacity,
    greatest_multiple_for,
    let_through_a2s,
    opening,
    opening_times_s,
)
from lucernis.core.sizing.choice import size_plan
from lucernis.demo import JOBS, demo_plan
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Battery, Plan
from lucernis.plan.rules import plan_rules
from tests.core.checks.test_findings import SPOILS, base
from tests.helpers import part, run, small_document


def studied(plan: Plan) -> FaultStudy:
    return study_faults(plan, size_plan(plan, plan_rules(plan)))


def small(**battery: Any) -> FaultStudy:
    doc = small_document()
    part(doc, "b1").update(battery)
    return studied(parse_plan(doc))


@pytest.mark.parametrize("name", JOBS)
def test_shorts_fall_along_the_way_and_the_strongest_is_stronger(name: str) -> None:
    plan = demo_plan(name)
    found = studied(plan)
    chargers = {part.id for part in plan.parts if part.kind == "charger"}
    # A charger's output is drawn from the charger, but a short in it is fed from the bar.
    turned = {run.id for run in plan.runs if run.start.part in chargers}
    for run_id, faults in found.of_run.items():
        assert [one.where for one in faults] == ["start", "middle", "finish"]
        for one in faults:
            assert one.strongest_a >= one.weakest_a >= 0
        if not found.meshed:
            strongest = [one.strongest_a for one in faults]
            assert strongest == sorted(strongest, reverse=run_id not in turned)


@pytest.mark.parametrize("name", JOBS)
def test_short_at_the_finish_of_a_run_is_that_at_the_point_it_feeds(name: str) -> None:
    plan = demo_plan(name)
    sized = size_plan(plan, plan_rules(plan))
    found = study_faults(plan, sized)
    for run_id, faults in found.of_run.items():
        one = sized.topology.runs[run_id]
        if one.fuse_at_finish is None and one.legs == "both" and one.finish.terminal is None:
            point = found.of_point.get(one.finish.part)
            if point is not None and sized.topology.finish_of[run_id] == one.finish.part:
                assert faults[-1].weakest_a == pytest.approx(point.weakest_a, rel=1e-9)


def test_short_is_opened_by_the_nearest_fuse() -> None:
    found = small()
    assert [one.openers for one in found.of_run["r2"]] == [["r2"]] * 3
    assert [one.openers for one in found.of_run["r4"]] == [["r2"]] * 3
    assert [one.openers for one in found.of_run["r1"]] == [["r1"]] * 3


def test_maker_short_circuit_current_limits_every_short() -> None:
    free, held = small(), small(short_circuit_a=500.0)
    for point, fault in held.of_point.items():
        assert fault.strongest_a <= 500.0 + 1e-6
        assert fault.strongest_a < free.of_point[point].strongest_a
    assert held.of_point["b1"].strongest_a == pytest.approx(500.0)


def test_long_thin_run_is_cleared_late_or_not_at_all() -> None:
    doc = small_document()
    run(doc, "r3").update(length_m=60.0, wire={"system": "awg", "size": "16", "reason": "test"})
    run(doc, "r3")["fuse_at_start"]["pin"] = {"rating_a": 40.0, "reason": "test"}
    last = studied(parse_plan(doc)).of_run["r3"][-1]
    assert last.weakest_a < 1.35 * 40
    assert last.slow_s is None
    assert last.wire_c is None


@pytest.mark.parametrize("length_m", [15.0, 20.0, 25.0])
@pytest.mark.parametrize("above_a", [15.0, 20.0, 25.0, 30.0])
def test_selectivity_compares_slow_below_with_quick_above(length_m: float, above_a: float) -> None:
    """A 10 A blade behind a larger one: they go together where the slow edge of the small one, at the current of the
    short, lies before the quick edge of the large one; both edges as published (blade fuses, 28 to 45 A)."""
    doc = small_document()
    for name, rating_a, size in (("r1", above_a, "6"), ("r3", 10.0, "14")):
        run(doc, name)["fuse_at_start"]["pin"] = {"rating_a": rating_a, "family": "blade_regular", "reason": "test"}
        run(doc, name)["wire"] = {"system": "awg", "size": size, "reason": "test"}
    run(doc, "r3").update(length_m=length_m)
    last = studied(parse_plan(doc)).of_run["r3"][-1]
    above, below = (opening_times_s("blade_regular", np.array([last.weakest_a / one])) for one in (above_a, 10.0))
    # NaN where the large one never opens at that current.
    together = not above[0][0] < below[1][0]
    assert last.openers == ["r3"]
    assert (last.selective, last.also_opens) == (("yes", []) if together else ("no", ["r1"]))
    assert (last.fast_s, last.slow_s) == (pytest.approx(below[0][0]), pytest.approx(below[1][0]))


def test_a_smaller_fuse_before_a_larger_one_opens_for_it() -> None:
    doc = small_document()
    run(doc, "r1")["fuse_at_start"]["pin"] = {"rating_a": 15.0, "family": "blade_regular", "reason": "test"}
    run(doc, "r3").update(length_m=20.0)
    run(doc, "r3")["fuse_at_start"]["pin"] = {"rating_a": 30.0, "family": "blade_regular", "reason": "test"}
    last = studied(parse_plan(doc)).of_run["r3"][-1]
    assert (last.openers, last.selective) == (["r1"], "no")


def test_state_opens_what_it_opens() -> None:
    plan = demo_plan("heron")
    sized = size_plan(plan, plan_rules(plan))
    off = next(state for state in plan.states if state.id == "off")
    found = study_faults(plan, sized, off)
    assert "u1" not in found.of_point
    assert found.of_point["b1"].strongest_a > 1000


def test_plan_without_a_battery_has_no_shorts() -> None:
    doc = small_document(parts=[], runs=[])
    found = studied(parse_plan(doc))
    assert (found.of_run, found.of_point) == ({}, {})


def test_fused_link_of_two_batteries_is_cleared_from_both_sides() -> None:
    plan = demo_plan("plover")
    report = evaluate(plan)
    link = next(one for one in report.runs if one.tag == "C09")
    assert all(one.slow_s is None for one in link.faults)
    assert (link.start_guard.fuses, link.finish_guard.fuses) == (["C09"], [])
    assert link.finish_guard.unprotected_m == pytest.approx(link.length_m)


@pytest.mark.parametrize("family", ["blade_regular", "bolt_m8", "class_t", "breaker_manual", "breaker_magnetic"])
def test_opening_times_fall_with_current_and_edges_keep_their_order(family: Any) -> None:
    made = band(family)
    multiple = np.geomspace(made.slow.multiple[0], min(made.fast.multiple[-1], made.slow.multiple[-1]), 60)
    fast, slow = opening_times_s(family, multiple)
    assert np.all(np.diff(slow) <= 1e-12)
    assert np.all(np.diff(fast[~np.isnan(fast)]) <= 1e-12)
    assert np.all(fast[~np.isnan(fast)] < slow[~np.isnan(fast)])


def test_opening_times_meet_the_published_points_and_invent_nothing_beyond() -> None:
    fast, slow = opening_times_s("blade_regular", np.array([1.0, 1.35, 2.0, 6.0, 60.0]))
    assert slow.tolist()[:4] == pytest.approx([np.inf, 600, 5, 0.1])
    assert fast.tolist()[1:4] == pytest.approx([0.75, 0.15, 0.02])
    assert np.isnan(fast[0])
    assert np.isnan(fast[4])
    assert slow[4] == pytest.approx(0.1)


def test_heat_let_through_never_grows_beyond_the_last_point_of_a_fuse() -> None:
    amps = np.array([90.0, 900.0, 9000.0])
    heat = let_through_a2s("blade_regular", 15.0, amps)
    assert heat[0] == pytest.approx(90.0**2 * 0.1)
    assert heat[2] == pytest.approx(heat[1]) == pytest.approx(heat[0])
    magnetic = let_through_a2s("breaker_magnetic", 15.0, amps * 20)
    assert magnetic[2] > magnetic[1] > magnetic[0]


@pytest.mark.parametrize("multiple", [1.5, 3.0, 8.0, 40.0])
@pytest.mark.parametrize("name", ["blade_regular", "bolt_m8", "class_t"])
def test_heat_to_open_grows_with_the_square_of_the_rating(name: Any, multiple: float) -> None:
    """At the same multiple a fuse of twice the rating takes as long, and four times the heat; beyond its last point
    what it takes at that point."""
    small, large = (opening(name, np.array([r]), np.array([multiple * r])) for r in (20.0, 40.0))
    assert large.slow_s == pytest.approx(small.slow_s, nan_ok=True)
    assert large.fast_s == pytest.approx(small.fast_s, nan_ok=True)
    assert large.heat_a2s == pytest.approx(4 * small.heat_a2s)
    assert large.least_a2s == pytest.approx(4 * small.least_a2s)
    last = band(name).fast.multiple[-1]
    if multiple > last:
        assert small.least_a2s[0] == pytest.approx((last * 20.0) ** 2 * band(name).fast.time_s[-1])


def test_greatest_multiple_is_the_slow_edge_turned_round() -> None:
    assert greatest_multiple_for("bolt_m8", 15.0) == pytest.approx(2.0)
    assert greatest_multiple_for("bolt_m8", 5.0) == pytest.approx(3.5)


@pytest.mark.parametrize(
    ("family", "volts", "breaks"),
    [
        ("post_block", 14.0, 10000.0),
        ("post_block", 28.0, 5000.0),
        ("class_t", 28.0, 20000.0),
        ("breaker_auto", 28.0, 500.0),
    ],
)
def test_breaking_capacity_takes_the_row_above_and_nothing_beyond(
    family: Any, volts: float, breaks: float | None
) -> None:
    assert breaking_capacity(family, volts).breaking_a == breaks


def test_source_figures_scale_with_capacity_and_volts() -> None:
    def figures(**fields: Any) -> tuple[float, float]:
        found = source_figures(Battery(id="b", name="B", tag="B01", **fields), 12.0)
        return found.fault_ohm, found.full_v

    small_ohm, volts = figures(capacity_ah=100.0)
    assert figures(capacity_ah=200.0)[0] == pytest.approx(small_ohm / 2)
    assert figures(capacity_ah=100.0, rated_v=24) == (pytest.approx(2 * small_ohm), pytest.approx(2 * volts))


def _joined(*gone: str) -> Plan:
    """House and starter battery joined by a contact with a fuse at either end; what is named is left away."""
    doc = small_document()
    starter = {"kind": "battery", "id": "b0", "name": "Starter", "tag": "B00", "use": "starter", "chemistry": "agm"}
    doc["parts"] += [starter | {"capacity_ah": 80.0}, {"kind": "isolator", "id": "i1", "name": "Link", "tag": "I01"}]

    def wire(run_id: str, start: str, finish: str, length_m: float, **fuses: Any) -> dict[str, Any]:
        pin = {"system": "awg", "size": "12", "reason": "test"}
        return {
            "id": run_id, "tag": run_id.upper(), "start": {"part": start}, "finish": {"part": finish},
            "length_m": length_m, "wire": pin, **fuses,
        }  # fmt: skip

    def fuse(rating_a: float) -> dict[str, Any]:
        return {"distance_m": 0.0, "pin": {"rating_a": rating_a, "family": "bolt_m8", "reason": "test"}}

    doc["runs"] += [
        wire("r8", "b0", "i1", 2.8, fuse_at_start=fuse(30.0)),
        wire("r9", "i1", "b1", 0.6, fuse_at_finish=fuse(40.0)),
    ]
    doc["runs"] = [one for one in doc["runs"] if not {one["start"]["part"], one["finish"]["part"]} & set(gone)]
    doc["parts"] = [one for one in doc["parts"] if one["id"] not in gone]
    return parse_plan(doc)


def test_each_end_warms_its_own_stretch_of_a_wire_fed_from_both() -> None:
    """What one battery lets through never warms what the other's current passes: the larger counts, not the sum."""
    both = studied(_joined()).of_run["r9"][1]
    house = studied(_joined("b0")).of_run["r9"][1]
    assert len(both.openers) == 2
    assert both.heat_a2s == pytest.approx(house.heat_a2s, rel=1e-6)


def test_of_fuses_that_open_in_turn_the_first_says_whether_it_opens_alone() -> None:
    """A second battery feeds the block through a small fuse before a large one: in a short that one opens first.

    Later, with one feed gone, the other opens with nothing beside it: that tells nothing of the first.
    """
    doc = base()
    SPOILS["fuse-one-end"][0](doc)
    first = next(one for one in studied(parse_plan(doc)).of_run["r1"] if one.where == "finish")
    assert first.selective == "yes"
    assert len(first.openers) == 2
    assert first.openers[0] == "r9:far"


def test_the_order_runs_are_drawn_in_changes_no_short() -> None:
    """Two batteries feed the main run from both its ends: what heats its wire is the same drawn first or last."""
    doc = base()
    SPOILS["fuse-one-end"][0](doc)
    first = studied(parse_plan(doc))
    doc["runs"].reverse()
    last = studied(parse_plan(doc))
    for run_id, faults in first.of_run.items():
        for one, other in zip(faults, last.of_run[run_id], strict=True):
            assert (one.heat_a2s is None, one.wire_c is None) == (other.heat_a2s is None, other.wire_c is None)
            assert (one.heat_a2s or 0.0) == pytest.approx(other.heat_a2s or 0.0, rel=1e-6), (run_id, one.where)
            assert (one.wire_c or 0.0) == pytest.approx(other.wire_c or 0.0, rel=1e-6), (run_id, one.where)
