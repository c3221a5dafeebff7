"""What works when: key, engine, shore and sun in all sixteen ways, by a table (common practice, no source).

A key that is on is no engine that runs, and either alone must not do what needs the other.
"""

from __future__ import annotations

from collections.abc import Callable
from itertools import product
from typing import Any

import pytest

from lucernis.core.circuit.giving import givers
from lucernis.core.circuit.sources import alternator_v
from lucernis.core.circuit.supplies import supplies, supply_on
from lucernis.core.circuit.switching import SwitchingPlan
from lucernis.core.circuit.topology import trace
from lucernis.core.sizing.choice import size_plan
from lucernis.plan.document import parse_plan
from lucernis.plan.model import State
from lucernis.plan.rules import plan_rules
from tests.core.checks.test_distribution import document, load, other, wire
from tests.core.power.test_charging import linked
from tests.helpers import part, powered_document

FUSED = {"fuse_at_start": {"distance_m": 0.1}}
EVERY = [
    State(id="s", name="S", key_on=key, engine_on=engine, shore_on=shore, sun=sun)
    for key, engine, shore, sun in product((False, True), repeat=4)
]
Works = Callable[[State], bool]
# A DC-DC charger wakes with the engine; with panels of its own it works in the sun besides.
GIVES: list[tuple[str, dict[str, Any], Works]] = [
    ("alternator", {}, lambda state: state.engine_on),
    ("panel", {"power_w": 100.0, "mp_v": 18.0, "open_v": 22.0, "short_a": 6.0}, lambda state: state.sun),
    ("charger", {"form": "shore", "out_a": 20.0}, lambda state: state.shore_on),
    ("charger", {"form": "sun", "out_a": 20.0, "pv_high_v": 50.0}, lambda state: state.sun),
    ("charger", {"form": "dcdc", "out_a": 20.0}, lambda state: state.engine_on),
    ("charger", {"form": "dcdc", "out_a": 20.0, "pv_high_v": 50.0}, lambda state: state.engine_on or state.sun),
]
GIVES_IDS = ["alternator", "panel", "shore", "sun", "dcdc", "dcdc with panels"]


@pytest.mark.parametrize(("kind", "fields", "works"), GIVES, ids=GIVES_IDS)
def test_each_source_gives_where_what_drives_it_is_there_and_nowhere_else(
    kind: str, fields: dict[str, Any], works: Works
) -> None:
    plan = parse_plan(document([other(kind, "g1", **fields)], []))
    for state in EVERY:
        assert ("g1" in {one.part for one in givers(plan, state)}) == works(state), state


def test_an_inverter_that_charges_gives_on_shore_alone() -> None:
    inverter = load("g1", device="inverter", inverter={"continuous_w": 1000.0, "charge_a": 30.0})
    plan = parse_plan(document([inverter], []))
    for state in EVERY:
        assert ("g1" in {one.part for one in givers(plan, state)}) == state.shore_on, state


@pytest.mark.parametrize(
    ("kind", "fields", "closes"),
    [
        ("keyed_feed", {"follows": "key"}, lambda state: state.key_on),
        ("keyed_feed", {"follows": "engine"}, lambda state: state.engine_on),
        ("keyed_feed", {"follows": "shore"}, lambda state: state.shore_on),
        ("isolator", {}, lambda state: state.engine_on),
        ("isolator", {"two_way": True}, lambda state: state.engine_on or state.shore_on),
        ("diode", {}, lambda state: True),
    ],
    ids=["key", "engine", "shore", "link", "two-way link", "diode"],
)
def test_each_contact_closes_by_its_own_condition(kind: str, fields: dict[str, Any], closes: Works) -> None:
    parts = [other(kind, "k1", **fields), load("l1")]
    plan = parse_plan(document(parts, [wire("r1", "b1", "k1", **FUSED), wire("r2", "k1", "l1")]))
    switching = SwitchingPlan(plan)
    for state in EVERY:
        assert (("k1", "main") in switching.in_state(state).closed) == closes(state), state


@pytest.mark.parametrize("high_v", [None, 50.0])
def test_a_dcdc_with_panels_of_its_own_charges_in_the_sun_and_draws_from_the_starter_by_the_engine_alone(
    high_v: float | None,
) -> None:
    doc = powered_document()
    part(doc, "q1")["pv_high_v"] = high_v
    plan = parse_plan(doc)
    found = supplies(plan, trace(plan))
    for state in EVERY:
        works = state.engine_on or (high_v is not None and state.sun)
        assert supply_on(found["q1:out"], state) == works, state
        assert supply_on(found["q1"], state) == state.engine_on, state
        assert supply_on(found["q2:pv"], state) == supply_on(found["q2:out"], state) == state.sun
        assert supply_on(found["q3:out"], state) == state.shore_on


@pytest.mark.parametrize("key", [False, True])
@pytest.mark.parametrize("engine", [False, True])
def test_a_starter_battery_stands_at_the_alternators_volts_while_the_engine_runs_not_with_the_key(
    key: bool, engine: bool
) -> None:
    doc = powered_document()
    doc["states"] = [{"id": "s", "name": "S", "key_on": key, "engine_on": engine}]
    plan = parse_plan(doc)
    sized = size_plan(plan, plan_rules(plan))
    volts = float(sized.rated["s"].part_v["b0"])
    assert (volts > 13.0) == engine
    assert volts <= alternator_v(plan, 12.0) + 1e-9


def test_a_plain_link_joins_both_sides_by_the_engine_and_not_by_the_key() -> None:
    switching = SwitchingPlan(linked())
    for state in EVERY:
        assert (("i1", "main") in switching.in_state(state).closed) == state.engine_on, state
