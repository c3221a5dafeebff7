"""Cheapest copper: one size for every run of a feeding tree so that every device keeps its drop limit.

The currents are given; `sizing.py` finds them together with the sizes.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from lucernis.core.circuit.topology import Topology
from lucernis.core.sizing.options import Case

# More break points than this in one frontier are thinned, each rounded to the careful side.
MOST_POINTS = 600


@dataclass(frozen=True, slots=True)
class _Frontier:
    """What a subtree costs by how many volts may be lost before it.

    `spare_v` rises and so does `copper`: the more may be lost before it, the more copper it takes behind. `option` and
    `rest_v` tell, for each point, the size of the run and the spare volts its far end must then still have.
    """

    spare_v: NDArray[np.float64]
    copper: NDArray[np.float64]
    option: NDArray[np.int64]
    rest_v: NDArray[np.float64]


def _prune(spare_v: NDArray[np.float64], copper: NDArray[np.float64]) -> NDArray[np.int64]:
    """Indices of the points no other beats, spare volts rising."""
    order = np.lexsort((copper, -spare_v))
    # Going from most spare to least, a point stays only if it is cheaper than all with more to spare.
    cheapest = np.minimum.accumulate(copper[order])
    stays = np.ones(len(order), dtype=bool)
    stays[1:] = copper[order][1:] < cheapest[:-1] - 1e-9
    return order[stays][::-1].astype(np.int64)


def _thin(frontier: _Frontier) -> _Frontier:
    if len(frontier.spare_v) <= MOST_POINTS:
        return frontier
    # Every kept point stands for the ones skipped before it, which spare less and cost less: careful, never unsafe.
    kept = np.unique(np.linspace(0, len(frontier.spare_v) - 1, MOST_POINTS).round().astype(np.int64))
    return _Frontier(frontier.spare_v[kept], frontier.copper[kept], frontier.option[kept], frontier.rest_v[kept])


def _join(frontiers: list[_Frontier], limit_v: float) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Spare volts a part may ask for, and the copper of everything fed from it, added up."""
    limits = [frontier.spare_v for frontier in frontiers] + [np.array([limit_v])]
    points = np.unique(np.concatenate(limits))
    most = min([limit_v] + [float(frontier.spare_v[-1]) for frontier in frontiers])
    points = points[points <= most]
    copper = np.zeros(len(points))
    for frontier in frontiers:
        copper += frontier.copper[np.searchsorted(frontier.spare_v, points, side="left")]
    return points, copper


def cheapest_options(
    topology: Topology,
    cases: dict[str, Case],
    current_a: dict[str, float],
    limit_v: dict[str, float],
    roots: tuple[str, ...],
    fixed: Mapping[str, int] | None = None,
) -> dict[str, int]:
    """Index of the chosen option of every tree run.

    Parameters
    ----------
    topology : Topology
        The feeding tree.
    cases : dict
        Options of every run.
    current_a : dict
        Current of every tree run. [A]
    limit_v : dict
        Part id to the volts it may be short of the battery; absent means no limit. A limit that the thickest
        options cannot keep must be left out before. [V]
    roots : tuple of str
        The batteries.
    fixed : Mapping, optional
        Runs whose option is decided already.

    Returns
    -------
    dict
        Run id to index into its case's options.

    Notes
    -----
    Drop along a path adds up once currents are fixed, so the cheapest choice of a subtree depends only on the volts
    already lost before it. Each subtree's cost is kept as the staircase over those volts; staircases of neighbours
    add, a run shifts each by ``I · R`` of each of its sizes, and what another point beats is dropped. At the battery
    nothing is lost yet; the choices are read back from there. Equal copper is settled for the lower drop.
    """
    frontier_of: dict[str, _Frontier] = {}

    def joined(part: str) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        return _join([frontier_of[run] for run in topology.fed_runs[part]], limit_v.get(part, np.inf))

    for run_id in reversed(topology.order):
        case, finish = cases[run_id], topology.finish_of[run_id]
        lost_v, copper_of = current_a[run_id] * case.counted_ohm, case.copper
        if fixed is not None and run_id in fixed:
            only = fixed[run_id]
            points, copper = joined(finish)
            frontier_of[run_id] = _Frontier(
                points - lost_v[only], copper + copper_of[only], np.full(len(points), only), points
            )
            continue
        if not topology.fed_runs[finish] and case.in_order and current_a[run_id] > 0:
            # The end of a branch: its sizes are the staircase, thinnest first.
            limit = limit_v.get(finish, np.inf)
            if limit < np.inf:
                spare, every = limit - lost_v, np.arange(len(lost_v))
                frontier_of[run_id] = _Frontier(spare, case.copper, every, np.full(len(lost_v), limit))
                continue
        points, copper = joined(finish)
        spare = (points[None, :] - lost_v[:, None]).ravel()
        total = (copper[None, :] + case.copper[:, None]).ravel()
        kept = _prune(spare, total)
        option, point = np.divmod(kept, len(points))
        frontier_of[run_id] = _thin(_Frontier(spare[kept], total[kept], option, points[point]))
    chosen: dict[str, int] = {}
    ask_v: dict[str, float] = {}
    for root in roots:
        ask_v[root] = 0.0
    for run_id in topology.order:
        frontier = frontier_of[run_id]
        # Rounding may leave the wanted point a hair above the last one.
        at = min(
            int(np.searchsorted(frontier.spare_v, ask_v[topology.start_of[run_id]] - 1e-12)), len(frontier.spare_v) - 1
        )
        chosen[run_id] = int(frontier.option[at])
        ask_v[topology.finish_of[run_id]] = float(frontier.rest_v[at])
    return chosen
