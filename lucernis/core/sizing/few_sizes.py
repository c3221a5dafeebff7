"""Few sizes: which wire sizes a van carries, once every run knows what it must at least be."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import accumulate

import numpy as np
from numpy.typing import NDArray

from lucernis.core.sizing.options import Case
from lucernis.core.wire.copper import WireSize

# What is thicker is battery cable, cut off a reel in the shop: 16 mm², 6 AWG. Common practice, no source.
MOST_ON_A_SPOOL_MM2 = 16.5
# So many sizes thinner one may be that takes another's place.
_STEPS = 3


@dataclass(frozen=True, slots=True)
class Spools:
    """What each size costs besides the copper that is laid, and the sizes that are there anyway because of pins.

    Sizes rise; `worth_mm2_m` is the copper one would rather waste than carry that size. [mm²·m]
    """

    sizes: tuple[WireSize, ...]
    worth_mm2_m: tuple[float, ...]
    there: frozenset[str]

    def cost_mm2_m(self, labels: Sequence[str] | frozenset[str]) -> float:
        """What carrying these sizes costs. [mm²·m]"""
        used = set(labels) - self.there
        return sum(worth for size, worth in zip(self.sizes, self.worth_mm2_m, strict=True) if size.label in used)


def spools(
    shelf: Sequence[WireSize], cases: Mapping[str, Case], worth_m: float, *, cable_worth_m: float | None = None
) -> Spools:
    """What carrying each size of a shelf costs.

    Parameters
    ----------
    shelf : sequence of WireSize
        Sizes on the shelf.
    cases : Mapping
        Every run; those pinned have their sizes on the van anyway.
    worth_m : float
        Metres of the next thicker wire one would rather waste than carry another size. [m]
    cable_worth_m : float, optional
        The same for battery cable; as for wire where absent. [m]

    Returns
    -------
    Spools
        Each size costs that much of the next thicker one; the thickest as if the step to the next were the last one.
    """
    rising = sorted(shelf, key=lambda one: one.area_mm2)
    areas = [one.area_mm2 for one in rising]
    beyond = areas[-1] * (areas[-1] / areas[-2] if len(areas) > 1 else 1.25)
    there = frozenset(case.options[0].size.label for case in cases.values() if case.pinned)
    each_m = [worth_m if area <= MOST_ON_A_SPOOL_MM2 or cable_worth_m is None else cable_worth_m for area in areas]
    worth = [metres * one for metres, one in zip(each_m, (*areas[1:], beyond), strict=True)]
    # Carrying a thicker size never costs less: else a wire would be made a cable for the sake of a spool.
    return Spools(tuple(rising), tuple(accumulate(worth, max)), there)


def fewer_sizes(cases: Mapping[str, Case], now: Mapping[str, int], shelf: Spools, *, jump_most: int) -> dict[str, int]:
    """The sizes worth carrying, each run taking the next one up.

    Parameters
    ----------
    cases : Mapping
        The runs whose size is open.
    now : Mapping
        Index of the size each must at least have.
    shelf : Spools
        What each size costs.
    jump_most : int
        So many sizes above what it needs a run may go.

    Returns
    -------
    dict
        Run id to index, never below `now`.

    Notes
    -----
    Sizes are in a row and each run takes the next one that is carried, so the best set is found from the thin end
    on: the cheapest way to serve all runs up to a size, with that size carried, over all last sizes before it.
    """
    at_size = {size.label: index for index, size in enumerate(shelf.sizes)}
    count = len(shelf.sizes)
    cost = np.zeros((count, count))
    runs: list[tuple[str, int, dict[int, int]]] = []
    for run_id, least in now.items():
        case = cases[run_id]
        made = {at_size[one.size.label]: k for k, one in enumerate(case.options) if one.size.label in at_size}
        first = at_size.get(case.options[least].size.label)
        if first is None:
            continue
        runs.append((run_id, first, made))
        row = np.full(count, np.inf)
        for size, k in made.items():
            if least <= k <= least + jump_most:
                row[size] = case.copper[k]
        cost[first] += row
    if not runs:
        return dict(now)
    worth = [0.0 if one.label in shelf.there else w for one, w in zip(shelf.sizes, shelf.worth_mm2_m, strict=True)]
    # best[j]: everything up to size j served, j carried; before the first size nothing is.
    best = np.full(count + 1, np.inf)
    best[0] = 0.0
    came = np.zeros(count + 1, dtype=np.int64)
    for j in range(count):
        served = np.cumsum(cost[: j + 1, j][::-1])[::-1]
        whole = best[: j + 1] + served + worth[j]
        came[j + 1] = int(np.argmin(whole))
        best[j + 1] = whole[came[j + 1]]
    most = max(first for _, first, _ in runs)
    ends = [j for j in range(most, count) if np.isfinite(best[j + 1])]
    if not ends:
        return dict(now)
    at, carried = min(ends, key=lambda j: best[j + 1]) + 1, []
    while at > 0:
        carried.append(at - 1)
        at = int(came[at])
    carried.reverse()
    found = dict(now)
    for run_id, first, made in runs:
        most = now[run_id] + jump_most
        fitting = (made[size] for size in carried if size >= first and size in made)
        found[run_id] = next((k for k in fitting if k <= most), now[run_id])
    return found


def _bound(cost: NDArray[np.float64], worth: NDArray[np.float64], chosen: NDArray[np.bool_]) -> NDArray[np.float64]:
    """Least cost of sets of sizes, each run at the thinnest it may have. [mm²·m]"""
    least = np.where(chosen[:, None, :], cost[None, :, :], np.inf).min(axis=2)
    found: NDArray[np.float64] = least.sum(axis=1) + chosen @ worth
    return found


def _costs(cases: Mapping[str, Case], shelf: Spools) -> tuple[list[str], NDArray[np.float64], NDArray[np.float64]]:
    """Sizes any run may have, thinnest first; copper of each run in each of them; what carrying each costs. [mm²·m]"""
    area = {one.size.label: one.size.area_mm2 for case in cases.values() for one in case.options}
    labels = sorted(area, key=lambda one: area[one])
    at = {label: k for k, label in enumerate(labels)}
    cost = np.full((len(cases), len(labels)), np.inf)
    for row, case in enumerate(cases.values()):
        cost[row, [at[one.size.label] for one in case.options]] = case.copper
    of = {
        size.label: 0.0 if size.label in shelf.there else worth
        for size, worth in zip(shelf.sizes, shelf.worth_mm2_m, strict=True)
    }
    return labels, cost, np.array([of.get(one, 0.0) for one in labels])


def sets_near(cases: Mapping[str, Case], shelf: Spools, carried: frozenset[str]) -> list[tuple[float, frozenset[str]]]:
    """A set of sizes, those in which one of them is exchanged for a thinner one, and those with one more, with the
    least each could cost, cheapest first."""
    labels, cost, worth = _costs(cases, shelf)
    own = np.array([one in carried for one in labels], dtype=bool)
    sets = [own]
    for k, label in enumerate(labels):
        for thinner in range(max(0, k - _STEPS), k):
            if own[k] and not own[thinner] and label not in shelf.there:
                other = own.copy()
                other[k], other[thinner] = False, True
                sets.append(other)
        if not own[k]:
            other = own.copy()
            other[k] = True
            sets.append(other)
    chosen = np.array(sets)
    bound = _bound(cost, worth, chosen)
    return [
        (float(bound[at]), frozenset(np.array(labels)[chosen[at]].tolist()))
        for at in np.argsort(bound, kind="stable").tolist()
        if np.isfinite(bound[at])
    ]


def sets_by_bound(cases: Mapping[str, Case], shelf: Spools) -> list[tuple[float, frozenset[str]]]:
    """Every set of sizes that could be carried, with the least it could cost, cheapest first.

    Parameters
    ----------
    cases : Mapping
        The runs whose size is open; few of them.
    shelf : Spools
        What each size costs.

    Returns
    -------
    list of (float, frozenset of str)
        Each run at the thinnest of its sizes in the set: no choice with it costs less. [mm²·m]
    """
    labels, cost, worth = _costs(cases, shelf)
    chosen = (np.arange(1, 2 ** len(labels))[:, None] >> np.arange(len(labels))) & 1 == 1
    bound = _bound(cost, worth, chosen)
    order = np.argsort(bound, kind="stable")
    return [
        (float(bound[at]), frozenset(np.array(labels)[chosen[at]].tolist()))
        for at in order.tolist()
        if np.isfinite(bound[at])
    ]
