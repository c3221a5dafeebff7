"""Converters in the circuit: power in is power out over efficiency, within limits; weak inputs give less."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from lucernis.core.circuit.solver import Circuit, Converter, Solver, fold_volts
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.power.charging import study_charge
from lucernis.core.sizing.choice import size_plan
from lucernis.plan.document import parse_plan
from lucernis.plan.edits import apply_edits
from lucernis.plan.edits.operations import MakeBank
from lucernis.plan.rules import plan_rules
from tests.helpers import part, powered_document, run


def bench(
    feed_ohm: float, *, in_limit_a: float = np.inf, low_v: float = 0.0, eff: float = 0.9, out_a: float = 20.0
) -> Solver:
    """Source 0-1, feed to the converter's input 2, its output 3 to a battery at 4 over 10 mΩ."""
    circuit = Circuit(node_count=5)
    circuit.source(1, 0, 13.8)
    circuit.source(4, 0, 13.0, 0.005)
    circuit.conductor(1, 2, feed_ohm)
    circuit.conductor(3, 4, 0.01)
    takes = circuit.load(2, 0, "constant_power", 400.0)
    gives = circuit.load(3, 0, "constant_current", out_a)
    circuit.converter(Converter(takes, gives, eff, out_a, in_limit_a, in_low_v=low_v))
    return Solver(circuit)


@given(
    feed_ohm=st.floats(0.0, 0.08),
    eff=st.floats(0.6, 1.0),
    out_a=st.floats(1.0, 40.0),
    in_limit_a=st.floats(5.0, 80.0),
)
def test_power_balances_within_limits(feed_ohm: float, eff: float, out_a: float, in_limit_a: float) -> None:
    solution = bench(feed_ohm, eff=eff, out_a=out_a, in_limit_a=in_limit_a).solve()
    takes_a, gives_a = solution.load_a
    if not solution.served[0]:
        assert takes_a == gives_a == 0
        return
    assert solution.converged
    assert -gives_a * solution.load_v[1] == pytest.approx(eff * takes_a * solution.load_v[0], rel=1e-6)
    assert -gives_a <= out_a * (1 + 1e-9)
    assert takes_a <= in_limit_a * (1 + 1e-9)


def test_what_it_gives_reaches_the_battery() -> None:
    solution = bench(0.005).solve()
    assert -solution.load_a[1] == pytest.approx(20.0)
    assert solution.source_a[1] == pytest.approx(-20.0)


def test_input_limit_makes_a_weak_run_give_less() -> None:
    strong, weak = (bench(ohm, in_limit_a=22.0).solve() for ohm in (0.002, 0.1))
    assert -weak.load_a[1] < -strong.load_a[1] - 1.0
    assert weak.load_a[0] == pytest.approx(22.0)


@pytest.mark.parametrize("power_w", [60.0, 120.0])
def test_it_takes_no_more_than_it_is_made_for(power_w: float) -> None:
    """A strong feed and an output that could give 260 W: its own power is the cap, not what a load drew before."""
    circuit = Circuit(node_count=5)
    circuit.source(1, 0, 13.8)
    circuit.source(4, 0, 13.0, 0.005)
    circuit.conductor(1, 2, 0.005)
    circuit.conductor(3, 4, 0.01)
    takes, gives = circuit.load(2, 0, "constant_power", 400.0), circuit.load(3, 0, "constant_current", 20.0)
    circuit.converter(Converter(takes, gives, 0.9, 20.0, power_w=power_w))
    solution = Solver(circuit).solve()
    assert solution.load_a[0] * solution.load_v[0] == pytest.approx(power_w)
    assert -solution.load_a[1] * solution.load_v[1] == pytest.approx(0.9 * power_w)


def test_input_too_low_switches_it_off() -> None:
    solution = bench(0.1, low_v=12.5).solve()
    assert not solution.served[0]
    assert solution.load_a[0] == solution.load_a[1] == 0.0


def test_without_giving_both_sides_are_plain_loads() -> None:
    solution = bench(0.005).solve(give=False)
    assert solution.load_a[1] == pytest.approx(20.0)
    assert solution.source_a[1] > 0


def test_several_inputs_share_one_output_limit() -> None:
    circuit = Circuit(node_count=4)
    circuit.source(1, 0, 13.8)
    circuit.source(2, 0, 36.0)
    circuit.source(3, 0, 13.0, 0.005)
    takes = circuit.load(1, 0, "constant_power", 600.0)
    sun = circuit.load(2, 0, "constant_power", 180.0)
    gives = circuit.load(3, 0, "constant_current", 30.0)
    circuit.converter(Converter(sun, gives, 0.95, 30.0, power_w=180.0))
    circuit.converter(Converter(takes, gives, 0.9, 30.0))
    solution = Solver(circuit).solve()
    assert -solution.load_a[2] == pytest.approx(30.0)
    assert solution.load_a[1] * 36.0 == pytest.approx(180.0)


def test_fold_is_half_of_what_arrives_with_nothing_drawn() -> None:
    circuit = Circuit(node_count=3)
    circuit.source(1, 0, 12.0)
    circuit.source(2, 0, 40.0)
    circuit.load(1, 0, "constant_power", 10.0)
    circuit.load(2, 0, "constant_power", 10.0)
    assert fold_volts(circuit).tolist() == pytest.approx([6.0, 20.0])


def test_a_high_panel_voltage_does_not_fold_the_loads() -> None:
    doc = powered_document()
    part(doc, "v1").update(series=3)
    part(doc, "q2").update(pv_high_v=150.0)
    report = evaluate(parse_plan(doc))
    assert all(load.worst.served for load in report.loads)


def test_charging_turns_the_bank_current_round() -> None:
    plan = parse_plan(powered_document())
    sized = size_plan(plan, plan_rules(plan))
    assert sized.states["all_on"].source_a > 0
    assert sized.states["driving"].source_a < 0
    assert sized.states["shore"].source_a < sized.states["all_on"].source_a


def test_sizes_do_not_count_on_chargers() -> None:
    """Sizes are the same whether or not a charger would help while everything is on."""
    doc = powered_document()
    doc["states"][0]["engine_on"] = False
    still = evaluate(parse_plan(doc))
    doc["states"][0]["engine_on"] = True
    helped = evaluate(parse_plan(doc))
    assert {one.tag: one.wire.label for one in still.runs} == {one.tag: one.wire.label for one in helped.runs}


@pytest.mark.parametrize("source", ["engine", "shore", "sun"])
def test_one_source_alone(source: str) -> None:
    plan = parse_plan(powered_document())
    study = study_charge(plan, size_plan(plan, plan_rules(plan)), source)  # type: ignore[arg-type]
    assert set(study.given_a) == {{"engine": "q1", "shore": "q3", "sun": "q2"}[source]}
    assert study.into_bank_a == pytest.approx(sum(study.given_a.values()), abs=1e-6)


def test_series_bank_gives_its_sum_and_its_link_carries_all() -> None:
    doc = powered_document(nominal_v=24)
    part(doc, "b0").update(rated_v=12)
    part(doc, "q1").update(in_nominal_v=12)
    part(doc, "v1").update(series=3)
    part(doc, "q2").update(pv_high_v=150.0)
    edit = MakeBank.model_validate({"op": "make_bank", "battery": "b1", "series": 2})
    plan = apply_edits(parse_plan(doc), [edit])
    sized = size_plan(plan, plan_rules(plan))
    link = next(one for one in plan.runs if one.legs == "series")
    assert sized.states["all_on"].part_v["u1"] == pytest.approx(24.0, abs=0.2)
    assert abs(sized.states["all_on"].run_a[link.id]) == pytest.approx(sized.states["all_on"].source_a, rel=1e-6)
    assert sized.demand.design_current_a[link.id] >= sized.demand.design_current_a["r1"]
    assert {one.code for one in evaluate(plan).findings if one.severity == "stop"} <= {"breaking-low"}


def test_isolated_charger_keeps_its_negatives_apart() -> None:
    doc = powered_document()
    part(doc, "q1").update(shared_negative=False)
    plan = parse_plan(doc)
    sized = size_plan(plan, plan_rules(plan))
    assert sized.wiring.neg_at("q1:out") != sized.wiring.neg_at("q1")
    assert study_charge(plan, sized, "engine").given_a["q1"] == pytest.approx(20.0)


def test_charger_terminals_limit_the_wire() -> None:
    doc = powered_document()
    part(doc, "q1").update(greatest={"system": "awg", "size": "8"})
    report = evaluate(parse_plan(doc))
    feed = next(one for one in report.runs if one.id == "r21")
    assert feed.wire.area_mm2 < 8.4
    run(doc, "r21").update(wire={"system": "awg", "size": "2", "reason": "test"})
    assert ("wire-above-terminal", "r21") in {(one.code, one.subject) for one in evaluate(parse_plan(doc)).findings}
