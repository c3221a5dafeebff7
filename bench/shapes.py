"""Plans of unlike shapes: a bank of many strings, a ring, a chain of loads."""

from __future__ import annotations

from typing import Any

from bench.plans import made_plan
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.model import Plan


def bank_plan(runs: int, strings: int = 8) -> Plan:
    """`made_plan` on so many batteries side by side, each with a fuse of its own onto a busbar."""
    doc = plan_document(made_plan(runs))
    doc["parts"] = [part for part in doc["parts"] if part["id"] != "b1"]
    doc["parts"].append({"kind": "busbar", "id": "bar", "name": "Bar", "tag": "BB1"})
    next(run for run in doc["runs"] if run["id"] == "r0")["start"] = {"part": "bar"}
    for at in range(strings):
        doc["parts"].append(
            {"kind": "battery", "id": f"s{at}b", "name": f"Battery {at + 1}", "tag": f"B{at + 10}", "capacity_ah": 250}
        )
        doc["runs"].append(
            {"id": f"rb{at}", "tag": f"CB{at}", "start": {"part": f"s{at}b"}, "finish": {"part": "bar"},
             "length_m": 0.4, "fuse_at_start": {"distance_m": 0.1}}
        )  # fmt: skip
    return parse_plan(doc)


def ring_plan(runs: int) -> Plan:
    """`made_plan` with two of its strips joined, so that they can be fed from either side."""
    doc = plan_document(made_plan(runs))
    next(part for part in doc["parts"] if part["id"] == "s1")["ways"] = 12
    doc["runs"].append(
        {"id": "ring", "tag": "CRR", "start": {"part": "s1", "way": 12}, "finish": {"part": "s2"}, "length_m": 2.0,
         "fuse_at_start": {}, "fuse_at_finish": {}}
    )  # fmt: skip
    return parse_plan(doc)


def chain_plan(loads: int) -> Plan:
    """Loads one behind the other on one pair of wires."""
    parts: list[dict[str, Any]] = [{"kind": "battery", "id": "b1", "name": "Bank", "tag": "B01", "capacity_ah": 2000}]
    runs: list[dict[str, Any]] = []
    before = "b1"
    for at in range(loads):
        parts.append(
            {"kind": "load", "id": f"l{at}", "name": f"Load {at}", "tag": f"L{at}", "power_w": 0.2,
             "hours_per_day": 2.0}
        )  # fmt: skip
        fuse = {"fuse_at_start": {"distance_m": 0.1}} if at == 0 else {}
        runs.append(
            {"id": f"r{at}", "tag": f"C{at}", "start": {"part": before}, "finish": {"part": f"l{at}"},
             "length_m": 0.1} | fuse
        )  # fmt: skip
        before = f"l{at}"
    return parse_plan(
        {
            "format": "lucernis-plan",
            "version": 1,
            "job": {"name": f"{loads} loads in a row"},
            "practice": {"set": "small_craft_us"},
            "zones": [{"id": "z1", "name": "Inside"}],
            "parts": parts,
            "runs": runs,
        }
    )
