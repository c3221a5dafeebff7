"""What a state closes and what is live: switches, keyed feeds, relays that follow their coils, reversing."""

from __future__ import annotations

from typing import Any

import pytest

from lucernis.core.circuit.returns import trace_returns
from lucernis.core.circuit.switching import SwitchingPlan
from lucernis.core.circuit.topology import trace
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Plan
from tests.core.checks.test_distribution import document, load, other, wire

FUSED = {"fuse_at_start": {"distance_m": 0.1}}


def plan_of(parts: list[dict[str, Any]], runs: list[dict[str, Any]], **state: Any) -> Plan:
    return parse_plan(document(parts, runs, states=[{"id": "s", "name": "S"} | state]))


def live(plan: Plan) -> frozenset[str]:
    return SwitchingPlan(plan).in_state(plan.states[0]).live


@pytest.mark.parametrize(
    ("follows", "state", "closed"),
    [
        ("key", {"key_on": True}, True),
        ("key", {"key_on": False}, False),
        ("engine", {"engine_on": True}, True),
        ("engine", {"key_on": True}, False),
        ("shore", {"shore_on": True}, True),
        ("shore", {}, False),
    ],
)
def test_keyed_feed_follows_its_condition(follows: str, state: dict[str, bool], closed: bool) -> None:
    plan = plan_of(
        [other("keyed_feed", "k1", follows=follows), load("l1")],
        [wire("r1", "b1", "k1", **FUSED), wire("r2", "k1", "l1")],
        **state,
    )
    assert ("l1" in live(plan)) is closed


def relays(*chain: str) -> Plan:
    """Relays whose contacts are all fed from the battery; each coil hangs on the contact of the one before."""
    parts: list[dict[str, Any]] = [other("relay", one) for one in chain]
    runs: list[dict[str, Any]] = []
    before: Any = "b1"
    for number, one in enumerate(chain):
        runs.append(wire(f"r{2 * number}", "b1", one, **FUSED))
        fused = FUSED if before == "b1" else {}
        runs.append(wire(f"r{2 * number + 1}", before, {"part": one, "terminal": "coil"}, **fused))
        before = one
    runs.append(wire("r99", chain[-1], "l1"))
    return plan_of([*parts, load("l1")], runs)


@pytest.mark.parametrize("count", [1, 2, 5])
def test_relays_pull_in_one_after_the_other(count: int) -> None:
    assert "l1" in live(relays(*(f"y{k}" for k in range(count))))


def test_relay_holding_itself_never_pulls_in() -> None:
    plan = plan_of(
        [other("relay", "y1"), load("l1")],
        [
            wire("r1", "b1", "y1", **FUSED),
            wire("r2", "y1", "l1"),
            wire("r3", "l1", {"part": "y1", "terminal": "coil"}),
        ],
    )
    assert "l1" not in live(plan)


def test_two_relays_that_wait_for_one_another_stay_open() -> None:
    plan = plan_of(
        [other("relay", "y1"), other("relay", "y2"), load("l1")],
        [
            wire("r1", "b1", "y1", **FUSED),
            wire("r2", "b1", "y2", **FUSED),
            wire("r3", "y1", {"part": "y2", "terminal": "coil"}),
            wire("r4", "y2", {"part": "y1", "terminal": "coil"}),
            wire("r5", "y1", "l1"),
        ],
    )
    assert "l1" not in live(plan)


@pytest.mark.parametrize(("first", "second", "turned"), [("a", "a", False), ("b", "a", True), ("b", "b", False)])
def test_reversing_twice_is_not_reversing(first: str, second: str, turned: bool) -> None:
    plan = plan_of(
        [other("switch", "s1", form="reversing"), other("switch", "s2", form="reversing"), load("l1")],
        [wire("r1", "b1", "s1", **FUSED), wire("r2", "s1", "s2"), wire("r3", "s2", "l1")],
        modes=[{"part": "s1", "position": first}, {"part": "s2", "position": second}],
    )
    found = SwitchingPlan(plan).swapped(plan.states[0], trace(plan))
    assert ("l1" in found) is turned


def test_cut_tells_whether_opening_kills() -> None:
    plan = plan_of(
        [other("switch", "s1"), load("l1"), load("l2")],
        [wire("r1", "b1", "s1", **FUSED), wire("r2", "s1", "l1"), wire("r3", "b1", "l2", **FUSED)],
    )
    switching = SwitchingPlan(plan)
    assert switching.cut(["l1"], opened=[("s1", "main")])
    assert not switching.cut(["l2"], opened=[("s1", "main")])
    assert switching.cut(["l2"], runs=frozenset({"r3"}))


def test_negatives_belong_to_the_positive_that_feeds_the_same_and_no_more() -> None:
    plan = plan_of(
        [
            other("busbar", "u1"),
            other("shunt", "h1"),
            other("fuse_block", "f1", negative_bar=False),
            load("l1"),
            load("l2"),
        ],
        [
            wire("r1", "b1", "u1", legs="positive", **FUSED),
            wire("r2", "b1", "h1", legs="negative"),
            wire("r3", "h1", "u1", legs="negative"),
            wire("r4", "u1", "f1", legs="positive"),
            wire("r5", {"part": "f1", "way": 1}, "l1", legs="positive", fuse_at_start={}),
            wire("r6", {"part": "f1", "way": 2}, "l2", legs="positive", fuse_at_start={}),
            wire("r7", "l1", "u1", legs="negative"),
            wire("r8", "l2", "u1", legs="negative"),
        ],
    )
    returns = trace_returns(plan, trace(plan))
    assert returns.leader_of == {"r2": "r1", "r3": "r1", "r7": "r5", "r8": "r6"}
    assert returns.through["r3"] == ("l1", "l2")
    assert (returns.lost, returns.by_chassis) == ((), ())


def test_device_without_a_negative_is_lost_and_one_on_the_body_is_told() -> None:
    plan = plan_of(
        [load("l1"), load("l2"), other("chassis_point", "g1"), other("chassis_point", "g2")],
        [
            wire("r1", "b1", "l1", legs="positive", **FUSED),
            wire("r2", "b1", "l2", legs="positive", **FUSED),
            wire("r3", "l2", "g1", legs="negative"),
            wire("r4", "g2", "b1", legs="negative"),
        ],
    )
    returns = trace_returns(plan, trace(plan))
    assert returns.lost == ("l1",)
    assert returns.by_chassis == ("l2",)


def test_copper_is_taken_before_the_body_where_both_lead_back() -> None:
    plan = plan_of(
        [load("l1"), other("busbar", "u1"), other("chassis_point", "g1"), other("chassis_point", "g2")],
        [
            wire("r1", "b1", "u1", **FUSED),
            wire("r2", "u1", "l1", fuse_at_start={}),
            wire("r3", "u1", "g1", legs="negative"),
            wire("r4", "b1", "g2", legs="negative"),
        ],
    )
    assert trace_returns(plan, trace(plan)).by_chassis == ()
