"""The house bank: strings, limits, mass, sharing by resistances; how runs of a bank are sized."""

from __future__ import annotations

from typing import Any

import pytest

from lucernis.core.circuit.batteries import house_batteries, strings_of
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.power.bank import bank_figures, battery_mass_kg, usable_share
from lucernis.core.sizing.choice import Sized, size_plan
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.edits import apply_edits
from lucernis.plan.edits.operations import MakeBank
from lucernis.plan.model import Battery, Plan
from lucernis.plan.rules import plan_rules
from tests.helpers import every_finding, part, powered_document, small_plan


def sized_of(plan: Plan) -> Sized:
    return size_plan(plan, plan_rules(plan))


def bank_of(series: int = 1, parallel: int = 2, take_off: str = "busbar", **changes: Any) -> Plan:
    doc = powered_document(nominal_v=12 * series)
    part(doc, "b1").update(changes)
    if series == 2:
        part(doc, "b0").update(rated_v=12)
        part(doc, "q1").update(in_nominal_v=12)
        part(doc, "v1").update(series=3)
        part(doc, "q2").update(pv_high_v=150.0)
    fields = {"op": "make_bank", "battery": "b1", "series": series, "parallel": parallel, "take_off": take_off}
    return apply_edits(parse_plan(doc), [MakeBank.model_validate(fields)])


@pytest.mark.parametrize(("series", "parallel"), [(1, 1), (1, 3), (2, 1), (2, 2)])
def test_strings_are_found_top_first(series: int, parallel: int) -> None:
    plan = bank_of(series, parallel) if series * parallel > 1 else parse_plan(powered_document())
    strings = strings_of(plan)
    assert len(strings) == parallel
    assert {len(one) for one in strings} == {series}
    assert sum(len(one) for one in strings) == len(house_batteries(plan))


def test_starter_batteries_are_no_part_of_the_bank() -> None:
    plan = parse_plan(powered_document())
    assert [one.id for one in house_batteries(plan)] == ["b1"]
    found = bank_figures(plan, sized_of(plan))
    assert found is not None
    assert found.capacity_ah == 100.0


def test_parallel_adds_ampere_hours_and_limits_series_adds_volts() -> None:
    side, up = (bank_figures(plan, sized_of(plan)) for plan in (bank_of(1, 3), bank_of(2, 1)))
    assert side is not None
    assert up is not None
    assert (side.capacity_ah, side.nominal_v, side.discharge_a, side.charge_a) == (300.0, 12.0, 300.0, 240.0)
    assert (up.capacity_ah, up.nominal_v, up.discharge_a, up.charge_a) == (100.0, 24.0, 100.0, 80.0)
    assert side.mass_kg == pytest.approx(3 * battery_mass_kg(house_batteries(bank_of())[0], 12.0))


def test_a_limit_one_battery_does_not_state_is_the_usual_of_its_chemistry() -> None:
    doc = plan_document(bank_of(1, 2))
    part(doc, "b2").update(discharge_a=None)
    plan = parse_plan(doc)
    found = bank_figures(plan, sized_of(plan))
    assert found is not None
    # 100 A stated and 1 C of 100 Ah, battery_chemistry.csv.
    assert found.discharge_a == 200.0
    assert found.charge_a == 160.0


def test_a_string_is_as_small_as_its_smallest_battery() -> None:
    doc = plan_document(bank_of(2, 1))
    part(doc, "b2").update(capacity_ah=60.0, charge_a=20.0)
    plan = parse_plan(doc)
    found = bank_figures(plan, sized_of(plan))
    assert found is not None
    assert (found.capacity_ah, found.charge_a) == (60.0, 20.0)


def test_usable_share_is_by_chemistry_unless_the_plan_says() -> None:
    assert usable_share("lfp", None) == 0.85
    assert usable_share("flooded", None) == 0.5
    assert usable_share("lfp", 0.6) == 0.6


def test_mass_by_maker_wins_over_the_table() -> None:
    plain = Battery(id="b", name="B", tag="B1", capacity_ah=100.0)
    assert battery_mass_kg(plain, 12.0) == pytest.approx(1200 / 105)
    assert battery_mass_kg(plain.model_copy(update={"mass_kg": 14.0}), 12.0) == 14.0


def test_shares_add_up_to_what_is_drawn() -> None:
    plan = bank_of(1, 3, "same_end")
    sized = sized_of(plan)
    found = bank_figures(plan, sized)
    assert found is not None
    state = next(one for one in plan.states if one.id == found.worst_state)
    assert sum(one.current_a for one in found.shares) == pytest.approx(sized.rated[state.id].source_a)
    assert sum(one.of_even for one in found.shares) == pytest.approx(3.0)


def test_equal_batteries_exchange_nothing_and_unlike_ones_do() -> None:
    plan = bank_of(1, 2)
    even = bank_figures(plan, sized_of(plan))
    doc = plan_document(plan)
    part(doc, "b2").update(chemistry="agm")
    mixed_plan = parse_plan(doc)
    mixed = bank_figures(mixed_plan, sized_of(mixed_plan))
    assert even is not None
    assert mixed is not None
    assert even.circling_a == pytest.approx(0.0, abs=1e-6)
    assert mixed.circling_a > 50.0


def test_longer_link_carries_less() -> None:
    doc = plan_document(bank_of(1, 2))
    longer = [one for one in doc["runs"] if one["start"]["part"] == "b2"]
    longer[0].update(length_m=3.0, length_as_typed=None)
    plan = parse_plan(doc)
    found = bank_figures(plan, sized_of(plan))
    assert found is not None
    by_id = {one.battery: one.of_even for one in found.shares}
    assert by_id["b2"] < 0.95 < by_id["b1"]


def test_any_string_may_have_to_carry_all() -> None:
    free, held = (
        bank_of(1, 2, discharge_a=None, discharge_short_a=None),
        bank_of(1, 2, discharge_short_a=6.0, charge_a=6.0),
    )
    # What the chargers give flows whatever a sheet allows; the check of the bank says that it is too much.
    for plan in (free, held):
        sized = sized_of(plan)
        strings = [one for one in plan.runs if one.start.part in ("b1", "b2")]
        # What the three chargers give together is more than what the loads draw.
        assert {sized.demand.design_current_a[one.id] for one in strings} == {20.0 + 20.0 + 10.0}
    codes = {code for code, _ in every_finding(evaluate(bank_of(1, 2, charge_a=6.0)).findings)}
    assert "bank-charge-over" in codes


def test_strings_take_one_wire_size() -> None:
    plan = bank_of(1, 3)
    report = evaluate(plan)
    batteries = {one.id for one in plan.parts if one.kind == "battery" and one.use == "house"}
    strings = [one.id for one in plan.runs if one.start.part in batteries]
    sizes = {one.wire.label for one in report.runs if one.id in strings}
    assert len(strings) == 3
    assert len(sizes) == 1


def test_no_house_battery_is_no_bank() -> None:
    doc = powered_document()
    part(doc, "b1").update(use="starter")
    plan = parse_plan(doc)
    assert bank_figures(plan, sized_of(plan)) is None
    assert bank_figures(small_plan(), sized_of(small_plan())) is not None


def test_bank_current_is_counted_once_in_series() -> None:
    plan = bank_of(2, 2)
    sized = sized_of(plan)
    result = sized.states["all_on"]
    drawn = sum(amps for load, amps in result.load_a.items() if ":" not in load and load.startswith("l"))
    assert result.source_a == pytest.approx(drawn, rel=1e-6)


def test_run_between_a_battery_and_its_chassis_bond_stays_a_bond() -> None:
    doc = plan_document(bank_of(1, 2))
    doc["parts"].append({"kind": "chassis_point", "id": "g1", "name": "Bond", "tag": "G01"})
    doc["runs"].append(
        {
            "id": "r90",
            "tag": "C90",
            "start": {"part": "b1"},
            "finish": {"part": "g1"},
            "length_m": 0.5,
            "legs": "negative",
        }
    )
    plan = parse_plan(doc)
    assert sized_of(plan).demand.design_current_a["r90"] == 0.0
