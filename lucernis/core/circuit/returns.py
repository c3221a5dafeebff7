"""How current gets back: negatives, shunts and the body, as a graph from the batteries' negatives outward."""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass

from lucernis.core.circuit.terminals import CHASSIS, back_point, has_negative, negative_point, point, terminal_of
from lucernis.core.circuit.topology import Topology
from lucernis.plan.model import Battery, Panel, Part, Plan


@dataclass(frozen=True, slots=True)
class Returns:
    """The way back of a plan.

    `through` maps a negative-only run to the consumers whose current returns through it, `leader_of` to the
    positive-only run it belongs to: that which feeds all of them and the fewest others. `lost` are consumers without
    any way back, `by_chassis` those whose current goes through the body.
    """

    through: dict[str, tuple[str, ...]]
    leader_of: dict[str, str]
    lost: tuple[str, ...]
    by_chassis: tuple[str, ...]


def negative_edges(plan: Plan) -> list[tuple[str, str, str]]:
    """What joins negative points: run or part id, and the two points."""
    parts = {part.id: part for part in plan.parts}
    edges = [
        (
            run.id,
            negative_point(parts[run.start.part], run.start, "start"),
            negative_point(parts[run.finish.part], run.finish, "finish"),
        )
        for run in plan.runs
        if has_negative(run)
    ]
    for part in plan.parts:
        if part.kind == "shunt" or (part.kind == "switch" and part.form == "reversing"):
            edges.append((part.id, part.id, point(part.id, "out")))
        elif part.kind == "chassis_point":
            edges.append((part.id, part.id, CHASSIS))
    return edges


def trace_returns(plan: Plan, topology: Topology) -> Returns:
    """Follow the negatives from every battery outward.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.
    topology : Topology
        Its feeding tree.

    Returns
    -------
    Returns
        Empty where every run has both legs: then the way back is the way out.
    """
    single = any(run.legs != "both" for run in plan.runs)
    if not single and not any(part.kind == "chassis_point" for part in plan.parts):
        return Returns({}, {}, (), ())
    touching: dict[str, list[tuple[str, str]]] = {}
    for name, one, other in negative_edges(plan):
        touching.setdefault(one, []).append((name, other))
        touching.setdefault(other, []).append((name, one))
    through: dict[str, list[str]] = {run_id: [] for run_id in topology.returns}
    lost, by_chassis = [], []
    ways: dict[str, dict[str, tuple[str, str]]] = {}
    for consumer in topology.consumers:
        here = back_point(topology.part_at(consumer), terminal_of(consumer))
        group = _group(topology, consumer)
        if group not in ways:
            ways[group] = _ways_back(touching, [part.id for part in plan.parts if _group_of(part) == group])
        came_by = ways[group]
        if here not in came_by and _group_of(topology.parts.get(here)) != group:
            if consumer in topology.feeder_of:
                lost.append(consumer)
            continue
        while here in came_by:
            name, here = came_by[here]
            if name in through:
                through[name].append(consumer)
            if here == CHASSIS:
                by_chassis.append(consumer)
    return Returns(
        through={run_id: tuple(some) for run_id, some in through.items()},
        leader_of=_leaders(topology, through),
        lost=tuple(lost),
        by_chassis=tuple(by_chassis),
    )


def _group_of(part: Part | None) -> str | None:
    """Sources whose current comes home to any of them: the house bank, the starter batteries, a panel by itself."""
    if isinstance(part, Battery):
        return part.use
    return part.id if isinstance(part, Panel) else None


def _group(topology: Topology, consumer: str) -> str:
    return _group_of(topology.parts.get(topology.root_of.get(consumer, ""))) or "house"


def _ways_back(touching: dict[str, list[tuple[str, str]]], roots: list[str]) -> dict[str, tuple[str, str]]:
    """For every negative point by what and to where its current goes home."""
    came_by: dict[str, tuple[str, str]] = {}
    reached, queue = set(roots), deque(roots)
    while queue:
        here = queue.popleft()
        # Wires before the body: a copper return is meant where there is one.
        for name, there in sorted(touching.get(here, ()), key=lambda one: CHASSIS in (here, one[1])):
            if there not in reached:
                reached.add(there)
                came_by[there] = (name, here)
                queue.append(there)
    return came_by


def _leaders(topology: Topology, through: dict[str, list[str]]) -> dict[str, str]:
    alone = [run_id for run_id in topology.order if topology.runs[run_id].legs == "positive"]
    feeds = {run_id: set(topology.behind[run_id]) for run_id in alone}
    found = {}
    for run_id, some in through.items():
        # Deepest last in `order`: of those that feed just as many the first is nearest to the battery.
        fitting = [one for one in alone if some and feeds[one].issuperset(some)]
        best = min(fitting, key=lambda one: len(feeds[one]), default=None)
        if best is not None:
            found[run_id] = best
    return found
