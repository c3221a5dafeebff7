"""What an installer of two hundred vans would fit, run by run. Common practice, no source: a span for wire and fuse."""

from __future__ import annotations

from typing import Any

import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.report import Report
from lucernis.core.wire.copper import wire_size
from lucernis.plan.document import parse_plan
from tests.law.cases import device, piece, wire

Doc = dict[str, Any]
NEAR = {"distance_m": 0.1}


def system(*parts: Doc, runs: list[Doc], volts: int = 12, capacity_ah: float = 200.0, trunk_m: float = 0.6) -> Doc:
    """A lithium battery, main fuse, bars; what is looked at hangs on them."""
    battery = piece("battery", "house", "locker", chemistry="lfp", capacity_ah=capacity_ah, discharge_a=capacity_ah,
                    discharge_short_a=2 * capacity_ah, charge_a=capacity_ah / 2)  # fmt: skip
    trunk = wire("trunk", "house", "bars", trunk_m, fuse_at_start={"distance_m": 0.1, "family": "class_t"})
    return {
        "format": "lucernis-plan", "version": 4, "job": {"name": "Reference", "vehicle": {"body": "steel"}},
        "nominal_v": volts, "units": "us", "practice": {"set": "small_craft_us"},
        "zones": [{"id": "living", "name": "Living"}],
        "places": [{"id": "locker", "name": "Locker", "zone": "living", "vented": True}],
        "parts": [battery, piece("busbar", "bars", "locker", rated_a=500, studs=10), *parts],
        "runs": [trunk, *runs],
        "states": [{"id": "on", "name": "On"}, {"id": "drive", "name": "Driving", "engine_on": True},
                   {"id": "sunny", "name": "Sun", "sun": True}],
    }  # fmt: skip


def on_a_block(load: Doc, length_m: float) -> Doc:
    """One device on a block near the bars, among what else a van has on it."""
    others = [device(f"lamp{k}", "locker", 3, power_w=10) for k in range(3)]
    runs = [
        wire("feeder", "bars", "block", 0.6, fuse_at_start=NEAR),
        wire("run", {"part": "block", "way": 1}, load["id"], length_m, fuse_at_start={}),
        *(wire(f"o{k}", {"part": "block", "way": 2 + k}, f"lamp{k}", 3, fuse_at_start={}) for k in range(3)),
    ]
    return system(piece("fuse_block", "block", "locker", ways=12), load, *others, runs=runs)


def run_of(report: Report, name: str = "run") -> Any:
    return next(one for one in report.runs if one.id == name)


def holds(one: Any, thinnest: str, thickest: str, fuse_a: tuple[float, float] | None) -> None:
    """Wire within the span, fuse too, and fuses at both ends alike."""
    low, high = (wire_size("awg", size).area_mm2 for size in (thinnest, thickest))
    assert low * 0.999 <= one.wire.area_mm2 <= high * 1.001, one.wire.label
    made = [fuse.rating_a for fuse in (one.fuse, one.far_fuse) if fuse is not None]
    if fuse_a is None:
        assert made == []
    else:
        assert made
        assert all(rating is not None and fuse_a[0] <= rating <= fuse_a[1] for rating in made), made


# A span for wire at each length: what the 3 % and 10 % charts of small craft give at that length, up to two sizes more.
BRANCHES = {
    "lamps": (device("x", "locker", 3, current_a=2.0, device="lamp"), (5.0, 5.0),
              {1.5: ("18", "14"), 3.0: ("18", "14"), 5.0: ("18", "14"), 8.0: ("18", "12")}),
    "sockets": (device("x", "locker", 1, current_a=10.0), (15.0, 15.0),
                {1.5: ("16", "10"), 4.0: ("14", "10"), 7.0: ("14", "8")}),
    "fridge": (device("x", "locker", 8, power_w=60, device="motor", sensitive=True), (7.5, 15.0),
               {2.0: ("16", "10"), 4.0: ("14", "10"), 6.0: ("12", "10"), 8.0: ("12", "8")}),
    "pump": (device("x", "locker", 0.3, power_w=84.0, device="motor"), (10.0, 10.0),
             {1.0: ("16", "12"), 3.0: ("16", "12"), 6.0: ("16", "10")}),
    "fan": (device("x", "locker", 8, current_a=3.5, device="motor"), (5.0, 7.5),
            {1.5: ("16", "14"), 4.0: ("16", "14"), 7.0: ("16", "12")}),
    "heater": (device("x", "locker", 8, power_w=120, device="heater", sensitive=True), (15.0, 20.0),
               {1.0: ("14", "10"), 3.0: ("14", "10"), 5.0: ("12", "8")}),
}  # fmt: skip


@pytest.mark.parametrize(
    ("name", "length_m"), [(name, length_m) for name, (_, _, spans) in BRANCHES.items() for length_m in spans]
)
def test_branch(name: str, length_m: float) -> None:
    load, fuse_a, spans = BRANCHES[name]
    holds(run_of(evaluate(parse_plan(on_a_block(load, length_m)))), *spans[length_m], fuse_a)


@pytest.mark.parametrize(
    ("length_m", "thinnest", "thickest"), [(1.0, "8", "4"), (2.5, "8", "4"), (4.0, "8", "2")]
)  # fmt: skip
def test_feeder_of_a_block_of_thirty_amperes(length_m: float, thinnest: str, thickest: str) -> None:
    loads = [device(f"x{k}", "locker", 1, current_a=7.5) for k in range(4)]
    runs = [wire("run", "bars", "block", length_m, fuse_at_start=NEAR)]
    runs += [wire(f"r{k}", {"part": "block", "way": 1 + k}, f"x{k}", 1.5, fuse_at_start={}) for k in range(4)]
    report = evaluate(parse_plan(system(piece("fuse_block", "block", "locker", ways=12), *loads, runs=runs)))
    holds(run_of(report), thinnest, thickest, (40.0, 60.0))


def charged_from_the_engine(in_m: float, out_m: float) -> Doc:
    parts = [
        piece("battery", "starter", "locker", use="starter", chemistry="agm", capacity_ah=90),
        piece("alternator", "alternator", "locker", rated_a=150),
        piece("charger", "dcdc", "locker", form="dcdc", out_a=30, chemistry="lfp", sense="wired", in_low_v=11.5,
              in_high_v=16, in_a=40),
    ]  # fmt: skip
    runs = [
        wire("run", "starter", {"part": "dcdc", "terminal": "in"}, in_m, fuse_at_start=NEAR, fuse_at_finish=NEAR),
        wire("out", {"part": "dcdc", "terminal": "out"}, "bars", out_m, fuse_at_finish=NEAR),
    ]
    return system(*parts, runs=runs)


@pytest.mark.parametrize(
    ("length_m", "thinnest", "thickest"), [(1.5, "8", "4"), (3.0, "8", "4"), (6.0, "6", "4"), (8.0, "6", "2")]
)  # fmt: skip
def test_charger_from_the_engine(length_m: float, thinnest: str, thickest: str) -> None:
    report = evaluate(parse_plan(charged_from_the_engine(length_m, 0.8)))
    holds(run_of(report), thinnest, thickest, (40.0, 60.0))


@pytest.mark.parametrize("length_m", [0.3, 0.8, 1.0, 1.5, 2.0])
def test_output_of_the_charger_from_the_engine(length_m: float) -> None:
    holds(run_of(evaluate(parse_plan(charged_from_the_engine(6.0, length_m))), "out"), "10", "6", (40.0, 40.0))


def charged_by_the_sun(out_m: float, roof_m: float) -> Doc:
    parts = [
        piece("charger", "sun", "locker", form="sun", out_a=30, chemistry="lfp", pv_high_v=100, pv_w=440, pv_a=30),
        piece("panel", "panels", "locker", power_w=200, mp_v=20.0, open_v=24.3, short_a=10.4, series=2),
    ]
    runs = [
        wire("run", {"part": "sun", "terminal": "out"}, "bars", out_m, fuse_at_finish=NEAR),
        wire("roof", "panels", {"part": "sun", "terminal": "pv"}, roof_m),
    ]
    return system(*parts, runs=runs)


@pytest.mark.parametrize("length_m", [0.3, 0.8, 1.0, 1.5, 2.0])
def test_sun_charger_to_the_bars(length_m: float) -> None:
    holds(run_of(evaluate(parse_plan(charged_by_the_sun(length_m, 4.0)))), "10", "6", (40.0, 40.0))


@pytest.mark.parametrize("length_m", [1.5, 4.0, 7.0])
def test_roof_run(length_m: float) -> None:
    holds(run_of(evaluate(parse_plan(charged_by_the_sun(1.0, length_m))), "roof"), "12", "10", None)


def inverter(watts: float, length_m: float, volts: int = 12, capacity_ah: float = 200.0, trunk_m: float = 0.6) -> Doc:
    load = device("inverter", "locker", 0.5, power_w=watts / 2, device="inverter",
                  inverter={"continuous_w": watts, "efficiency_frac": 0.9})  # fmt: skip
    lamps = device("lamps", "locker", 3, power_w=40.0 * volts)
    runs = [
        wire("run", "bars", "inverter", length_m, fuse_at_start={"distance_m": 0.1, "family": "anl"}),
        wire("feeder", "bars", "block", 1.0, fuse_at_start=NEAR),
        wire("branch", {"part": "block", "way": 1}, "lamps", 1.0, fuse_at_start={}),
        wire("bond", "bars", "body", 1.0, legs="negative"),
    ]
    block = piece("fuse_block", "block", "locker", ways=6, family="bolt_m5")
    body = piece("chassis_point", "body", "locker")
    return system(load, lamps, block, body, runs=runs, volts=volts, capacity_ah=capacity_ah, trunk_m=trunk_m)


@pytest.mark.parametrize(("watts", "length_m", "thinnest", "thickest", "fuse_a"), [
    (1000.0, 0.5, "4", "1", (125.0, 150.0)), (1000.0, 1.0, "4", "1", (125.0, 150.0)),
    (1000.0, 2.0, "4", "1/0", (125.0, 150.0)), (2000.0, 0.5, "2/0", "4/0", (225.0, 300.0)),
    (2000.0, 1.2, "2/0", "4/0", (225.0, 300.0)), (2000.0, 2.0, "2/0", "4/0", (225.0, 300.0))])  # fmt: skip
def test_inverter(watts: float, length_m: float, thinnest: str, thickest: str, fuse_a: tuple[float, float]) -> None:
    holds(run_of(evaluate(parse_plan(inverter(watts, length_m, capacity_ah=400.0)))), thinnest, thickest, fuse_a)


@pytest.mark.parametrize("trunk_m", [0.3, 0.6, 1.2])
@pytest.mark.parametrize(("volts", "capacity_ah", "thinnest", "thickest", "fuse_a"), [
    (12, 400.0, "2/0", "4/0", (250.0, 350.0)), (24, 200.0, "2", "1/0", (125.0, 175.0))])  # fmt: skip
def test_trunk_and_its_bond(
    volts: int, capacity_ah: float, thinnest: str, thickest: str, fuse_a: tuple[float, float], trunk_m: float
) -> None:
    """A 2000 W inverter and 40 A of loads at 12 V, the same at 24 V."""
    doc = inverter(2000.0, 1.2, volts, capacity_ah, trunk_m)
    if volts == 24:
        next(one for one in doc["parts"] if one["id"] == "lamps")["power_w"] = 40.0 * 12
    report = evaluate(parse_plan(doc))
    trunk, bond = run_of(report, "trunk"), run_of(report, "bond")
    holds(trunk, thinnest, thickest, fuse_a)
    assert 0.75 * trunk.wire.area_mm2 <= bond.wire.area_mm2 <= trunk.wire.area_mm2 * 1.001
    assert (bond.fuse, bond.far_fuse) == (None, None)
