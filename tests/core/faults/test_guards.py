"""Who guards what: fuses seen from each end of a run, and what a shared part has to carry."""

from __future__ import annotations

from typing import Any

import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.faults.guards import Guards
from lucernis.core.sizing.choice import Sized, size_plan
from lucernis.demo import JOBS, demo_plan
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Plan
from lucernis.plan.rules import plan_rules
from tests.core.checks.test_distribution import FUSED, document, load, other, wire
from tests.helpers import small_document


def guarded(parts: list[dict[str, Any]], runs: list[dict[str, Any]]) -> tuple[Plan, Sized, Guards]:
    plan = parse_plan(document(parts, runs))
    sized = size_plan(plan, plan_rules(plan))
    return plan, sized, Guards(plan, sized)


def run_of(plan: Plan, run_id: str) -> Any:
    return next(run for run in plan.runs if run.id == run_id)


def test_tree_run_is_guarded_from_its_fed_end_alone() -> None:
    plan, _, guards = guarded([load("l1")], [wire("r1", "b1", "l1", 2.0, **FUSED)])
    found = guards.of_run(plan.runs[0])
    assert (found.start.fuses, found.start.bare, found.start.unprotected_m) == (("r1",), False, 0.1)
    assert (found.finish.fed, found.finish.fuses) == (False, ())


def test_run_without_any_fuse_is_bare_over_its_whole_length() -> None:
    plan, _, guards = guarded([load("l1")], [wire("r1", "b1", "l1", 2.0)])
    found = guards.of_run(plan.runs[0]).start
    assert (found.bare, found.unprotected_m) == (True, 2.0)


def test_run_behind_a_fused_one_is_guarded_by_it() -> None:
    plan, _, guards = guarded(
        [other("busbar", "u1"), load("l1")], [wire("r1", "b1", "u1", **FUSED), wire("r2", "u1", "l1", 2.0)]
    )
    found = guards.of_run(run_of(plan, "r2")).start
    assert (found.fuses, found.unprotected_m) == (("r1",), 0.0)


@pytest.mark.parametrize(
    ("fuses", "bare"),
    [
        ({"fuse_at_start": {"distance_m": 0.1}, "fuse_at_finish": {"distance_m": 0.1}}, (False, False)),
        ({"fuse_at_start": {"distance_m": 0.1}}, (False, True)),
        ({"fuse_at_finish": {"distance_m": 0.1}}, (True, False)),
        ({}, (True, True)),
    ],
)
def test_link_of_two_batteries_from_both_ends(fuses: dict[str, Any], bare: tuple[bool, bool]) -> None:
    plan, _, guards = guarded([other("battery", "b2")], [wire("r1", "b1", "b2", 3.0, **fuses)])
    found = guards.of_run(plan.runs[0])
    assert (found.start.bare, found.finish.bare) == bare
    assert found.start.fed
    assert found.finish.fed


def test_run_drawn_the_other_way_round_is_guarded_the_same() -> None:
    plan, _, guards = guarded([load("l1")], [wire("r1", "l1", "b1", 2.0, fuse_at_finish={"distance_m": 0.2})])
    found = guards.of_run(plan.runs[0])
    assert (found.finish.fuses, found.finish.unprotected_m) == (("r1",), 0.2)
    assert not found.start.fed


def test_second_battery_far_away_feeds_through_everything_between() -> None:
    """Both batteries on one bar: a branch of it hangs behind either fuse."""
    plan, _, guards = guarded(
        [other("battery", "b2"), other("busbar", "u1"), load("l1")],
        [
            wire("r1", "b1", "u1", **FUSED),
            wire("r2", "b2", "u1", **FUSED),
            wire("r3", "u1", "l1", 2.0),
        ],
    )
    found = guards.of_run(run_of(plan, "r3")).start
    assert set(found.fuses) == {"r1", "r2"} or found.fuses == ("r1",)
    link = guards.of_run(run_of(plan, "r2"))
    assert not link.start.bare


def test_through_follows_the_worst_state_and_the_fuse() -> None:
    pin = {"distance_m": 0.1, "pin": {"rating_a": 30.0, "reason": "test"}}
    _, sized, guards = guarded(
        [other("switch", "s1"), load("l1", 600.0)],
        [wire("r1", "b1", "s1", fuse_at_start=pin), wire("r2", "s1", "l1")],
    )
    assert sized.demand.design_current_a["r1"] == pytest.approx(50.0)
    assert guards.through_a("s1") == 30.0
    assert guards.lasting_a("s1") == 30.0
    assert guards.through_a("b1") == 0.0


def test_one_fuse_for_each_conductor_lets_all_of_them_through() -> None:
    fuse = {"distance_m": 0.1, "each": True, "pin": {"rating_a": 40.0, "reason": "test"}}
    _, _, guards = guarded(
        [other("busbar", "u1"), load("l1", 600.0)],
        [wire("r1", "b1", "u1", parallel=2, fuse_at_start=fuse), wire("r2", "u1", "l1", fuse_at_start={})],
    )
    assert guards.lasting_a("u1") == 80.0


@pytest.mark.parametrize("name", JOBS)
def test_report_tells_the_same_guards_as_the_walk(name: str) -> None:
    plan = demo_plan(name)
    sized = size_plan(plan, plan_rules(plan))
    guards = Guards(plan, sized)
    for run, shown in zip(plan.runs, evaluate(plan, with_working=False).runs, strict=True):
        if run.legs == "negative" or run.id in sized.topology.dead:
            continue
        found = guards.of_run(run)
        for walked, told in ((found.start, shown.start_guard), (found.finish, shown.finish_guard)):
            if walked.fed and not walked.bare:
                tags = {sized.topology.runs[key.partition(":")[0]].tag for key in walked.fuses}
                assert set(told.fuses) & tags
                assert told.unprotected_m == pytest.approx(walked.unprotected_m)


@pytest.mark.parametrize("turned", [False, True])
def test_a_run_nothing_feeds_has_no_guard_at_either_end_however_it_is_written(turned: bool) -> None:
    doc = small_document()
    doc["parts"] += [
        {"kind": "joint", "id": "j9", "name": "Loose end", "tag": "J09", "form": "stud"},
        {"kind": "load", "id": "l9", "name": "Later lamp", "tag": "L09", "power_w": 5.0, "hours_per_day": 1},
    ]
    ends = [{"part": "j9"}, {"part": "l9"}]
    start, finish = reversed(ends) if turned else ends
    doc["runs"].append({"id": "r9", "tag": "C09", "start": start, "finish": finish, "length_m": 1.2})
    run = next(one for one in evaluate(parse_plan(doc)).runs if one.id == "r9")
    for guard in (run.start_guard, run.finish_guard):
        assert (guard.fed, guard.fuses, guard.unprotected_m) == (False, [], 0.0)
    assert run.role == "branch"
