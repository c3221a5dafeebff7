"""Made plans and circuits of any size, the same every time."""

from __future__ import annotations

import random
from typing import Any

from lucernis.core.circuit.solver import Circuit
from lucernis.plan.document import parse_plan, plan_document
from lucernis.plan.model import Plan


def made_plan(runs: int) -> Plan:
    """A battery, a strip of feeders, blocks of twelve ways, one load a way: about so many runs."""
    rng = random.Random(runs)
    blocks = max(1, round(runs / 13))
    parts: list[dict[str, Any]] = [
        {"kind": "battery", "id": "b1", "name": "Bank", "tag": "B01", "capacity_ah": 2000},
        {"kind": "fuse_block", "id": "f0", "name": "Strip", "tag": "F00", "ways": 60, "family": "bolt_m5"},
    ]
    made: list[dict[str, Any]] = [
        {"id": "r0", "tag": "C0000", "start": {"part": "b1"}, "finish": {"part": "f0"}, "length_m": 0.5,
         "fuse_at_start": {"distance_m": 0.1}}
    ]  # fmt: skip

    def feed(start: str, way: int, finish: str, length_m: float) -> None:
        number = len(made)
        made.append(
            {"id": f"r{number}", "tag": f"C{number:04d}", "start": {"part": start, "way": way},
             "finish": {"part": finish}, "length_m": round(length_m, 3), "fuse_at_start": {}}
        )  # fmt: skip

    for block in range(1, blocks + 1):
        strip = f"s{1 + (block - 1) // 10}"
        if (block - 1) % 10 == 0:
            parts.append(
                {
                    "kind": "fuse_block",
                    "id": strip,
                    "name": strip,
                    "tag": strip.upper(),
                    "ways": 10,
                    "family": "bolt_m5",
                }
            )
            feed("f0", 1 + (block - 1) // 10, strip, rng.uniform(0.5, 3))
        hub = f"f{block}"
        parts.append({"kind": "fuse_block", "id": hub, "name": f"Block {block}", "tag": f"F{block:02d}", "ways": 12})
        feed(strip, 1 + (block - 1) % 10, hub, rng.uniform(0.5, 3))
        for way in range(1, 13):
            if len(made) >= runs:
                break
            load = f"l{block}_{way}"
            parts.append(
                {
                    "kind": "load",
                    "id": load,
                    "name": f"Load {block}.{way}",
                    "tag": f"L{block}.{way}",
                    "power_w": round(rng.uniform(0.2, 1.5), 2),
                    "hours_per_day": 2.0,
                    "sensitive": rng.random() < 0.2,
                }
            )
            feed(hub, way, load, rng.uniform(0.5, 4))
    return parse_plan(
        {
            "format": "lucernis-plan",
            "version": 1,
            "job": {"name": f"{runs} runs"},
            "practice": {"set": "small_craft_us"},
            "zones": [{"id": "z1", "name": "Inside"}],
            "parts": parts,
            "runs": made,
        }
    )


def made_circuit(runs: int) -> Circuit:
    """A tree of so many two-leg runs with a constant-power load at most of its ends."""
    rng = random.Random(runs)
    circuit = Circuit(node_count=2 * (runs + 1))
    circuit.source(1, 0, 12.0, 0.001)
    per_load_w = 900 / runs
    for point in range(1, runs + 1):
        # About a dozen runs deep at most, as wiring is.
        start = rng.randint((point - 1) // 4, (point - 1) // 2)
        ohm = rng.uniform(0.0005, 0.002)
        circuit.conductor(2 * start + 1, 2 * point + 1, ohm)
        circuit.conductor(2 * start, 2 * point, ohm)
        circuit.load(2 * point + 1, 2 * point, "constant_power", per_load_w * rng.uniform(0.3, 1.0))
    return circuit


def laid_plan(runs: int, places: int) -> Plan:
    """`made_plan` in a van of so many places on a grid, each joined to its neighbours by channels; every run follows
    them."""
    rng = random.Random(runs + places)
    doc = plan_document(made_plan(runs))
    wide = max(2, round(places**0.5))
    doc["places"] = [
        {"id": f"p{one}", "name": f"Place {one}", "zone": doc["zones"][0]["id"], "x_m": 0.5 * (one // wide),
         "y_m": 0.4 * (one % wide)}
        for one in range(places)
    ]  # fmt: skip
    pairs = [(one, one + 1) for one in range(places - 1) if (one + 1) % wide]
    pairs += [(one, one + wide) for one in range(places - wide)]
    doc["channels"] = [
        {"id": f"c{at}", "name": f"Channel {at}", "start": f"p{a}", "finish": f"p{b}",
         "length_m": round(rng.uniform(0.3, 0.8), 2)}
        for at, (a, b) in enumerate(pairs)
    ]  # fmt: skip
    for part in doc["parts"]:
        part["place"] = f"p{rng.randrange(places)}"
    for run in doc["runs"]:
        run["way"] = {}
    return parse_plan(doc)
