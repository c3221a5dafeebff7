"""What a proposal begins with: a battery, and every load of the list on a circuit."""

from __future__ import annotations

from lucernis.core.circuit.batteries import house_batteries
from lucernis.core.circuit.topology import trace
from lucernis.core.proposals.spine import Builder, Outcome, document_part, ways_for
from lucernis.core.proposals.wishes import Wishes
from lucernis.plan.document import parse_plan
from lucernis.plan.edits import Edit, apply_edits
from lucernis.plan.edits.operations import PutLoad
from lucernis.plan.model import FuseBlock, Load, Plan

# From the battery to the first block. Common practice, no source.
_BLOCK_M = 1.5


def begin(plan: Plan, wishes: Wishes) -> Outcome | None:
    """A battery where there is none, and what nothing feeds on a block."""
    fed = set(trace(plan).finish_of.values())
    unfed = [part.id for part in plan.parts if isinstance(part, Load) and part.id not in fed]
    house = house_batteries(plan)
    if house and not unfed:
        return None
    said = []
    build = Builder(plan)
    if house:
        battery = house[0].id
    else:
        battery = build.part("b", "B", {"kind": "battery", "name": "House battery"})
        said.append("A house battery to begin with; its size comes next")
    block = next((part.id for part in plan.parts if isinstance(part, FuseBlock)), None) if house else None
    if unfed:
        if block is None:
            block = build.part("f", "F", {"kind": "fuse_block", "name": "House block", "place": None})
            build.run(battery, block, _BLOCK_M, fuse_at_start={"distance_m": 0.1})
        held = sum(one["start"]["part"] == block for one in build.doc["runs"])
        part = document_part(build.doc, block)
        part["ways"] = max(part.get("ways", 0), ways_for(held + len(unfed)))
        said.append(f"What nothing feeds yet is put on a block: {len(unfed)} loads")
    changed = parse_plan(build.doc)
    edits: list[Edit] = [PutLoad(op="put_load", part=one, on=block) for one in unfed if block is not None]
    return apply_edits(changed, edits), ". ".join(said) + "."
