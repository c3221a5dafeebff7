"""What several tests use: printed figures, small plans, documents."""

from __future__ import annotations

import copy
from dataclasses import dataclass
from typing import Any

from lucernis.demo import demo_plan
from lucernis.plan.model import Plan, parse_plan, plan_document


@dataclass(frozen=True)
class AsPrinted:
    """A figure as a source prints it: equal to anything within half its last digit."""

    text: str

    def __eq__(self, other: object) -> bool:
        digits = len(self.text.partition(".")[2])
        return isinstance(other, int | float) and abs(other - float(self.text)) <= 0.5 * 10**-digits * (1 + 1e-9)

    def __hash__(self) -> int:
        return hash(self.text)


def as_printed(text: str) -> AsPrinted:
    """The figure with the tolerance its printing implies."""
    return AsPrinted(text)


def document(name: str = "heron") -> dict[str, Any]:
    """A fresh copy of a demo plan's full document."""
    return copy.deepcopy(plan_document(demo_plan(name)))


def small_document(**changes: Any) -> dict[str, Any]:
    """Battery, fused feeder, block of six ways, two loads on their own runs and a third behind the first."""
    base: dict[str, Any] = {
        "format": "lucernis-plan",
        "version": 1,
        "job": {"name": "Small"},
        "practice": {"set": "small_craft_us"},
        "zones": [
            {"id": "z1", "name": "Inside"},
            {"id": "z2", "name": "Engine", "ambient_c": 50, "engine_space": True},
        ],
        "places": [{"id": "p1", "name": "Bench", "zone": "z1"}],
        "parts": [
            {"kind": "battery", "id": "b1", "name": "Battery", "tag": "B01"},
            {"kind": "fuse_block", "id": "f1", "name": "Block", "tag": "F01", "ways": 6},
            {"kind": "load", "id": "l1", "name": "Lamp", "tag": "L01", "power_w": 24.0, "hours_per_day": 3},
            {
                "kind": "load",
                "id": "l2",
                "name": "Pump",
                "tag": "L02",
                "current_a": 6.0,
                "hours_per_day": 1,
                "behaviour": "constant_current",
                "keyed": True,
            },
            {"kind": "load", "id": "l3", "name": "Far lamp", "tag": "L03", "power_w": 12.0, "hours_per_day": 2},
        ],
        "runs": [
            {
                "id": "r1",
                "tag": "C01",
                "start": {"part": "b1"},
                "finish": {"part": "f1"},
                "length_m": 2.0,
                "fuse_at_start": {"distance_m": 0.1},
            },
            {
                "id": "r2",
                "tag": "C02",
                "start": {"part": "f1", "way": 1},
                "finish": {"part": "l1"},
                "length_m": 3.0,
                "fuse_at_start": {},
            },
            {
                "id": "r3",
                "tag": "C03",
                "start": {"part": "f1", "way": 2},
                "finish": {"part": "l2"},
                "length_m": 4.0,
                "fuse_at_start": {},
            },
            {"id": "r4", "tag": "C04", "start": {"part": "l1"}, "finish": {"part": "l3"}, "length_m": 1.5},
        ],
        "states": [{"id": "all_on", "name": "Everything on"}, {"id": "key_off", "name": "Key off", "key_on": False}],
    }
    return base | changes


def small_plan(**changes: Any) -> Plan:
    """`small_document`, read."""
    return parse_plan(small_document(**changes))


def part(doc: dict[str, Any], part_id: str) -> dict[str, Any]:
    """A part of a document by id."""
    return next(one for one in doc["parts"] if one["id"] == part_id)


def run(doc: dict[str, Any], run_id: str) -> dict[str, Any]:
    """A run of a document by id."""
    return next(one for one in doc["runs"] if one["id"] == run_id)
