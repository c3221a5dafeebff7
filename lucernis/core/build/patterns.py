"""Cutting stock by patterns: what one spool is cut into, found one after another from what a piece is worth."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import Bounds, LinearConstraint, linprog, milp

# Rounds of pricing: a van's wires settle in a few dozen. Each pattern is looked for in so many branches, so that a busy
# machine finds the same, and so near the best.
_ROUNDS = 60
_BRANCHES = 200
_PATTERN_GAP = 1e-4


class Stock(NamedTuple):
    """A length that is sold, and its price; `most` is how many there are, None where as many as one likes."""

    length_m: float
    price: float
    most: int | None = None


class Laid(NamedTuple):
    """Spools by their kind with the pieces of each, pieces bought by the metre, the cost, and a bound below it."""

    spools: list[tuple[int, list[float]]]
    by_the_metre: list[float]
    cost: float
    bound: float


def _worth(
    lengths: NDArray[np.float64], most: NDArray[np.float64], prices: NDArray[np.float64], length_m: float
) -> tuple[NDArray[np.float64], float]:
    """The pattern of a spool whose pieces are worth most, a knapsack; and what none is worth more than."""
    found = milp(
        -prices,
        constraints=LinearConstraint(lengths[None, :], -np.inf, length_m + 1e-7),
        bounds=Bounds(np.zeros(len(lengths)), most),
        integrality=np.ones(len(lengths), dtype=np.int64),
        options={"node_limit": _BRANCHES, "mip_rel_gap": _PATTERN_GAP},
    )
    # Without an answer in time: the best price of a metre for all of the spool.
    worth = float(np.max(prices / lengths)) * length_m if found.mip_dual_bound is None else -float(found.mip_dual_bound)
    return (np.zeros(len(lengths)) if found.x is None else np.round(found.x)), worth


def by_patterns(
    pieces_m: Sequence[float], spools: Sequence[Stock], metre_price: float | None, limit_s: float
) -> Laid | None:
    """Lay pieces onto spools by patterns.

    Parameters
    ----------
    pieces_m : sequence of float
        Cut lengths. [m]
    spools : sequence of Stock
        What is sold whole, at least one.
    metre_price : float or None
        Price of a metre cut off.
    limit_s : float
        How long the choice among the patterns may take. [s]

    Returns
    -------
    Laid or None
        None where no whole number of patterns was found in time.

    Notes
    -----
    Column generation (Gilmore and Gomory 1961): the duals of the linear programme price the pieces, a knapsack finds
    the pattern worth most at those prices, until none is worth more than its spool. The bound is Farley's.
    """
    if not pieces_m or not spools:
        return None
    counted = Counter(pieces_m)
    lengths = np.array(sorted(counted, reverse=True))
    wanted = np.array([float(counted[one]) for one in lengths])
    n = len(lengths)
    columns: list[NDArray[np.float64]] = []
    kinds: list[int | None] = []
    costs: list[float] = []
    for j in range(n):
        for k, spool in enumerate(spools):
            if lengths[j] <= spool.length_m + 1e-9:
                column = np.zeros(n)
                column[j] = min(wanted[j], np.floor(spool.length_m / lengths[j] + 1e-9))
                columns.append(column)
                kinds.append(k)
                costs.append(spool.price)
        if metre_price is not None:
            column = np.zeros(n)
            column[j] = 1.0
            columns.append(column)
            kinds.append(None)
            costs.append(metre_price * float(lengths[j]))
    bound = 0.0
    for _ in range(_ROUNDS):
        relaxed = linprog(costs, A_ub=-np.array(columns).T, b_ub=-wanted, method="highs")
        if relaxed.x is None:
            return None
        prices = -relaxed.ineqlin.marginals
        dearest, fresh = 1.0, False
        for k, spool in enumerate(spools):
            most = np.where(lengths <= spool.length_m + 1e-9, wanted, 0.0)
            column, most_worth = _worth(lengths, most, prices, spool.length_m)
            value = float(prices @ column)
            if spool.price > 0:
                dearest = max(dearest, value / spool.price, most_worth / spool.price)
            if value > spool.price + 1e-7:
                columns.append(column)
                kinds.append(k)
                costs.append(spool.price)
                fresh = True
        bound = max(bound, float(relaxed.fun or 0.0) / dearest)
        if not fresh:
            break
    whole = milp(
        np.array(costs),
        constraints=LinearConstraint(np.array(columns).T, wanted, np.inf),
        bounds=Bounds(0, np.inf),
        integrality=np.ones(len(costs), dtype=np.int64),
        options={"time_limit": limit_s},
    )
    if whole.x is None:
        return None
    return _cut(np.round(whole.x), columns, kinds, lengths, wanted, costs, bound)


def _cut(
    counts: NDArray[np.float64],
    columns: list[NDArray[np.float64]],
    kinds: list[int | None],
    lengths: NDArray[np.float64],
    wanted: NDArray[np.float64],
    costs: list[float],
    bound: float,
) -> Laid:
    """Patterns as often as they are taken; what a pattern would cut beyond what is wanted stays on the spool."""
    left = wanted.copy()
    spools: list[tuple[int, list[float]]] = []
    loose: list[float] = []
    cost = 0.0
    for count, column, kind, paid in zip(counts, columns, kinds, costs, strict=True):
        for _ in range(int(count)):
            taken = np.minimum(column, left)
            if not taken.any():
                continue
            left -= taken
            some = [float(one) for one, many in zip(lengths, taken, strict=True) for _ in range(int(many))]
            cost += paid
            if kind is None:
                loose += some
            else:
                spools.append((kind, some))
    return Laid(spools, loose, cost, min(bound, cost))
