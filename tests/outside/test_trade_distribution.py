"""Reference tests: T06, T15, T18, T19, T21, T22 of check_trade_values.csv (common practice, no source)."""

from __future__ import annotations

from typing import Any

import pytest

from lucernis.core.circuit.contacts import contact_ohm
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.protection.thermal_memory import thermal_image, trip_in_cycles
from lucernis.core.report import Report
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Shunt
from lucernis.practice.tables import load_table

Doc = dict[str, Any]


BATTERY = {"kind": "battery", "id": "b1", "name": "Battery", "tag": "B01", "capacity_ah": 200.0}


def plan(parts: list[Doc], runs: list[Doc], **fields: Any) -> Report:
    return evaluate(
        parse_plan(
            {
                "format": "lucernis-plan",
                "version": 2,
                "job": {"name": "Trade"},
                "practice": {"set": "small_craft_us"},
                "zones": [{"id": "z", "name": "Inside"}],
                "parts": [
                    {"kind": "battery", "id": "b1", "name": "Battery", "tag": "B01", "capacity_ah": 200.0},
                    *parts,
                ],
                "runs": runs,
            }
            | fields
        )
    )


def load(name: str, current_a: float) -> Doc:
    return {"kind": "load", "id": name, "name": name, "tag": name.upper(), "behaviour": "constant_current",
            "current_a": current_a, "hours_per_day": 1}  # fmt: skip


def wire(name: str, start: str, finish: str, length_m: float = 1.0, **fields: Any) -> Doc:
    return {
        "id": name,
        "tag": name.upper(),
        "start": {"part": start},
        "finish": {"part": finish},
        "length_m": length_m,
    } | fields


def test_t06_one_fuse_before_two_conductors_is_held_to_one() -> None:
    """Two 1 AWG (245 A each, 150 % is 367.5 A) behind one 400 A fuse: not allowed; each with its own is."""
    pin = {"system": "awg", "size": "1", "reason": "test"}
    fuse = {"distance_m": 0.1, "family": "anl", "pin": {"rating_a": 400.0, "reason": "test"}}
    report = plan([load("l1", 300.0)], [wire("r1", "b1", "l1", parallel=2, wire=pin, fuse_at_start=fuse)])
    finding = next(one for one in report.findings if one.code == "fuse-parallel")
    assert finding.figures["ampacity_a"] == 245.0
    assert report.runs[0].wire.ampacity_a == 490.0
    each = {"distance_m": 0.1, "family": "anl", "each": True, "pin": {"rating_a": 175.0, "reason": "test"}}
    mended = plan([load("l1", 300.0)], [wire("r1", "b1", "l1", parallel=2, wire=pin, fuse_at_start=each)])
    assert not [one for one in mended.findings if one.code.startswith("fuse-")]


def test_t15_shunt() -> None:
    """A 500 A shunt drops 50 mV: 0.1 mΩ."""
    assert contact_ohm(Shunt(id="h", name="Shunt", tag="H01", rated_a=500, rated_mv=50)) == pytest.approx(1e-4)


def test_t18_shared_part_carries_the_sum_each_tap_its_own() -> None:
    """12 A and a 60 W lamp (5 A at 12 V) tapped off one feed."""
    lamp = load("l2", 1.0) | {"current_a": None, "power_w": 60.0}
    report = plan(
        [{"kind": "joint", "id": "j1", "name": "Splice", "tag": "J01"}, load("l1", 12.0), lamp],
        [wire("r1", "b1", "j1", fuse_at_start={}), wire("r2", "j1", "l1"), wire("r3", "j1", "l2")],
    )
    assert [run.design_current_a for run in report.runs] == [17.0, 12.0, 5.0]


@pytest.mark.parametrize(("pin_a", "fires"), [(7.5, True), (13.0, False)])
def test_t19_plug_in_connector_is_rated_by_the_pin(pin_a: float, fires: bool) -> None:
    """A 10 A wire needs the 13 A pins, not the 7.5 A ones, however many pins the connector has."""
    plug = {"kind": "joint", "id": "j1", "name": "Plug", "tag": "J01", "form": "plug", "rated_a": pin_a, "pins": 4}
    report = plan([plug, load("l1", 10.0)], [wire("r1", "b1", "j1", fuse_at_start={}), wire("r2", "j1", "l1")])
    assert any(one.code == "pin-over" for one in report.findings) is fires


def test_t21_all_four_distances_are_offered() -> None:
    """7 in, 300 mm, 12 in and 18 in from the source; the shortest possible is the aim."""
    found = sorted(float(row["distance_m"]) for row in load_table("fuse_distance").rows if row["sheathed"] == "no")
    assert found == pytest.approx([0.178, 0.300, 0.305, 0.457])


def test_t22_thermal_breaker_remembers_the_first_cycle() -> None:
    """An 80 A breaker holds through one heater cycle above its rating and trips on a second straight after."""
    image = thermal_image("breaker_manual", slow=True)
    multiple, on_s = 110 / 80, 250.0
    assert trip_in_cycles(image, multiple, on_s=on_s, off_s=20.0, cycles=1) is None
    second = trip_in_cycles(image, multiple, on_s=on_s, off_s=20.0, cycles=2)
    assert second is not None
    assert second[0] == 2
    cold = trip_in_cycles(image, multiple, on_s=10_000.0, off_s=0.0, cycles=1)
    assert cold is not None
    assert second[1] < cold[1]
