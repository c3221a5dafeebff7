"""Cheapest copper: one size for every run of a feeding tree so that every device keeps its drop limit.

The currents are given; `sizing.py` finds them together with the sizes.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from lucernis.core.circuit.topology import Topology
from lucernis.core.sizing.lines import fed_by_line
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
    if not frontiers:
        return np.array([limit_v]), np.zeros(1)
    points = np.concatenate([frontier.spare_v for frontier in frontiers] + [np.array([limit_v])])
    points.sort()
    most = min([limit_v] + [float(frontier.spare_v[-1]) for frontier in frontiers])
    points = points[: points.searchsorted(most, side="right")]
    fresh = np.ones(len(points), dtype=bool)
    np.not_equal(points[1:], points[:-1], out=fresh[1:])
    points = points[fresh]
    copper = np.zeros(len(points))
    for frontier in frontiers:
        copper += frontier.copper[frontier.spare_v.searchsorted(points)]
    return points, copper


Left = tuple[tuple[str, int], ...]


@dataclass(slots=True)
class Shape:
    """Which sizes each run may take and what its choice leaves those behind it; neither current nor limit counts here.

    Made once for a set of cases and used for every choice among them. `wanted` is, for each run, the numbers of its
    sizes that what feeds it can leave it; `key` what is left behind a run for each of those and each of its sizes.
    """

    topology: Topology
    cases: Mapping[str, Case]
    roots: tuple[str, ...]
    fixed: Mapping[str, int]
    taper: bool
    choices: dict[str, tuple[int, ...]] = field(default_factory=dict)
    wanted: dict[str, set[int]] = field(default_factory=dict)
    key: dict[tuple[str, int, int], Left] = field(default_factory=dict)
    _area: dict[str, NDArray[np.float64]] = field(default_factory=dict)

    def __post_init__(self) -> None:
        """Follow every choice from the batteries outward."""
        for run_id in self.topology.order:
            case = self.cases[run_id]
            picks = (self.fixed[run_id],) if run_id in self.fixed else tuple(range(len(case.options)))
            self.choices[run_id] = (0,) if case.in_line else picks
            self._area[run_id] = np.array(
                [case.options[at].size.area_mm2 * case.run.parallel for at in self.choices[run_id]]
            )
            self.wanted[run_id] = set()
        if self.taper:
            self._keep_tapering()
        for root in self.roots:
            for run_id in self.topology.fed_runs[root]:
                self.wanted[run_id].add(len(self.choices[run_id]))
        for run_id in self.topology.order:
            children = self.topology.fed_runs[self.topology.finish_of[run_id]]
            for most in sorted(self.wanted[run_id]):
                for at in range(1 if self.cases[run_id].in_line else most):
                    left = tuple(self._left_to(child, run_id, at, most) for child in children)
                    self.key[(run_id, most, at)] = left
                    for child, count in left:
                        self.wanted[child].add(count)

    def _keep_tapering(self) -> None:
        """Leave out sizes thinner than what is settled behind a run, where thicker ones are left."""
        for run_id in reversed(self.topology.order):
            if self.cases[run_id].in_line or len(self.choices[run_id]) == 1:
                continue
            behind = [self._area[one][0] for one in fed_by_line(self.topology, self.cases, run_id)]
            kept = self._area[run_id] >= max(behind, default=0.0) * 0.999
            if kept.any() and not kept.all():
                self.choices[run_id] = tuple(at for at, ok in zip(self.choices[run_id], kept, strict=True) if ok)
                self._area[run_id] = self._area[run_id][kept]

    def _left_to(self, child: str, run_id: str, choice: int, most: int) -> tuple[str, int]:
        """A run behind another and how many of its choices that one's size leaves it."""
        own, behind = self.cases[run_id], self.cases[child]
        if behind.in_line:
            # It has the size of the first of its line: what is behind it goes by that.
            return child, most if own.in_line else choice + 1
        if not self.taper or behind.pinned or child in self.topology.both_fed:
            return child, len(self.choices[child])
        head = own.leader if own.in_line and own.leader is not None else run_id
        areas, at = self._area[head], most - 1 if own.in_line else choice
        # Where a terminal keeps the feeder thinner than it should be, what it feeds is free.
        if areas[-1] < self._area[child][0] * 0.999:
            return child, len(self.choices[child])
        allowed = int(self._area[child].searchsorted(areas[at] * 1.001, side="right"))
        return child, max(1, allowed)


_Joined = dict[Left, tuple[NDArray[np.float64], NDArray[np.float64]]]


def _staircase(
    shape: Shape,
    of: dict[tuple[str, int], _Frontier],
    joined: _Joined,
    run_id: str,
    most: int,
    current_a: float,
    limit_v: float,
    widest: _Frontier | None,
) -> _Frontier:
    """The staircase of one run that may take so many of its sizes. What is behind it stands in `joined` once added up,
    because it is the same however many it may take."""
    case, choices = shape.cases[run_id], shape.choices[run_id]

    def behind(key: Left) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        if key not in joined:
            joined[key] = _join([of[one] for one in key], limit_v)
        return joined[key]

    if case.in_line:
        points, copper = behind(shape.key[(run_id, most, 0)])
        return _Frontier(points, copper, np.zeros(len(points), dtype=np.int64), points)
    lost_v, copper_of = current_a * case.counted_ohm, case.copper
    fed = shape.topology.fed_runs[shape.topology.finish_of[run_id]]
    if not fed and len(choices) > 1 and case.in_order and current_a > 0 and limit_v < np.inf:
        # The end of a branch: its sizes are the staircase, thinnest first; with fewer of them the first of it.
        if widest is not None:
            return _Frontier(widest.spare_v[:most], widest.copper[:most], widest.option[:most], widest.rest_v[:most])
        return _Frontier(limit_v - lost_v[:most], case.copper[:most], np.arange(most), np.full(most, limit_v))
    keys = [shape.key[(run_id, most, at)] for at in range(min(most, len(choices)))]
    if all(key == keys[0] for key in keys):
        # The same is left behind each of them.
        picks = list(choices[: len(keys)])
        points, copper = behind(keys[0])
        spare = (points[None, :] - lost_v[picks][:, None]).ravel()
        total = (copper[None, :] + copper_of[picks][:, None]).ravel()
        if len(picks) == 1:
            return _Frontier(spare, total, np.zeros(len(points), dtype=np.int64), points)
        kept = _prune(spare, total)
        option, point = np.divmod(kept, len(points))
        return _thin(_Frontier(spare[kept], total[kept], option, points[point]))
    found = [behind(key) for key in keys]
    spare = np.concatenate([one[0] - lost_v[choices[at]] for at, one in enumerate(found)])
    total = np.concatenate([one[1] + copper_of[choices[at]] for at, one in enumerate(found)])
    option = np.repeat(np.arange(len(keys)), [len(one[0]) for one in found])
    rest = np.concatenate([one[0] for one in found])
    kept = _prune(spare, total)
    return _thin(_Frontier(spare[kept], total[kept], option[kept], rest[kept]))


def cheapest_options(shape: Shape, current_a: Mapping[str, float], limit_v: Mapping[str, float]) -> dict[str, int]:
    """Index of the chosen option of every tree run.

    Parameters
    ----------
    shape : Shape
        The feeding tree, the options of every run, which are decided already, and whether sizes taper.
    current_a : Mapping
        Current of every tree run. [A]
    limit_v : Mapping
        Point to the volts it may be short of the battery; absent means no limit. A limit that the thickest
        options cannot keep must be left out before. [V]

    Returns
    -------
    dict
        Run id to index into its case's options; of a run in a line whatever, it takes its head's.

    Notes
    -----
    Drop along a path adds up once currents are fixed, so the cheapest choice of a subtree depends only on the volts
    already lost before it and, where sizes taper, on the thickest it may have. Each subtree's cost is kept as the
    staircase over those volts, one for each number of sizes left to it; staircases of neighbours add, a run shifts
    each by ``I · R`` of each of its sizes, and what another point beats is dropped. At the battery nothing is lost
    yet; the choices are read back from there. Equal copper is settled for the lower drop.
    """
    topology, of = shape.topology, dict[tuple[str, int], _Frontier]()
    for run_id in reversed(topology.order):
        limit, joined = limit_v.get(topology.finish_of[run_id], np.inf), _Joined()
        widest: _Frontier | None = None
        for most in sorted(shape.wanted[run_id], reverse=True):
            made = of[(run_id, most)] = _staircase(shape, of, joined, run_id, most, current_a[run_id], limit, widest)
            widest = widest or made
    chosen: dict[str, int] = {}
    ask_v = dict.fromkeys(shape.roots, 0.0)
    left = {run_id: len(shape.choices[run_id]) for root in shape.roots for run_id in topology.fed_runs[root]}
    for run_id in topology.order:
        most = left[run_id]
        frontier = of[(run_id, most)]
        # Rounding may leave the wanted point a hair above the last one.
        at = min(
            int(frontier.spare_v.searchsorted(ask_v[topology.start_of[run_id]] - 1e-12)), len(frontier.spare_v) - 1
        )
        choice = int(frontier.option[at])
        chosen[run_id] = shape.choices[run_id][choice]
        ask_v[topology.finish_of[run_id]] = float(frontier.rest_v[at])
        left.update(shape.key[(run_id, most, choice)])
    return chosen
