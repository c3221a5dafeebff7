"""What can keep a point live: batteries, chargers and panels alike, by hand on the demo jobs."""

from __future__ import annotations

from lucernis.core.circuit.giving import source_points
from lucernis.core.circuit.live_from import live_from
from lucernis.demo import demo_plan
from lucernis.plan.document import parse_plan, plan_document


def test_bars_stay_live_from_chargers_with_the_main_switch_off() -> None:
    plan = demo_plan("heron")
    names = {part.id: part.name for part in plan.parts}
    switch = next(part.id for part in plan.parts if part.name == "Isolating switch")
    bars = next(part.id for part in plan.parts if part.name == "Locker busbars")
    off = {names[one] for one in live_from(plan, {switch})[bars]}
    assert off == {"DC-DC charger", "Solar controller", "Mains charger"}
    assert "House bank" in {names[one] for one in live_from(plan)[bars]}


def test_a_point_behind_an_open_switch_that_nothing_charges_is_left_out() -> None:
    plan = demo_plan("tern")
    switch = next(part.id for part in plan.parts if part.name == "Isolating switch")
    bars = next(part.id for part in plan.parts if part.name == "Bonnet busbars")
    assert bars in live_from(plan)
    assert bars not in live_from(plan, {switch})


def test_a_charger_gives_at_its_outputs_alone() -> None:
    charger = next(part for part in demo_plan("heron").parts if part.name == "DC-DC charger")
    assert source_points(charger) == (f"{charger.id}:out",)
    load = next(part for part in demo_plan("heron").parts if part.kind == "load")
    assert source_points(load) == ()


def test_an_inverter_that_charges_gives_and_one_that_does_not_only_draws() -> None:
    doc = plan_document(demo_plan("heron"))
    inverter = next(one for one in doc["parts"] if one["name"] == "Mains inverter")
    switch = next(one["id"] for one in doc["parts"] if one["name"] == "Isolating switch")
    bars = next(one["id"] for one in doc["parts"] if one["name"] == "Locker busbars")
    assert inverter["id"] not in live_from(parse_plan(doc), {switch})[bars]
    inverter["inverter"]["charge_a"] = 40.0
    assert inverter["id"] in live_from(parse_plan(doc), {switch})[bars]
