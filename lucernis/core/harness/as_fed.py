"""Every run written from the end that feeds it, so that papers do not depend on which end was typed first."""

from __future__ import annotations

from lucernis.core.circuit.terminals import end_terminal
from lucernis.core.circuit.topology import Topology
from lucernis.core.harness.depths import depths
from lucernis.core.sizing.fusing import fed_by_start
from lucernis.plan.model import Part, Plan, Run


def _named(run: Run, parts: dict[str, Part]) -> dict[str, object]:
    """Both ends of a run with the terminal they stand on said, because the usual one goes by the side."""
    start, finish = run.start, run.finish
    if start.way is None:
        start = start.model_copy(update={"terminal": end_terminal(parts[start.part], start, "start")})
    if finish.way is None:
        finish = finish.model_copy(update={"terminal": end_terminal(parts[finish.part], finish, "finish")})
    return {"start": start, "finish": finish}


def turned(run: Run, parts: dict[str, Part]) -> Run:
    """A run written from its other end.

    Parameters
    ----------
    run : Run
        The run.
    parts : dict
        Id to part.

    Returns
    -------
    Run
        Ends, fuses, way and holes exchanged. Not to be checked as a plan again: a block's way may stand at a finish.
    """
    named = _named(run, parts)
    update: dict[str, object] = {
        "start": named["finish"],
        "finish": named["start"],
        "fuse_at_start": run.fuse_at_finish,
        "fuse_at_finish": run.fuse_at_start,
        "passes": tuple(reversed(run.passes)),
    }
    if run.way is not None:
        update["way"] = run.way.model_copy(update={"use": tuple(reversed(run.way.use))})
    return run.model_copy(update=update)


def as_fed(plan: Plan, topology: Topology) -> tuple[Plan, frozenset[str]]:
    """The plan with every run from its fed end.

    Parameters
    ----------
    plan : Plan
        Laid out.
    topology : Topology
        Its own.

    Returns
    -------
    tuple of Plan and frozenset of str
        The plan, its runs from the battery outwards: a charger's output from the bar that the battery feeds, what no
        battery feeds from the end nearer to one. And the runs that were turned for it. The fuse at a start is then
        the one that goes by the run's id, that at a finish the one by its far key.
    """
    parts = {part.id: part for part in plan.parts}
    near = depths(plan)
    runs, changed = [], set[str]()
    for run in plan.runs:
        if run.legs == "series":
            forward = True
        elif run.id in topology.start_of:
            forward = fed_by_start(topology, run)
        else:
            ends = [(near[end.part], end.part, end.terminal or "") for end in (run.start, run.finish)]
            forward = ends[0] <= ends[1]
        if forward:
            runs.append(run.model_copy(update=_named(run, parts)))
        else:
            runs.append(turned(run, parts))
            changed.add(run.id)
    return plan.model_copy(update={"runs": tuple(runs)}), frozenset(changed)
