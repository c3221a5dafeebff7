"""Who feeds whom: the plan's parts and runs as a graph from its batteries outward. No figures here."""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass

from lucernis.plan.model import Battery, FuseBlock, Load, Plan, Run


@dataclass(frozen=True, slots=True)
class Topology:
    """The feeding tree of a plan.

    `order` lists tree runs from the battery outward. `feeder_of` maps a part to the run that feeds it, `start_of` a
    run to the part it is fed from (which need not be the run's own start), `loads_behind` a run to the loads fed
    through it, `parts` an id to its part. Runs in `closing` join two parts that are both fed already; runs in `dead`
    hang on no battery.
    """

    order: tuple[str, ...]
    feeder_of: dict[str, str]
    start_of: dict[str, str]
    finish_of: dict[str, str]
    fed_runs: dict[str, tuple[str, ...]]
    loads_behind: dict[str, tuple[str, ...]]
    closing: tuple[str, ...]
    dead: tuple[str, ...]
    runs: dict[str, Run]
    parts: dict[str, Battery | FuseBlock | Load]
    load_ids: frozenset[str]


def trace(plan: Plan) -> Topology:
    """Follow the wires from every battery outward, nearest first.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.

    Returns
    -------
    Topology
        The tree, and what does not belong to it.
    """
    touching: dict[str, list[Run]] = {part.id: [] for part in plan.parts}
    for run in plan.runs:
        touching[run.start.part].append(run)
        touching[run.finish.part].append(run)
    roots = [part.id for part in plan.parts if part.kind == "battery"]
    feeder_of: dict[str, str] = {}
    start_of: dict[str, str] = {}
    finish_of: dict[str, str] = {}
    fed_runs: dict[str, list[str]] = {part.id: [] for part in plan.parts}
    order: list[str] = []
    reached = set(roots)
    queue = deque(roots)
    used: set[str] = set()
    closing: list[str] = []
    while queue:
        here = queue.popleft()
        for run in touching[here]:
            if run.id in used:
                continue
            used.add(run.id)
            there = run.finish.part if run.start.part == here else run.start.part
            if there in reached:
                closing.append(run.id)
                start_of[run.id], finish_of[run.id] = run.start.part, run.finish.part
                continue
            reached.add(there)
            order.append(run.id)
            feeder_of[there] = run.id
            start_of[run.id], finish_of[run.id] = here, there
            fed_runs[here].append(run.id)
            queue.append(there)
    loads = {part.id for part in plan.parts if isinstance(part, Load)}
    behind: dict[str, tuple[str, ...]] = dict.fromkeys(closing, ())
    for run_id in reversed(order):
        end = finish_of[run_id]
        own = (end,) if end in loads else ()
        behind[run_id] = own + tuple(load for next_run in fed_runs[end] for load in behind[next_run])
    return Topology(
        order=tuple(order),
        feeder_of=feeder_of,
        start_of=start_of,
        finish_of=finish_of,
        fed_runs={part: tuple(runs) for part, runs in fed_runs.items()},
        loads_behind=behind,
        closing=tuple(closing),
        dead=tuple(run.id for run in plan.runs if run.id not in used),
        runs={run.id: run for run in plan.runs},
        parts={part.id: part for part in plan.parts},
        load_ids=frozenset(loads),
    )


def path_runs(topology: Topology, part_id: str) -> tuple[str, ...]:
    """Tree runs from the battery to a part, battery first; empty for a battery or a part nothing feeds."""
    path: list[str] = []
    here = part_id
    while here in topology.feeder_of:
        run_id = topology.feeder_of[here]
        path.append(run_id)
        here = topology.start_of[run_id]
    return tuple(reversed(path))
