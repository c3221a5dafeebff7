"""How current gets back: negatives, shunts and the body, as a graph from the batteries' negatives outward."""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass

from lucernis.core.circuit.terminals import (
    CHASSIS,
    back_point,
    has_negative,
    negative_point,
    parts_negative,
    point,
    terminal_of,
)
from lucernis.core.circuit.topology import Topology
from lucernis.plan.model import Battery, Panel, Part, Plan


@dataclass(frozen=True, slots=True)
class Returns:
    """The way back of a plan.

    `through` maps a negative-only run to the consumers whose current returns through it; `leader_of` to the
    positive-only run whose loop it closes, the one that feeds just the same consumers; `guard_of` to the run whose
    fuse its current has passed, the nearest to them that feeds them all. `lost` are consumers without any way back,
    `by_chassis` those whose current goes through the body. `came_by` tells, for each group of sources, by which run or
    part and to where the current of a negative point goes home; empty where every run has both legs.
    """

    through: dict[str, tuple[str, ...]]
    leader_of: dict[str, str]
    guard_of: dict[str, str]
    lost: tuple[str, ...]
    by_chassis: tuple[str, ...]
    came_by: dict[str, dict[str, tuple[str, str]]]

    def way_back(self, topology: Topology, name: str) -> tuple[tuple[str, int], ...]:
        """Runs whose negative leg brings current from a point home, nearest first.

        Each with its sign: 1 where the current runs from its start to its finish.
        """
        if not self.came_by:
            found, here = [], name
            while here in topology.feeder_of:
                run_id = topology.feeder_of[here]
                found.append((run_id, -1 if topology.ends_of[run_id][1] == here else 1))
                here = topology.start_of[run_id]
            return tuple(found)
        part = topology.part_at(name)
        return self._home(topology, self.came_by.get(_group(topology, name), {}), back_point(part, terminal_of(name)))

    def way_home(self, topology: Topology, negative: str) -> tuple[tuple[str, int], ...]:
        """The same from a negative point; of the house bank where it can reach it."""
        for group, ways in sorted(self.came_by.items(), key=lambda one: one[0] != "house"):
            if negative in ways:
                return self._home(topology, ways, negative)
            if _group_of(topology.parts.get(negative)) == group:
                return ()
        return ()

    def _home(self, topology: Topology, ways: dict[str, tuple[str, str]], here: str) -> tuple[tuple[str, int], ...]:
        way, seen = [], set[str]()
        while here in ways and here not in seen:
            seen.add(here)
            by, there = ways[here]
            run = topology.runs.get(by)
            if run is not None:
                start = negative_point(topology.parts[run.start.part], run.start, "start")
                way.append((by, 1 if start == here else -1))
            here = there
        return tuple(way)


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
        if parts_negative(part):
            edges.append((part.id, part.id, point(part.id, "out")))
            if part.kind == "switch" and part.form == "three_position":
                edges.append((part.id, part.id, point(part.id, "out_b")))
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
    if not single and not any(part.kind == "chassis_point" or parts_negative(part) for part in plan.parts):
        return Returns({}, {}, {}, (), (), {})
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
    for group in {_group(topology, name) for name in topology.root_of} - ways.keys():
        ways[group] = _ways_back(touching, [part.id for part in plan.parts if _group_of(part) == group])
    return Returns(
        through={run_id: tuple(some) for run_id, some in through.items()},
        leader_of=_leaders(topology, through),
        guard_of=_guards(topology, through),
        lost=tuple(lost),
        by_chassis=tuple(by_chassis),
        came_by=ways,
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
    """The positive a negative is the pair of: it feeds the same consumers, no more and no fewer."""
    alone = [run_id for run_id in topology.order if topology.runs[run_id].legs == "positive"]
    found = {}
    for run_id, some in through.items():
        fitting = [one for one in alone if some and set(topology.behind[one]) == set(some)]
        own = {topology.runs[run_id].start.part, topology.runs[run_id].finish.part}

        def shared(one: str, own: set[str] = own) -> int:
            return len(own & {topology.runs[one].start.part, topology.runs[one].finish.part})

        # Of several in a row the one that runs beside it, else the first from the battery.
        best = max(fitting, key=shared, default=None)
        if best is not None:
            found[run_id] = best
    return found


def _guards(topology: Topology, through: dict[str, list[str]]) -> dict[str, str]:
    feeds = {run_id: frozenset(some) for run_id, some in topology.behind.items()}
    found = {}
    for run_id, some in through.items():
        fitting = [one for one in topology.order if some and feeds[one].issuperset(some)]
        best = min(fitting, key=lambda one: len(feeds[one]), default=None)
        if best is not None:
            # The last of those in a row: its fuse, or the nearest before it, has let the current through.
            same = [one for one in fitting if len(feeds[one]) == len(feeds[best])]
            found[run_id] = same[-1]
    return found
