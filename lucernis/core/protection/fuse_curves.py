"""When a fuse opens and what it can break: bands of opening time between published points, breaking capacity."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cache, lru_cache

import numpy as np
from numpy.typing import NDArray

from lucernis.core.protection.fuses import family
from lucernis.practice.rules import FuseFamily
from lucernis.practice.tables import TableRow, load_table

Floats = NDArray[np.float64]
# Keys go by figures that anybody may type, so that no cache of them may grow for ever.
_MOST_KNOWN = 4096


@dataclass(frozen=True, slots=True)
class Edge:
    """One edge of a family's band: multiples of rating, rising, and the time at each [s]; and their logarithms."""

    multiple: Floats
    time_s: Floats
    log_multiple: Floats
    log_time: Floats


def _edge(points: list[tuple[float, float]]) -> Edge:
    multiple, time_s = np.array([one for one, _ in points]), np.array([one for _, one in points])
    return Edge(multiple, time_s, np.log(multiple), np.log(time_s))


@dataclass(frozen=True, slots=True)
class Band:
    """Opening-time band of a family.

    `fast` is the least time, `slow` the greatest; `holds_multiple` the highest multiple at which it need not open at
    all; `cells` the first and last row.
    """

    fast: Edge
    slow: Edge
    holds_multiple: float
    magnetic: bool
    cells: tuple[TableRow, ...]

    @property
    def first_multiple(self) -> float:
        """Below it nothing is published but that it holds."""
        return float(min(self.fast.multiple[0], self.slow.multiple[0]))


@cache
def band(name: FuseFamily) -> Band:
    """The published points of a family.

    Raises
    ------
    UnknownRow
        If there is no such family.
    """
    family(name)
    table = load_table("fuse_times")
    rows = [row for row in table.rows if row["family"] == name]
    fast = [(float(row["multiple"]), float(row["min_s"])) for row in rows if row["min_s"]]
    slow = [(float(row["multiple"]), float(row["max_s"])) for row in rows if row["max_s"] not in ("", "inf")]
    holds = max(float(row["multiple"]) for row in rows if row["max_s"] == "inf")
    return Band(
        fast=_edge(fast),
        slow=_edge(slow),
        holds_multiple=holds,
        magnetic=name == "breaker_magnetic",
        cells=(table.cite(rows[0], "max_s"), table.cite(rows[-1], "max_s")),
    )


def _between(edge: Edge, multiple: Floats) -> Floats:
    """Log-log between the points, NaN outside them."""
    log_m = np.log(np.maximum(multiple, 1e-12))
    out: Floats = np.exp(np.interp(log_m, edge.log_multiple, edge.log_time))
    out[(multiple < edge.multiple[0] * (1 - 1e-9)) | (multiple > edge.multiple[-1] * (1 + 1e-9))] = np.nan
    return out


def opening_times_s(name: FuseFamily, multiple: Floats) -> tuple[Floats, Floats]:
    """Least and greatest time in which a fuse opens.

    Parameters
    ----------
    name : str
        Family.
    multiple : ndarray
        Current as a multiple of the rating. [1]

    Returns
    -------
    tuple of ndarray
        Fast and slow edge. [s] NaN where nothing is published; the slow edge is infinite at and below the multiple up
        to which the fuse need not open, and beyond the last point it is the time of that point, which it does not
        exceed. The fast edge beyond its last point is NaN: nothing is invented.

    Notes
    -----
    Log-log interpolation of each edge by itself. Between the multiple up to which it need not open and the first
    point of the slow edge nothing is stated: the slow edge is infinite there, which is careful.

    Examples
    --------
    >>> fast, slow = opening_times_s("blade_regular", np.array([2.0, 1.0]))
    >>> float(fast[0]), float(slow[0]), float(slow[1])
    (0.15, 5.0, inf)

    References
    ----------
    .. [1] fuse_times.csv names the standards; from memory.
    """
    return _times(band(name), multiple)


def _times(made: Band, multiple: Floats) -> tuple[Floats, Floats]:
    fast, slow = _between(made.fast, multiple), _between(made.slow, multiple)
    slow[multiple < made.slow.multiple[0] * (1 - 1e-9)] = np.inf
    slow[multiple > made.slow.multiple[-1]] = made.slow.time_s[-1]
    return fast, slow


def let_through_a2s(name: FuseFamily, rating_a: Floats | float, current_a: Floats) -> Floats:
    """Greatest heat a fuse lets through while it opens, as current squared times time.

    Parameters
    ----------
    name : str
        Family.
    rating_a : ndarray or float
        Rated current, > 0. [A]
    current_a : ndarray
        Fault current. [A]

    Returns
    -------
    ndarray
        By the slow edge. [A²s] Infinite where it need not open.

    Notes
    -----
    ``I² · t_slow`` between the points. Beyond the last point of a fuse or a thermal breaker the heat of that point is
    the most there can be: an element that melts without losing heat needs the same I²t whatever the current. A
    magnetic breaker opens in a time of its own, so there the time of the last point is kept.
    """
    made = band(name)
    _, slow = _times(made, current_a / rating_a)
    return _let_through(made, rating_a, current_a, slow)


def _let_through(made: Band, rating_a: Floats | float, current_a: Floats, slow: Floats) -> Floats:
    heat: Floats = np.where(np.isfinite(slow), current_a**2 * np.where(np.isfinite(slow), slow, 0.0), np.inf)
    if not made.magnetic:
        last = (made.slow.multiple[-1] * rating_a) ** 2 * made.slow.time_s[-1]
        heat = np.where(current_a > made.slow.multiple[-1] * rating_a, np.minimum(heat, last), heat)
    return heat


def least_heat_a2s(name: FuseFamily, rating_a: Floats | float, current_a: Floats) -> Floats:
    """Least heat that opens a fuse, as current squared times time: below it, it stays whole.

    Parameters
    ----------
    name : str
        Family.
    rating_a : ndarray or float
        Rated current, > 0. [A]
    current_a : ndarray
        Fault current. [A]

    Returns
    -------
    ndarray
        By the quick edge. [A²s] Infinite where nothing opens it, NaN where nothing is known.

    Notes
    -----
    ``I² · t_fast`` between the points; beyond the last one the heat of that point, because what melts without losing
    heat needs the same I²t whatever the current. A magnetic breaker opens in a time of its own: nothing is known there.
    """
    made = band(name)
    fast, _ = _times(made, current_a / rating_a)
    return _least_heat(made, rating_a, current_a, fast)


@dataclass(frozen=True, slots=True)
class Opening:
    """Fuses of one family at their currents, shapes (n,): both edges [s], heat let through at most and least heat that
    opens [A²s]; see `opening_times_s`, `let_through_a2s`, `least_heat_a2s`."""

    fast_s: Floats
    slow_s: Floats
    heat_a2s: Floats
    least_a2s: Floats


def opening(name: FuseFamily, rating_a: Floats, current_a: Floats) -> Opening:
    """All that is known of fuses of a family at currents, looked up once.

    Parameters
    ----------
    name : str
        Family.
    rating_a : ndarray, shape (n,)
        Rated currents, > 0. [A]
    current_a : ndarray, shape (n,)
        Fault currents. [A]

    Returns
    -------
    Opening
        As the three functions above tell it.
    """
    made = band(name)
    fast, slow = _times(made, current_a / rating_a)
    heat, least = _let_through(made, rating_a, current_a, slow), _least_heat(made, rating_a, current_a, fast)
    return Opening(fast, slow, heat, least)


def _least_heat(made: Band, rating_a: Floats | float, current_a: Floats, fast: Floats) -> Floats:
    heat: Floats = current_a**2 * fast
    heat = np.where(current_a < made.fast.multiple[0] * rating_a, np.inf, heat)
    if not made.magnetic:
        last = (made.fast.multiple[-1] * rating_a) ** 2 * made.fast.time_s[-1]
        heat = np.where(current_a > made.fast.multiple[-1] * rating_a, last, heat)
    return heat


def greatest_multiple_for(name: FuseFamily, time_s: float) -> float:
    """Highest multiple of its rating a fuse may let pass for a time.

    Parameters
    ----------
    name : str
        Family.
    time_s : float
        How long, > 0. [s]

    Returns
    -------
    float
        By the slow edge, within its points. [1]
    """
    edge = band(name).slow
    # Times fall as multiples rise, so both are turned round for the interpolation.
    return math.exp(float(np.interp(math.log(time_s), np.log(edge.time_s[::-1]), np.log(edge.multiple[::-1]))))


@dataclass(frozen=True, slots=True)
class Breaking:
    """Breaking capacity at a voltage: None where nothing is known above the highest voltage listed."""

    breaking_a: float | None
    cell: TableRow | None


@lru_cache(maxsize=_MOST_KNOWN)
def breaking_capacity(name: FuseFamily, system_v: float) -> Breaking:
    """Greatest current a family can break.

    Parameters
    ----------
    name : str
        Family.
    system_v : float
        Highest voltage of the system. [V]

    Returns
    -------
    Breaking
        The row of the next higher voltage; nothing above the highest one.

    References
    ----------
    .. [1] breaking_capacity.csv, from memory; a maker's sheet wins.
    """
    table = load_table("breaking_capacity")
    fitting = sorted(
        (row for row in table.rows if row["family"] == name and float(row["max_v"]) >= system_v),
        key=lambda row: float(row["max_v"]),
    )
    if not fitting:
        return Breaking(None, None)
    return Breaking(float(fitting[0]["breaking_a"]), table.cite(fitting[0], "breaking_a"))
