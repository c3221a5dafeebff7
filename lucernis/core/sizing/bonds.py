"""The bond to the body: as thick as the largest positive whose short it has to carry."""

from __future__ import annotations

from collections.abc import Mapping

from lucernis.core.circuit.terminals import has_positive
from lucernis.core.circuit.topology import Topology
from lucernis.core.sizing.options import Case
from lucernis.core.sizing.places import is_bond
from lucernis.core.sizing.stretch import Option
from lucernis.plan.model import Plan, Run


def largest_positive(plan: Plan, topology: Topology, chosen: Mapping[str, Option]) -> Run | None:
    """The positive with most copper, conductors side by side counted; spares and what nothing feeds left out. Of sizes
    without pins: a bond has to clear a fuse, and copper that is there anyway asks nothing of it."""
    fed = [
        run
        for run in plan.runs
        if has_positive(run) and run.id in chosen and run.id not in topology.spares and run.id not in topology.dead
    ]
    return max(fed, key=lambda run: chosen[run.id].size.area_mm2 * run.parallel, default=None)


def bonds_like_trunk(
    plan: Plan, topology: Topology, cases: Mapping[str, Case], chosen: Mapping[str, Option]
) -> dict[str, Option]:
    """Options of the unpinned bonds: as the largest positive, as far as one conductor goes.

    Parameters
    ----------
    plan : Plan
        The plan.
    topology : Topology
        Its feeding tree.
    cases : Mapping
        Sizes each run may have.
    chosen : Mapping
        Sizes of the positives.

    Returns
    -------
    dict
        Run id to its option, bonds only.
    """
    largest = largest_positive(plan, topology, chosen)
    if largest is None:
        return {}
    needed_mm2 = chosen[largest.id].size.area_mm2 * largest.parallel
    found = {}
    for run in plan.runs:
        case = cases[run.id]
        if is_bond(topology, run) and not case.pinned:
            wanted = needed_mm2 / run.parallel * 0.999
            found[run.id] = next((one for one in case.options if one.size.area_mm2 >= wanted), case.options[-1])
    return found
