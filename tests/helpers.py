"""What several tests use: printed figures, small plans, documents."""

from __future__ import annotations

import copy
from dataclasses import dataclass
from typing import Any

from lucernis.core.checks.codes import CODES
from lucernis.core.report import Finding
from lucernis.demo import demo_plan
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.model import Plan


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


def powered_document(**changes: Any) -> dict[str, Any]:
    """`small_document` with limits on its lithium battery, a starter battery with alternator, DC-DC charger, panels
    with their charger and a shore charger, on a busbar: nothing in it is wrong."""
    doc = small_document()
    part(doc, "l2").update(keyed=False)
    part(doc, "b1").update(discharge_a=100.0, discharge_short_a=150.0, charge_a=80.0, place="p1")
    doc["parts"] += [
        {"kind": "busbar", "id": "u1", "name": "Bars", "tag": "U01", "studs": 8},
        {"kind": "battery", "id": "b0", "name": "Starter", "tag": "B00", "use": "starter", "chemistry": "agm",
         "capacity_ah": 80.0, "short_circuit_a": 900.0},
        {"kind": "alternator", "id": "a1", "name": "Alternator", "tag": "A01", "rated_a": 140.0},
        {"kind": "charger", "id": "q1", "name": "From engine", "tag": "Q01", "form": "dcdc", "out_a": 20.0,
         "chemistry": "lfp", "sense": "wired", "in_a": 30.0, "place": "p1", "hottest_c": 50.0},
        {"kind": "charger", "id": "q2", "name": "From sun", "tag": "Q02", "form": "sun", "out_a": 20.0,
         "chemistry": "lfp", "pv_high_v": 75.0, "pv_w": 300.0, "pv_a": 20.0},
        {"kind": "charger", "id": "q3", "name": "From shore", "tag": "Q03", "form": "shore", "out_a": 10.0,
         "chemistry": "lfp"},
        {"kind": "panel", "id": "v1", "name": "Panels", "tag": "V01", "power_w": 110.0, "mp_v": 18.0, "open_v": 22.0,
         "short_a": 6.5, "series": 2},
    ]  # fmt: skip

    def wire(run_id: str, start: dict[str, Any], finish: dict[str, Any], length_m: float, **fields: Any) -> None:
        doc["runs"].append(
            {"id": run_id, "tag": f"C{run_id[1:]}", "start": start, "finish": finish, "length_m": length_m} | fields
        )

    run(doc, "r1").update(finish={"part": "u1"}, length_m=0.5)
    near = {"distance_m": 0.1, "family": "bolt_m8"}
    wire("r20", {"part": "u1"}, {"part": "f1"}, 1.5, fuse_at_start=near)
    wire("r21", {"part": "b0"}, {"part": "q1"}, 5.0, fuse_at_start=near)
    for at, charger in enumerate(("q1", "q2", "q3"), start=22):
        wire(f"r{at}", {"part": charger}, {"part": "u1"}, 0.6, fuse_at_finish={"distance_m": 0.1})
    wire("r25", {"part": "v1"}, {"part": "q2", "terminal": "pv"}, 4.0)
    doc["states"] += [
        {"id": "driving", "name": "Driving", "engine_on": True, "off": ["l2"]},
        {"id": "sunny", "name": "In the sun", "key_on": False, "sun": True},
        {"id": "shore", "name": "On shore", "key_on": False, "shore_on": True},
    ]
    return doc | changes


RANKS = {"stop": 0, "fix": 1, "look": 2}


def every_finding(findings: list[Finding]) -> dict[tuple[str, str], Finding]:
    """Findings and what follows from them, by code and subject."""
    found: dict[tuple[str, str], Finding] = {}
    for one in findings:
        found[(one.code, one.subject)] = one
        found |= every_finding(one.consequences)
    return found


def severity_stands(one: Finding) -> bool:
    """Whether a finding is as grave as its code says; graver only with what follows from it or what it counted."""
    said, grave = RANKS[one.severity], RANKS[CODES[one.code].severity]
    if one.code in ("wire-above-terminal", "load-under-voltage") and "usual" in one.what:
        # What nobody has named stops nothing.
        grave = RANKS["look"]
    follows = min((RANKS[child.severity] for child in one.consequences), default=grave)
    return said == min(grave, follows) or (
        one.code == "isolator-unlike" and said < grave and "current_a" in one.figures
    )
