"""Starting currents and cycles: both edges of a breaker, what stays on between, and phases."""

from __future__ import annotations

import math
from typing import Any

import pytest

from lucernis.core.circuit.loads import load_figures
from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.protection.thermal_memory import (
    Cycling,
    ThermalImage,
    current_profile,
    thermal_image,
    trip_in_profile,
)
from lucernis.core.sizing.endurance import stress_of
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Load
from tests.helpers import every_finding, part, run, small_document


def load(name: str, current_a: float, **fields: Any) -> Load:
    return Load(id=name, name=name, tag=name.upper(), current_a=current_a, behaviour="constant_current", **fields)


def stress(*loads: Load, carry_a: float | None = None) -> Any:
    figures = {one.id: load_figures(one, nominal_v=12.0, school="nominal") for one in loads}
    whole = sum(one.current_a or 0.0 for one in loads)
    return stress_of(loads, figures, whole if carry_a is None else carry_a)


def test_a_start_comes_on_top_of_what_else_is_on() -> None:
    pump = load("pump", 7.0, inrush_factor=4.0, inrush_s=0.3)
    assert stress(pump).starts[0].peak_a == pytest.approx(28.0)
    assert stress(pump, load("lamp", 5.0)).starts[0].peak_a == pytest.approx(33.0)


def test_a_start_shorter_than_the_quick_edge_is_survived() -> None:
    quick = stress(load("pump", 10.0, inrush_factor=2.0, inrush_s=0.15))
    slow = stress(load("pump", 10.0, inrush_factor=2.0, inrush_s=0.16))
    # A regular blade opens at twice its rating after 0.15 s at the earliest.
    assert quick.opened_by("blade_regular", 10.0) is None
    start, fast_s = slow.opened_by("blade_regular", 10.0)
    assert (start.peak_a, fast_s) == (pytest.approx(20.0), pytest.approx(0.15))


def test_a_profile_follows_phases() -> None:
    first, second = Cycling(10.0, 60.0, 60.0), Cycling(10.0, 60.0, 60.0, start_s=60.0)
    together = current_profile(2.0, [first, Cycling(10.0, 60.0, 60.0)], 240.0)
    apart = current_profile(2.0, [first, second], 240.0)
    assert {amps for amps, _ in together} == {22.0, 2.0}
    assert {amps for amps, _ in apart} == {12.0}
    assert sum(lasts for _, lasts in apart) == pytest.approx(240.0)


def test_the_quick_edge_trips_before_the_slow_one() -> None:
    cycling = stress(load("heater", 24.0, cycle_on_s=300.0, cycle_off_s=60.0))
    early = cycling.trips("breaker_auto", 20.0, slow=False)
    assert early is not None
    late = cycling.trips("breaker_auto", 20.0, slow=True)
    assert late is None or late.time_s > early.time_s
    assert early.cycle == 1


def test_a_trip_in_a_later_cycle_says_which() -> None:
    image = thermal_image("breaker_auto", slow=False)
    on_s = 0.9 * image.time_constant_s * math.log(1.44 / (1.44 - image.trip_level))
    found = stress(load("heater", 12.0, cycle_on_s=on_s, cycle_off_s=0.2 * on_s)).trips(
        "breaker_auto", 10.0, slow=False
    )
    assert found is not None
    assert found.cycle >= 2
    assert found.time_s > 1.2 * on_s


def test_what_stays_on_between_makes_it_trip() -> None:
    cycles = {"cycle_on_s": 20.0, "cycle_off_s": 600.0}
    alone = stress(load("heater", 11.0, **cycles))
    beside = stress(load("heater", 11.0, **cycles), load("lamps", 9.0))
    assert beside.steady_a == pytest.approx(9.0)
    assert alone.trips("breaker_auto", 20.0, slow=True) is None
    assert beside.trips("breaker_auto", 15.0, slow=False) is not None


def test_a_fuse_has_no_memory() -> None:
    assert (
        stress(load("heater", 50.0, cycle_on_s=300.0, cycle_off_s=1.0)).trips("blade_regular", 10.0, slow=True) is None
    )


def test_a_profile_of_nothing_never_trips() -> None:
    image = ThermalImage(60.0, 1.8)
    assert trip_in_profile(image, []) is None
    assert trip_in_profile(image, [(1.34, 1e9)]) is None
    assert trip_in_profile(image, [(1.35, 1e9)]) is not None


def breaker_doc(start_s: float) -> dict[str, Any]:
    """Two heaters of 14 A on one 25 A breaker, 60 s on and 60 s off; the second begins `start_s` later."""
    doc = small_document()
    cycles = {"current_a": 16.0, "behaviour": "constant_current", "cycle_on_s": 600.0, "cycle_off_s": 600.0}
    part(doc, "l1").update(cycles | {"power_w": None})
    part(doc, "l3").update(cycles | {"power_w": None, "cycle_start_s": start_s})
    run(doc, "r2")["fuse_at_start"] = {"pin": {"rating_a": 25, "family": "breaker_manual", "reason": "test"}}
    run(doc, "r2")["wire"] = run(doc, "r4")["wire"] = {"system": "awg", "size": "8", "reason": "test"}
    return doc


def test_loads_that_take_turns_are_no_finding_and_loads_in_step_are() -> None:
    def codes(start_s: float) -> set[tuple[str, str]]:
        return set(every_finding(evaluate(parse_plan(breaker_doc(start_s))).findings))

    assert ("cycle-trips", "r2") in codes(0.0)
    assert ("cycle-trips", "r2") not in codes(600.0)
