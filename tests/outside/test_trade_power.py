"""Facts of the trade about inverters, chargers and panels: check_trade_values.csv, common practice, no source."""

from __future__ import annotations

from typing import Any

import pytest

from lucernis.core.circuit.loads import inverter_current_a
from lucernis.core.circuit.sources import HELD_V_PER_12V, alternator_v, source_figures
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.power.charging import study_charge
from lucernis.core.sizing.choice import size_plan
from lucernis.core.sizing.sized import sized_plan
from lucernis.core.wire.ampacity import Surroundings, ampacity
from lucernis.core.wire.copper import wire_size
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Plan
from lucernis.plan.rules import plan_rules
from tests.helpers import powered_document, run, small_document

OPEN_AIR = Surroundings(ambient_c=30.0, engine_space=False, bundle_count=2)


def inverter_plan(continuous_w: float, length_m: float, **rules: Any) -> Plan:
    doc = small_document()
    doc["parts"] = [
        {"kind": "battery", "id": "b1", "name": "Battery", "tag": "B01", "capacity_ah": 400.0},
        {"kind": "load", "id": "l1", "name": "Inverter", "tag": "L01", "device": "inverter", "hours_per_day": 1.0,
         "power_w": continuous_w, "inverter": {"continuous_w": continuous_w, "efficiency_frac": 0.9}},
    ]  # fmt: skip
    doc["runs"] = [
        {"id": "r1", "tag": "C01", "start": {"part": "b1"}, "finish": {"part": "l1"}, "length_m": length_m,
         "fuse_at_start": {"distance_m": 0.1}}
    ]  # fmt: skip
    overrides = [{"rule": rule, "value": value, "reason": "test"} for rule, value in rules.items()]
    doc["practice"] = {"set": "small_craft_us", "overrides": overrides}
    return parse_plan(doc)


def test_t09_850_w_is_about_70_a_and_ten_to_one_says_85_a() -> None:
    exact = inverter_current_a(850, efficiency_frac=0.9, low_v=13.2, nominal_v=12, school="efficiency")
    assert exact == pytest.approx(70, abs=5)
    assert inverter_current_a(850, efficiency_frac=0.9, low_v=13.2, nominal_v=12, school="ten_to_one") == 85


@pytest.mark.parametrize(
    ("watts", "length_m", "size", "fuse_a"), [(1000.0, 1.0, "2", 125.0), (2000.0, 1.2, "2/0", 225.0)]
)
def test_t10_inverter_takes_the_usual_size(watts: float, length_m: float, size: str, fuse_a: float) -> None:
    """1000 W wants about 2 AWG, 2000 W about 200 A and 2/0 AWG: as the practice set stands, nothing bent for it."""
    sized = sized_plan(inverter_plan(watts, length_m))
    fuse = sized.fuses["r1"].fuse
    assert fuse is not None
    assert (sized.chosen["r1"].size.name, fuse.rating_a) == (size, fuse_a)
    assert sized.demand.design_current_a["r1"] == pytest.approx(watts / 10, rel=0.08)


@pytest.mark.parametrize(("most", "size"), [(0.0, "4"), (3.1, "1"), (3.2, "2"), (5.0, "4"), (4.9, "2")])
def test_an_inverter_s_leads_carry_no_more_for_each_square_millimetre(most: float, size: str) -> None:
    """105.8 A: 3.15 A/mm² on 2 AWG, 5.0 on 4 AWG (21.15 mm²)."""
    assert sized_plan(inverter_plan(1000.0, 1.0, inverter_a_per_mm2=most)).chosen["r1"].size.name == size


@pytest.mark.parametrize(("size", "amps"), [("8", 50.0), ("4", 85.0), ("2", 100.0)])
def test_t11_the_cautious_guide_is_a_table_of_its_own(size: str, amps: float) -> None:
    found = ampacity("inverter_guide", wire_size("awg", size, tinned=True), 105, OPEN_AIR)
    assert found.ampacity_a == amps
    assert "practice" in found.cells[0].certainty


def test_t11_the_guide_never_reads_between_its_rows() -> None:
    six = ampacity("inverter_guide", wire_size("awg", "6", tinned=True), 105, OPEN_AIR)
    assert six.ampacity_a == 50.0
    assert ampacity("inverter_guide", wire_size("awg", "10", tinned=True), 105, OPEN_AIR).ampacity_a is None


def test_t16_resting_and_running_volts() -> None:
    """Starter battery 12.7 V, lithium 13.1 to 13.2 V at rest; 14.4 to 14.5 V on both posts with the engine running."""
    doc = powered_document()
    plan = parse_plan(doc)
    batteries = {part.id: part for part in plan.parts if part.kind == "battery"}
    assert source_figures(batteries["b0"], 12.0).full_v == pytest.approx(12.7, abs=0.2)
    assert source_figures(batteries["b1"], 12.0).half_v == pytest.approx(13.15, abs=0.2)
    assert alternator_v(plan, 12.0) == pytest.approx(14.45, abs=0.2)
    assert pytest.approx(14.45, abs=0.2) == HELD_V_PER_12V


def bare_panel(power_w: float) -> set[str]:
    doc = powered_document()
    doc["practice"] = {"set": "vehicle_accessory"}
    panel = next(one for one in doc["parts"] if one["id"] == "v1")
    panel.update(power_w=power_w, mp_v=18.0, open_v=22.0, short_a=power_w / 16, series=1)
    run(doc, "r25").update(finish={"part": "u1"})
    return {one.code for one in evaluate(parse_plan(doc)).findings if one.subject == "v1"}


def test_t20_15_w_may_hang_on_a_battery_and_20_w_may_not() -> None:
    assert "panel-uncontrolled" not in bare_panel(15.0)
    assert "panel-uncontrolled" in bare_panel(20.0)


def dcdc_with_panels(open_v: float, power_w: float) -> set[str]:
    doc: dict[str, Any] = powered_document()
    unit = next(one for one in doc["parts"] if one["id"] == "q1")
    unit.update(out_a=30.0, in_a=22.0, pv_high_v=25.0, pv_w=360.0)
    doc["parts"].append(
        {"kind": "panel", "id": "v2", "name": "More", "tag": "V02", "power_w": power_w, "mp_v": open_v * 0.8,
         "open_v": open_v, "short_a": power_w / open_v / 0.7, "open_frac_per_k": -1e-9}
    )  # fmt: skip
    doc["runs"].append(
        {
            "id": "r26",
            "tag": "C26",
            "start": {"part": "v2"},
            "finish": {"part": "q1", "terminal": "pv"},
            "length_m": 3.0,
        }
    )
    return {one.code for one in evaluate(parse_plan(doc)).findings if one.subject == "q1"}


def test_t23_panel_limits_of_a_dcdc_unit() -> None:
    """A 30 A unit with up to 360 W and 25 V of panel: 26 V open-circuit is a fault."""
    assert "panel-voltage-over" not in dcdc_with_panels(24.9, 300.0)
    assert "panel-voltage-over" in dcdc_with_panels(26.0, 300.0)
    assert "panel-power-over" in dcdc_with_panels(24.0, 400.0)


def test_t23_input_limit_caps_what_is_drawn() -> None:
    doc = powered_document()
    next(one for one in doc["parts"] if one["id"] == "q1").update(out_a=30.0, in_a=22.0)
    plan = parse_plan(doc)
    study = study_charge(plan, size_plan(plan, plan_rules(plan)), "engine")
    assert study.input_a["q1"] == pytest.approx(22.0)
    assert study.given_a["q1"] < 30.0
