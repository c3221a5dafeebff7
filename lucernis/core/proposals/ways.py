"""Where a vehicle has been measured: new runs along its channels, and a spare where a wall is about to be closed."""

from __future__ import annotations

from lucernis.core.layout.channels import measured_channels
from lucernis.core.layout.routes import Roads
from lucernis.core.proposals.spine import Builder, Outcome
from lucernis.core.proposals.wishes import Wishes
from lucernis.plan.document import parse_plan
from lucernis.plan.edits import apply_edits
from lucernis.plan.edits.operations import FollowChannels
from lucernis.plan.model import Battery, Busbar, FuseBlock, Joint, Load, Plan
from lucernis.plan.units import told_length

# A spare is made for a lamp, a pump or a pair of sockets; nobody pulls more than so many. Common
# practice, no source.
_SPARE_A = 10.0
_MOST_SPARES = 4


def _roads(plan: Plan) -> Roads:
    return Roads([place.id for place in plan.places], measured_channels(plan))


def follow_ways(plan: Plan, wishes: Wishes) -> Outcome | None:
    """Runs whose length is guessed follow the channels, where channels join their ends."""
    if not plan.channels:
        return None
    roads, at = _roads(plan), {part.id: part.place for part in plan.parts}
    runs = []
    for run in plan.runs:
        here, there = at[run.start.part], at[run.finish.part]
        free = run.way is None and run.length_guessed and here is not None and there is not None and here != there
        if free and here is not None and there is not None and roads.shortest(here, there):
            runs.append(run)
    if not runs:
        return None
    changed = apply_edits(plan, [FollowChannels(op="follow_channels", runs=[run.id for run in runs])])
    tags = ", ".join(run.tag for run in runs)
    return changed, f"The vehicle is measured: {tags} follow its channels, with their length, heat and neighbours."


def _free_way(plan: Plan, block_id: str) -> int | None:
    """The last way of a block nothing is on: the first ones are for what comes next."""
    block = next(part for part in plan.parts if isinstance(part, FuseBlock) and part.id == block_id)
    taken = {run.start.way for run in plan.runs if run.start.part == block_id}
    return next((way for way in range(block.ways, 0, -1) if way not in taken), None)


def put_spares(plan: Plan, wishes: Wishes) -> Outcome | None:
    """A capped pair to places with loads or behind a panel that only a closed wall leads to, and that have no block,
    bar or battery of their own."""
    closed = {channel.id for channel in plan.channels if channel.closed}
    blocks = [part for part in plan.parts if isinstance(part, FuseBlock) and part.place is not None]
    if not closed or not blocks:
        return None
    roads, names = _roads(plan), {place.id: place.name for place in plan.places}
    at = {part.id: part.place for part in plan.parts}
    held = {part.place for part in plan.parts if isinstance(part, FuseBlock | Busbar | Battery)}
    held |= {part.place for part in plan.parts if isinstance(part, Joint) and part.form == "cap"}
    loads = {part.place for part in plan.parts if isinstance(part, Load)}
    wanted: list[tuple[int, float, str, str, str]] = []
    for place in plan.places:
        if place.id in held or place.reach == "closed" or (place.id not in loads and place.reach != "panel"):
            continue
        ways = [(block.id, roads.shortest(block.place, place.id)) for block in blocks if block.place is not None]
        found = [(roads.metres(way), block, way) for block, way in ways if way]
        if not found:
            continue
        metres, block, way = min(found)
        if closed & set(way):
            # Where something stands already something is added first.
            wanted.append((place.id not in loads, metres, place.id, block, at[block] or ""))
    build, said = Builder(plan), list[str]()
    for _, metres, goal, block, source in sorted(wanted):
        free = _free_way(parse_plan(build.doc), block)
        if free is None or len(said) == _MOST_SPARES:
            continue
        cap = build.part("j", "J", {"kind": "joint", "form": "cap", "name": f"Spare at {names[goal]}", "place": goal})
        run = build.run(
            block, cap, max(0.5, round(metres, 2)), planned_a=_SPARE_A, way={}, name=f"Spare to {names[goal]}"
        )
        run["start"]["way"] = free
        said.append(f"{names[goal]} ({told_length(metres, plan.units)} from {names[source]})")
    if not said:
        return None
    return parse_plan(build.doc), (
        f"Behind a wall that gets closed one pair more costs metres now and a day later: a labelled, capped spare for "
        f"{_SPARE_A:g} A to " + ", ".join(said) + ". It gets its fuse with what is hung on it."
    )
