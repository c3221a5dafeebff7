"""Reference tests: values working installers state (common practice, no source), T-numbers of check_trade_values.csv.

Where a statement leaves open whether a length is one way or there and back, the test says which reading gives it.
"""

from __future__ import annotations

import pytest

from lucernis.core.circuit.loads import load_current_a, load_figures
from lucernis.core.circuit.solver import Circuit, solve_circuit
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.evaluation.one_run import SizeRequest, size_run
from lucernis.core.protection.fuses import choose_fuse, family, wire_stands_fuse
from lucernis.core.wire.ampacity import Surroundings, ampacity
from lucernis.core.wire.copper import WireSize, wire_size
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Load
from tests.helpers import as_printed, small_document

CABIN = Surroundings(ambient_c=30.0, engine_space=False, bundle_count=2)
FOOT_M = 0.3048
SHELF = ("18", "16", "14", "12", "10", "8", "6", "4", "2", "1", "1/0", "2/0", "3/0", "4/0")


def copper_drop_pct(size: WireSize, current_a: float, loop_length_m: float, nominal_v: float = 12.0) -> float:
    """Drop of the copper alone at 20 °C, as charts print it: no joints, no fuse, no warming."""
    return 100 * current_a * size.resistance_20_ohm_per_m * loop_length_m / nominal_v


def chart_size(current_a: float, loop_length_m: float, *, limit_pct: float, insulation_c: int) -> str:
    """The thinnest AWG that carries the current and keeps the drop of the copper alone."""
    for name in SHELF:
        size = wire_size("awg", name)
        carried_a = ampacity("e11", size, insulation_c, CABIN).ampacity_a or 0.0
        if carried_a >= current_a and copper_drop_pct(size, current_a, loop_length_m) <= limit_pct:
            return name
    raise AssertionError("no size")


def test_t01_drop_of_source_volts() -> None:
    """T01: percent is of the 12.6 V at the source here; of nominal 12 V it would be 2.5 %."""
    circuit = Circuit(node_count=3)
    circuit.source(1, 0, 12.6)
    circuit.conductor(1, 2, 0.03)
    circuit.load(2, 0, "constant_current", 10.0)
    at_load_v = solve_circuit(circuit).load_v[0]
    assert at_load_v == pytest.approx(12.3, abs=1e-4)
    assert 100 * (12.6 - at_load_v) / 12.6 == pytest.approx(2.38, abs=0.01)


@pytest.mark.parametrize(("at_v", "amps"), [(12.0, "5"), (6.0, "10"), (11.0, "5.45")])
def test_t02_constant_power_draws_more_at_less_volts(at_v: float, amps: str) -> None:
    """T02."""
    assert as_printed(amps) == load_current_a("constant_power", power_w=60.0, rated_v=12.0, at_v=at_v)


def test_t03_two_lamps_with_engine_running() -> None:
    """T03: 13.5 V running."""
    lamps = Load(id="l1", name="Lamps", tag="L01", power_w=40.0, count=2)
    figures = load_figures(lamps, nominal_v=12.0, school="running")
    assert as_printed("5.93") == figures.design_current_a
    fuse = choose_fuse(("blade_regular",), figures.design_current_a, system_v=12.0)
    assert fuse is not None
    assert fuse.rating_a == 7.5


def test_t04_pump_gets_next_size_up() -> None:
    """T04: with 2 m one way and a 5 % limit; 14 AWG fails there by drop, not by ampacity."""
    wanted = {"amps": 18.5, "length_m": 2.0, "limit_pct": 5.0, "practice_set": "small_craft_us"}
    answer = size_run(SizeRequest.model_validate(wanted))
    assert answer.fuse_a == 20.0
    assert answer.size in ("12 AWG", "10 AWG")
    assert answer.area_mm2 < wire_size("awg", "4").area_mm2
    thin = size_run(SizeRequest.model_validate(wanted | {"pinned_size": {"system": "awg", "size": "14"}}))
    assert "drop-over-limit" in {finding.code for finding in thin.findings}


@pytest.mark.parametrize(("loop_ft", "printed_pct"), [(40, 3.3), (20, 1.7)])
def test_t05_fridge_on_12_awg(loop_ft: float, printed_pct: float) -> None:
    """T05: 20 ft read one way is 40 ft of copper and gives 3.3 %; read there and back it gives 1.7 %."""
    found = copper_drop_pct(wire_size("awg", "12"), 6.2, loop_ft * FOOT_M)
    assert found == pytest.approx(printed_pct, abs=0.15)


def test_t06_400_a_fuse_over_two_parallel_1_awg() -> None:
    """T06: the limit is that of one of the two conductors."""
    one = ampacity("e11", wire_size("awg", "1"), 105, CABIN).ampacity_a
    assert one == 245.0
    assert 1.5 * one == 367.5
    made_a = family("anl").ratings_a
    assert not wire_stands_fuse(one, 400.0, load_a=245.0, least_a=245.0, made_a=made_a, school="150_when_none_fits")
    assert wire_stands_fuse(one, 350.0, load_a=245.0, least_a=245.0, made_a=made_a, school="150_when_none_fits")


def test_t07_4_0_awg_carries_445_a() -> None:
    """T07."""
    assert ampacity("e11", wire_size("awg", "4/0"), 105, CABIN).ampacity_a == 445.0


@pytest.mark.parametrize(("current_a", "feet", "size"), [(25.0, 16, "8"), (25.0, 2, "14"), (10.0, 12, "14")])
def test_t12_vehicle_accessory_chart(current_a: float, feet: float, size: str) -> None:
    """T12: 3 %, lengths there and back, copper alone, 80 °C insulation; at 2 ft it is the ampacity that decides."""
    assert chart_size(current_a, feet * FOOT_M, limit_pct=3.0, insulation_c=80) == size


def test_t13_6_awg_to_a_charger() -> None:
    """T13: 20 ft there and back at 40 A; SAE 6 holds less copper and misses 3 %."""
    assert copper_drop_pct(wire_size("awg", "6"), 40.0, 20 * FOOT_M) < 3.0
    assert copper_drop_pct(wire_size("sae", "6"), 40.0, 20 * FOOT_M) > 3.0


def test_t14_3_bs_carries_150_a() -> None:
    """T14: 105 °C insulation, B&S taken as AWG."""
    carried_a = ampacity("e11", wire_size("bs", "3"), 105, CABIN).ampacity_a
    assert carried_a is not None
    assert carried_a >= 150.0


def test_t18_shared_part_carries_the_sum() -> None:
    """T18: a 12 A load and a 60 W lamp tapped off one feed."""
    document = small_document()
    document["parts"][2] |= {"power_w": 60.0}
    document["parts"][3] |= {"current_a": 12.0, "keyed": False}
    document["parts"].pop()
    document["runs"].pop()
    runs = {run.id: run.design_current_a for run in evaluate(parse_plan(document)).runs}
    assert runs == {"r1": 17.0, "r2": 5.0, "r3": 12.0}
