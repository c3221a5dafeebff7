"""Single terms of the proposals, each where it decides; figures reckoned by hand beside it."""

from __future__ import annotations

from typing import Any

import pytest

from lucernis.core.energy.usage import usage_of
from lucernis.core.proposals.bank import make_bank
from lucernis.core.proposals.charging_steps import put_shore
from lucernis.core.proposals.day import lay_out_day
from lucernis.core.proposals.propose import propose
from lucernis.core.proposals.spine import blocks_near_loads, put_spine
from lucernis.core.proposals.sun import put_sun
from lucernis.core.proposals.wishes import Wishes
from lucernis.core.sizing.sized import sized_plan
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.edits import apply_edits
from lucernis.plan.edits.operations import MakeBank
from lucernis.plan.model import Plan
from tests.core.proposals.test_propose import LIST, listed

Doc = dict[str, Any]


def bank_of(plan: Plan, series: int, parallel: int, **fields: Any) -> Plan:
    """The plan with its battery made a bank on bars of its own."""
    doc = plan_document(plan)
    battery = next(one for one in doc["parts"] if one["kind"] == "battery")
    battery.update(fields)
    doc["nominal_v"] = 12 * series
    edit = MakeBank(op="make_bank", battery=battery["id"], series=series, parallel=parallel, take_off="busbar")
    return apply_edits(parse_plan(doc), [edit])


def lamps(*watts: float) -> Plan:
    return listed([(f"Lamp {k}", f"{w:g}", "3", "Desk") for k, w in enumerate(watts)], inverter=False)


def main_fuse(plan: Plan, wishes: Wishes) -> dict[str, Any]:
    """The fuse before the isolating switch of a proposed spine, as it stands in the document."""
    made = put_spine(plan, wishes)
    assert made is not None
    doc = plan_document(made[0])
    switch = next(one["id"] for one in doc["parts"] if one.get("use") == "isolator")
    before = next(one for one in doc["runs"] if one["finish"]["part"] == switch)
    return before["fuse_at_start"] or {}


def test_the_sun_is_asked_for_what_driving_leaves_over() -> None:
    wishes = Wishes(drive_hours=0.5, shore=False)
    plan, _ = propose(listed(LIST[:10], inverter=False), wishes.model_copy(update={"sun": False}))
    drive = next(part for part in plan.parts if part.kind == "charger" and part.form == "dcdc")
    day_wh = usage_of(plan, sized_plan(plan)).ah * 12
    left_wh = day_wh - drive.out_a * 12 * 0.5
    assert left_wh > 0.3 * day_wh
    made = put_sun(plan, wishes)
    assert made is not None
    assert made[1].startswith(f"{left_wh:.0f} Wh a day are left to the sun")
    assert sum(part.kind == "charger" and part.form == "sun" for part in made[0].parts) == 1
    assert "controllers" not in made[1]


def test_a_day_has_its_driving_from_nine_and_rests_for_what_is_left() -> None:
    plan, _ = propose(listed(), Wishes(sun=False, shore=False), ["begin", "bars", "bank", "link"])
    doc = plan_document(plan)
    doc["energy"]["day"] = []
    doc["states"] = [one for one in doc["states"] if not one["engine_on"]]
    laid = lay_out_day(parse_plan(doc), Wishes(drive_hours=2.5))
    assert laid is not None
    rest, driving = laid[0].states[0].id, next(state.id for state in laid[0].states if state.engine_on)
    assert [(slot.state, slot.hours) for slot in laid[0].energy.day] == [(rest, 9.0), (driving, 2.5), (rest, 12.5)]


def test_main_fuse_of_lithium_breaks_what_lithium_gives() -> None:
    """Lithium, or more than a hundred amperes: class T. A modest lead bank: a bolted one. A single battery: its own."""
    lithium, lead = Wishes(), Wishes(chemistry="agm")
    small, large = lamps(20, 30), lamps(*[90] * 12)
    assert main_fuse(bank_of(small, 1, 2, chemistry="lfp"), lithium)["family"] == "class_t"
    assert main_fuse(bank_of(small, 1, 2, chemistry="agm"), lead)["family"] == "anl"
    assert main_fuse(bank_of(large, 1, 2, chemistry="agm"), lead)["family"] == "class_t"
    assert main_fuse(small, lead).get("family") is None
    assert main_fuse(large, lithium).get("family") is None


def test_a_switch_goes_into_the_trunk_there_is() -> None:
    """Battery and bars joined already: the trunk is parted by the switch, no second one is laid beside it."""
    doc = plan_document(lamps(20, 30))
    battery = next(one["id"] for one in doc["parts"] if one["kind"] == "battery")
    doc["parts"].append({"kind": "busbar", "id": "u1", "name": "Bars", "tag": "U01"})
    doc["runs"].append(
        {"id": "r90", "tag": "C90", "start": {"part": battery}, "finish": {"part": "u1"}, "length_m": 0.9,
         "fuse_at_start": {"distance_m": 0.1}}
    )  # fmt: skip
    made = put_spine(parse_plan(doc), Wishes())
    assert made is not None
    switch = next(part.id for part in made[0].parts if part.kind == "switch" and part.use == "isolator")
    trunk = [{run.start.part, run.finish.part} for run in made[0].runs if "u1" in (run.start.part, run.finish.part)]
    assert trunk.count({switch, "u1"}) == 1
    assert {battery, "u1"} not in trunk
    assert sum(part.kind == "busbar" for part in made[0].parts) == 1


@pytest.mark.parametrize(("watts", "said"), [(10, False), (400, True)])
def test_more_than_four_strings_are_advised_against(watts: int, said: bool) -> None:
    plan = listed([("Lamp", str(watts), "10", "Desk")], inverter=False)
    made = make_bank(plan, Wishes(days=3.0))
    assert made is not None
    assert ("strings share badly" in made[1]) is said
    assert sum(part.kind == "battery" for part in made[0].parts) == (4 if said else 1)


@pytest.mark.parametrize(
    ("series", "charge_a", "unit"), [(1, 29.9, 40.0), (1, 30.0, 60.0), (2, 29.9, 40.0), (2, 30.0, 60.0)]
)
def test_shore_charger_keeps_to_what_the_bank_takes(series: int, charge_a: float, unit: float) -> None:
    """Two strings in parallel take twice what one does; batteries in series no more than one of them."""
    bank = bank_of(lamps(20, 30), series, 2, chemistry="lfp", capacity_ah=280.0, charge_a=charge_a)
    plan, _ = propose(bank, Wishes(nominal_v=12 * series), ["bars"])  # type: ignore[arg-type]
    made = put_shore(plan, Wishes())
    assert made is not None
    charger = next(part for part in made[0].parts if part.kind == "charger" and part.form == "shore")
    assert charger.out_a == unit


def test_a_block_near_its_loads_keeps_branches_as_long_as_they_have_to_be() -> None:
    """3.2, 3.5 and 4.1 m: half a metre before the nearest; 0.4 m more on average and 0.6 m of their own."""
    doc = plan_document(propose(lamps(20, 30, 25), Wishes(), ["begin", "bars", "blocks"])[0])
    loads = {one["id"] for one in doc["parts"] if one["kind"] == "load"}
    block = next(one for one in doc["parts"] if one["kind"] == "fuse_block")
    block["place"] = "p3"
    branches = [one for one in doc["runs"] if one["start"]["part"] == block["id"] and one["finish"]["part"] in loads]
    for one, length_m in zip(branches, (3.2, 3.5, 4.1), strict=True):
        one["length_m"] = length_m
    made = blocks_near_loads(parse_plan(doc), Wishes())
    assert made is not None
    new = next(part.id for part in made[0].parts if part.kind == "fuse_block" and part.place == "p0")
    assert [round(run.length_m, 3) for run in made[0].runs if run.finish.part == new] == [2.7]
    assert [round(run.length_m, 3) for run in made[0].runs if run.start.part == new] == [1.0, 1.0, 1.0]
