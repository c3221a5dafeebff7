"""Charging: the alternator's share, plain links, panels against limits, what states turn on; topology of two sides."""

from __future__ import annotations

from typing import Any

import pytest

from lucernis.core.circuit.batteries import acceptance_a
from lucernis.core.circuit.sources import alternator_v
from lucernis.core.circuit.supplies import (
    charging_v,
    in_low_v,
    input_power_w,
    panel_power_w,
    panel_short_a,
    panels_on,
    supplies,
    supply_figures,
)
from lucernis.core.circuit.topology import trace
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.power.charging import alternator_spare_a, engine_draw_a, panel_fit, study_charge
from lucernis.core.sizing.choice import Sized, size_plan
from lucernis.demo import demo_plan
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Charger, Plan
from lucernis.plan.rules import plan_rules
from tests.helpers import part, powered_document, run


def plan_with(**changes: dict[str, Any]) -> Plan:
    doc = powered_document()
    for name, fields in changes.items():
        part(doc, name).update(fields)
    return parse_plan(doc)


def sized_of(plan: Plan) -> Sized:
    return size_plan(plan, plan_rules(plan))


def charger(plan: Plan, name: str) -> Charger:
    found = next(one for one in plan.parts if one.id == name)
    assert isinstance(found, Charger)
    return found


def linked(**battery: Any) -> Plan:
    """A voltage-sensing link in place of the DC-DC charger, lead on both sides."""
    doc = powered_document()
    doc["parts"] = [one for one in doc["parts"] if one["id"] != "q1"]
    doc["runs"] = [one for one in doc["runs"] if one["id"] not in ("r21", "r22")]
    part(doc, "b1").update(chemistry="agm", **battery)
    for name in ("q2", "q3"):
        part(doc, name).update(chemistry="agm")
    doc["parts"].append({"kind": "isolator", "id": "i1", "name": "Link", "tag": "I01", "rated_a": 140.0})
    near = {"distance_m": 0.1, "family": "anl"}
    for name, ends, fuse in (("r30", ("b0", "i1"), "fuse_at_start"), ("r31", ("i1", "u1"), "fuse_at_finish")):
        doc["runs"].append(
            {"id": name, "tag": f"C{name[1:]}", "start": {"part": ends[0]}, "finish": {"part": ends[1]},
             "length_m": 1.5, "planned_a": 40.0, fuse: near}
        )  # fmt: skip
    return parse_plan(doc)


def test_alternator_keeps_what_the_vehicle_takes() -> None:
    plan = plan_with(a1={"rated_a": 150.0, "idle_frac": 0.5, "vehicle_a": 30.0})
    assert alternator_spare_a(plan) == 45.0
    assert alternator_spare_a(plan_with(a1={"rated_a": 40.0, "vehicle_a": 30.0})) == 0.0


@pytest.mark.parametrize(
    ("fields", "volts"),
    [
        ({}, 14.4),
        ({"held_v": 14.1}, 14.1),
        ({"regulation": "sagging"}, 12.8),
        ({"regulation": "sagging", "held_v": 15.0}, 12.8),
    ],
)
def test_alternator_volts(fields: dict[str, Any], volts: float) -> None:
    assert alternator_v(plan_with(a1=fields), 12.0) == pytest.approx(volts)


def test_without_an_alternator_nothing_is_known_of_its_share() -> None:
    doc = powered_document()
    doc["parts"] = [one for one in doc["parts"] if one["id"] != "a1"]
    plan = parse_plan(doc)
    assert alternator_spare_a(plan) is None
    assert alternator_v(plan, 24.0) == pytest.approx(28.8)
    assert "alternator-share" not in {one.code for one in evaluate(plan).findings}


def test_a_sagging_alternator_gives_a_dcdc_its_full_rating_but_more_amperes() -> None:
    steady, sagging = (
        study_charge(plan, sized_of(plan), "engine") for plan in (plan_with(), plan_with(a1={"regulation": "sagging"}))
    )
    assert sagging.given_a["q1"] == pytest.approx(steady.given_a["q1"])
    assert sagging.input_a["q1"] > 1.08 * steady.input_a["q1"]


def test_dcdc_draws_power_out_over_efficiency() -> None:
    plan = plan_with()
    study = study_charge(plan, sized_of(plan), "engine")
    unit = charger(plan, "q1")
    taken_w = study.input_v["q1"] * study.input_a["q1"]
    assert taken_w * unit.efficiency_frac == pytest.approx(13.5 * study.given_a["q1"], rel=0.02)


def test_plain_link_passes_what_wires_and_battery_let_it() -> None:
    plan = linked(charge_a=20.0)
    study = study_charge(plan, sized_of(plan), "engine")
    assert study.given_a == {}
    assert study.into_bank_a > 35.0
    assert engine_draw_a(plan, study) == acceptance_a(plan) == 20.0
    fuller = study_charge(plan, sized_of(plan), "engine", open_v=13.2)
    assert fuller.into_bank_a < study.into_bank_a


def test_lead_takes_its_rate_and_lithium_all_it_is_given() -> None:
    assert acceptance_a(linked(charge_a=None)) == pytest.approx(30.0)
    assert acceptance_a(linked(charge_a=22.0)) == 22.0
    assert acceptance_a(plan_with()) is None


def test_link_is_open_without_the_engine_and_closed_with_it() -> None:
    plan = linked()
    sized = sized_of(plan)
    contact = ("i1", "main")
    assert contact not in sized.demand.switched["all_on"].closed
    assert contact in sized.demand.switched["driving"].closed
    assert contact not in sized.demand.switched["shore"].closed


def test_two_way_link_closes_on_shore_too() -> None:
    doc = linked().model_dump(mode="json")
    part(doc, "i1").update(two_way=True)
    plan = parse_plan({"format": "lucernis-plan", **doc})
    assert ("i1", "main") in sized_of(plan).demand.switched["shore"].closed


def test_each_side_keeps_what_hangs_on_it() -> None:
    topology = trace(linked())
    assert topology.root_of["u1"] == "b1"
    assert topology.root_of["i1"] == "b0"
    assert {topology.root_of[f"l{k}"] for k in (1, 2, 3)} == {"b1"}
    assert {"r30", "r31"} <= topology.both_fed


def test_diode_loses_its_volts_at_its_rating() -> None:
    from lucernis.core.circuit.contacts import contact_ohm
    from lucernis.plan.model import Isolator

    diode = Isolator(id="i", name="D", tag="I1", form="diode", rated_a=100.0, diode_v=0.7)
    assert contact_ohm(diode) * 100.0 == pytest.approx(0.7)
    assert contact_ohm(diode.model_copy(update={"form": "voltage_sensing"})) < 0.2 * contact_ohm(diode)


@pytest.mark.parametrize(
    ("state", "on"),
    [("all_on", set()), ("driving", {"q1", "q1:out"}), ("sunny", {"q2:pv", "q2:out"}), ("shore", {"q3:out"})],
)
def test_states_turn_on_what_feeds_a_charger(state: str, on: set[str]) -> None:
    sized = sized_of(plan_with())
    assert sized.demand.on[state] & sized.demand.supplies.keys() == on


def test_terminals_of_chargers_are_told_apart() -> None:
    plan = plan_with()
    found = supplies(plan, trace(plan))
    assert set(found) == {"q1", "q1:out", "q2:out", "q2:pv", "q3:out"}
    assert {name for name, one in found.items() if one.gives} == {"q1:out", "q2:out", "q3:out"}
    assert [one.id for one in found["q2:pv"].panels] == ["v1"]


def test_panels_side_by_side_are_all_found() -> None:
    doc = powered_document()
    doc["parts"] += [
        part(doc, "v1") | {"id": "v2", "tag": "V02"},
        {"kind": "joint", "id": "j1", "name": "Combiner", "tag": "J01", "form": "stud"},
    ]
    run(doc, "r25").update(finish={"part": "j1"})
    for name, ends in (
        ("r26", ({"part": "v2"}, {"part": "j1"})),
        ("r27", ({"part": "j1"}, {"part": "q2", "terminal": "pv"})),
    ):
        doc["runs"].append({"id": name, "tag": f"C{name[1:]}", "start": ends[0], "finish": ends[1], "length_m": 1.0})
    plan = parse_plan(doc)
    panels = panels_on(plan, trace(plan), "q2:pv")
    assert [one.id for one in panels] == ["v1", "v2"]
    assert panel_power_w(panels) == 440.0
    assert panel_short_a(panels) == 13.0
    fit = panel_fit(plan, sized_of(plan), charger(plan, "q2"))
    assert fit is not None
    assert (fit.power_w, fit.short_a, fit.strings, fit.typical) == (440.0, 13.0, 2, True)


def test_roof_run_is_sized_for_more_than_its_short_circuit_current() -> None:
    plan = plan_with()
    sized = sized_of(plan)
    assert sized.demand.design_current_a["r25"] == pytest.approx(1.25 * 6.5)
    assert sized.home_v("q2:pv") == 36.0
    assert sized.limit_v["q2:pv"] == pytest.approx(0.05 * 36.0)
    report = next(one for one in evaluate(plan).runs if one.id == "r25")
    assert report.states["sunny"].current_a == pytest.approx(220 / 36.0, rel=0.05)
    assert 0 < report.states["sunny"].drop_to_end_frac < 0.05
    assert report.states["all_on"].current_a == pytest.approx(0.0, abs=1e-5)


@pytest.mark.parametrize(("chemistry", "volts"), [("lfp", 14.2), ("agm", 14.5), (None, 14.5)])
def test_charging_volts_follow_what_it_is_set_to(chemistry: str | None, volts: float) -> None:
    unit = charger(plan_with(q1={"chemistry": chemistry}), "q1")
    assert charging_v(unit, 12.0) == pytest.approx(volts)
    assert charging_v(unit, 24.0) == pytest.approx(2 * volts)


def test_input_figures_of_a_dcdc() -> None:
    plan = plan_with(q1={"in_a": None, "in_low_v": 11.5})
    unit = charger(plan, "q1")
    found = supply_figures(supplies(plan, trace(plan))["q1"], 12.0)
    assert in_low_v(unit, 12.0) == 11.5
    assert input_power_w(unit, 12.0) == pytest.approx(14.2 * 20 / 0.92)
    assert found.design_current_a == pytest.approx(14.2 * 20 / 0.92 / 11.5)
    held = plan_with(q1={"in_a": 15.0})
    capped = supply_figures(supplies(held, trace(held))["q1"], 12.0)
    assert capped.design_current_a == 15.0


def test_outputs_share_the_rating() -> None:
    doc = powered_document()
    part(doc, "q3").update(outputs=2, out_a=10.0)
    doc["runs"].append(
        {"id": "r28", "tag": "C28", "start": {"part": "q3", "terminal": "out_b"}, "finish": {"part": "u1"},
         "length_m": 0.6, "fuse_at_finish": {"distance_m": 0.1}}
    )  # fmt: skip
    plan = parse_plan(doc)
    sized = sized_of(plan)
    assert sized.demand.design_current_a["r24"] == sized.demand.design_current_a["r28"] == 5.0
    assert study_charge(plan, sized, "shore").given_a["q3"] == pytest.approx(10.0)


@pytest.mark.parametrize("name", ["heron", "tern", "plover_mended"])
def test_demo_jobs_charge_from_every_source_they_have(name: str) -> None:
    plan = demo_plan(name)
    sized = sized_of(plan)
    has = {one.form for one in plan.parts if isinstance(one, Charger)}
    engine = study_charge(plan, sized, "engine").into_bank_a
    assert engine > 5.0
    assert (study_charge(plan, sized, "shore").into_bank_a > 5.0) == ("shore" in has)
    assert (study_charge(plan, sized, "sun").into_bank_a > 5.0) == ("sun" in has)


def test_a_roof_run_drawn_from_the_controller_to_the_panel_is_the_same_run() -> None:
    """Sized by the panel's short-circuit current, fused or not by the same rule, whichever end is called its start."""
    doc, turned = powered_document(), powered_document()
    roof = next(one for one in turned["runs"] if one["start"]["part"] == "v1")
    roof["start"], roof["finish"] = roof["finish"], roof["start"]
    roof["fuse_at_start"], roof["fuse_at_finish"] = roof.get("fuse_at_finish"), roof.get("fuse_at_start")
    reports = [evaluate(parse_plan(one)) for one in (doc, turned)]
    runs = [next(one for one in report.runs if one.id == roof["id"]) for report in reports]
    for name in ("wire", "greatest_a", "design_current_a", "role"):
        assert getattr(runs[0], name) == getattr(runs[1], name), name
    codes = [sorted((one.code, one.subject) for one in report.findings) for report in reports]
    assert codes[0] == codes[1]
    assert {one.id: one.worst for one in reports[0].loads} == {one.id: one.worst for one in reports[1].loads}
