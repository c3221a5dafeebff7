"""Shorts of trees and rings against a nodal matrix built from the plan by another hand."""

from __future__ import annotations

import random
from typing import Any

import pytest

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.plan.document import parse_plan
from lucernis.plan.model import Plan
from tests.outside.references.shorted import short_a

# Open volts of a full lithium (LFP) battery at rest: 13.3 to 13.6 V, common practice, no source.
OPEN_V, SPREAD = 13.5, 0.02
# What one fuse of 70 A and the joints of a pair come to at most, a run: a milliohm or so each (common practice).
LEFT_OUT_OHM = 0.004
# A small fuse would be half of the loop by itself: each is one of about a milliohm.
FUSE = {"rating_a": 70.0, "family": "blade_maxi", "reason": "test"}
Doc = dict[str, Any]


def network(seed: int, *, ring: bool) -> Doc:
    """One battery, bars, consumers; every second run drawn as two single legs of their own length."""
    draw = random.Random(seed)
    bars = [f"u{at}" for at in range(draw.randint(2, 4))]
    parts: list[Doc] = [
        {
            "kind": "battery",
            "id": "b1",
            "name": "Battery",
            "tag": "B01",
            "short_circuit_a": draw.choice([800.0, 2500.0]),
        }
    ]
    parts += [{"kind": "busbar", "id": one, "name": f"Bar {one}", "tag": one.upper(), "studs": 12} for one in bars]
    runs: list[Doc] = []

    def wire(start: str, finish: str, length_m: float, area: str, legs: str = "both", *, fused: bool = True) -> None:
        at = len(runs) + 1
        runs.append(
            {
                "id": f"r{at}", "tag": f"C{at:02d}", "start": {"part": start}, "finish": {"part": finish}, "legs": legs,
                "length_m": length_m, "fuse_at_start": {"distance_m": 0.1, "pin": dict(FUSE)} if fused else None,
                "wire": {"system": "mm2", "size": area, "reason": "test"},
            }
        )  # fmt: skip

    def pair(start: str, finish: str, area: str) -> None:
        length_m = round(draw.uniform(3.0, 9.0), 2)
        if draw.random() < 0.5:
            wire(start, finish, length_m, area)
        else:
            wire(start, finish, length_m, area, "positive")
            wire(finish, start, round(length_m * draw.uniform(1.1, 1.6), 2), area, "negative", fused=False)

    pair("b1", bars[0], "10")
    for at in range(1, len(bars)):
        pair(draw.choice(bars[:at]), bars[at], draw.choice(["4", "6"]))
    if ring:
        pair(bars[0], bars[-1], "4")
    for at in range(draw.randint(2, 4)):
        parts.append(
            {"kind": "load", "id": f"l{at}", "name": f"Lamp {at}", "tag": f"L{at}", "power_w": 12.0, "hours_per_day": 1}
        )
        pair(draw.choice(bars), f"l{at}", draw.choice(["1.5", "2.5"]))
    return {
        "format": "lucernis-plan", "version": 1, "job": {"name": "Shorts"}, "practice": {"set": "metric_caravan"},
        "zones": [{"id": "z1", "name": "Inside"}], "places": [], "parts": parts, "runs": runs,
        "states": [{"id": "all_on", "name": "All on"}],
    }  # fmt: skip


def passed(plan: Plan, part: str) -> int:
    """Runs from the battery to a part, by the fewest."""
    here, count = {"b1"}, 0
    runs = [{run.start.part, run.finish.part} for run in plan.runs if run.legs != "negative"]
    while part not in here:
        here |= {one for ends in runs if ends & here for one in ends}
        count += 1
    return count


@pytest.mark.parametrize("ring", [False, True], ids=["tree", "ring"])
@pytest.mark.parametrize("seed", range(12))
def test_prospective_current_is_that_of_a_nodal_matrix(seed: int, ring: bool) -> None:
    plan = parse_plan(network(seed, ring=ring))
    report = evaluate(plan, with_working=False)
    area_mm2 = {one.id: one.wire.area_mm2 for one in report.runs}
    looked_at = 0
    for run, reported in zip(plan.runs, report.runs, strict=True):
        if run.legs == "negative":
            continue
        for end, where in ((run.start.part, "start"), (run.finish.part, "finish")):
            fault = next((one for one in reported.faults if one.where == where), None)
            if fault is None:
                continue
            wanted_a = short_a(plan, area_mm2, OPEN_V, end, end)
            loop_ohm = OPEN_V / wanted_a + LEFT_OUT_OHM * (1 + passed(plan, end))
            assert OPEN_V / loop_ohm <= fault.strongest_a <= (1 + SPREAD) * wanted_a, (run.tag, where)
            assert fault.weakest_a < fault.strongest_a
            looked_at += 1
    assert looked_at >= 6


def test_a_fuse_at_the_battery_must_break_the_battery_s_own_short() -> None:
    """A positive by itself, its negative elsewhere: the post beside the fuse is the shortest way back.

    A large blade fuse breaks 1,000 A (common practice, no source); the battery gives 2,500, the long way round 915.
    """
    plan = parse_plan(network(0, ring=False))
    trunk = plan.runs[0]
    assert (trunk.start.part, trunk.legs) == ("b1", "positive")
    findings = evaluate(plan, with_working=False).findings
    assert ("breaking-low", trunk.id) in {(one.code, one.subject) for one in findings}
