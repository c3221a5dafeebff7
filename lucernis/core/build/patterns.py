"""Cutting stock by patterns: what one spool is cut into, found one after another from what a piece is worth."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import Bounds, LinearConstraint, linprog, milp

# Rounds of pricing: a van's wires settle in a few dozen. Then so many patterns are added at prices
# a little off, drawn from a seed: a whole number of them lies nearer the bound than of the few the bound needs.
_ROUNDS = 60
_BESIDE = 40
_OFF_FRAC = 0.12
# Wire is cut to the centimetre, so that a pattern is a sum of whole numbers.
_PER_M = 100
# A whole number of patterns this near to the bound is good enough.
_NEAR_FRAC = 0.004


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


class _Knapsack:
    """The pieces worth most on a spool, exactly, for every length at once: a sum over centimetres, item by item."""

    def __init__(self, lengths: NDArray[np.float64], wanted: NDArray[np.float64], longest_m: float) -> None:
        self._room = int(np.floor(longest_m * _PER_M + 1e-6))
        self._items: list[tuple[int, int, int]] = []
        for j, (length_m, count) in enumerate(zip(lengths, wanted, strict=True)):
            long = int(np.ceil(length_m * _PER_M - 1e-6))
            left = min(int(count), self._room // long if long else 0)
            # So many of a length as powers of two of it.
            take = 1
            while left > 0:
                some = min(take, left)
                self._items.append((j, some, long * some))
                left, take = left - some, take * 2
        self._n = len(lengths)

    def best(self, prices: NDArray[np.float64], lengths_m: Sequence[float]) -> list[NDArray[np.float64]]:
        """For each length of a spool the pattern worth most at some prices of the pieces."""
        worth = np.zeros(self._room + 1)
        took = np.zeros((len(self._items), self._room + 1), dtype=bool)
        for at, (j, some, long) in enumerate(self._items):
            value = float(prices[j]) * some
            if value <= 0:
                continue
            with_it = worth[: self._room + 1 - long] + value
            better = with_it > worth[long:] + 1e-12
            took[at, long:] = better
            worth[long:] = np.where(better, with_it, worth[long:])
        found = []
        for length_m in lengths_m:
            room = int(np.floor(length_m * _PER_M + 1e-6))
            column = np.zeros(self._n)
            for at in range(len(self._items) - 1, -1, -1):
                if took[at, room]:
                    j, some, long = self._items[at]
                    column[j] += some
                    room -= long
            found.append(column)
        return found


def by_patterns(
    pieces_m: Sequence[float], spools: Sequence[Stock], metre_price: float | None, limit_s: float
) -> Laid | None:
    """Lay pieces onto spools by patterns.

    Parameters
    ----------
    pieces_m : sequence of float
        Cut lengths, to the centimetre. [m]
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
    the pattern worth most at those prices, exactly, until none is worth more than its spool. The bound is Farley's,
    raised to what whole spools can cost.
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
    knapsack = _Knapsack(lengths, wanted, max(one.length_m for one in spools))
    sold_m = [one.length_m for one in spools]
    bound, prices = 0.0, np.zeros(n)
    for _ in range(_ROUNDS):
        relaxed = linprog(costs, A_ub=-np.array(columns).T, b_ub=-wanted, method="highs")
        if relaxed.x is None:
            return None
        prices = -relaxed.ineqlin.marginals
        dearest, fresh = 1.0, False
        for k, column in enumerate(knapsack.best(prices, sold_m)):
            value = float(prices @ column)
            if spools[k].price > 0:
                dearest = max(dearest, value / spools[k].price)
            if value > spools[k].price + 1e-7:
                columns.append(column)
                kinds.append(k)
                costs.append(spools[k].price)
                fresh = True
        bound = max(bound, float(relaxed.fun or 0.0) / dearest)
        if not fresh:
            break
    dice = np.random.Generator(np.random.PCG64(1))
    known = {(kind, tuple(column)) for kind, column in zip(kinds, columns, strict=True)}
    for _ in range(_BESIDE):
        off = prices * dice.uniform(1 - _OFF_FRAC, 1 + _OFF_FRAC, n)
        for k, column in enumerate(knapsack.best(off, sold_m)):
            if column.any() and (k, tuple(column)) not in known:
                known.add((k, tuple(column)))
                columns.append(column)
                kinds.append(k)
                costs.append(spools[k].price)
    bound = _payable(bound, spools, metre_price)
    whole = milp(
        np.array(costs),
        constraints=LinearConstraint(np.array(columns).T, wanted, np.inf),
        bounds=Bounds(0, np.inf),
        integrality=np.ones(len(costs), dtype=np.int64),
        options={"time_limit": limit_s, "mip_rel_gap": _NEAR_FRAC},
    )
    if whole.x is None:
        return None
    return _cut(np.round(whole.x), columns, kinds, lengths, wanted, costs, bound)


def _payable(bound: float, spools: Sequence[Stock], metre_price: float | None) -> float:
    """The least sum of whole spools that is no less than a bound: what lies between nobody can pay."""
    cents = [round(100 * one.price) for one in spools]
    exact = all(abs(100 * one.price - cent) < 1e-6 for one, cent in zip(spools, cents, strict=True))
    step = math.gcd(*cents) if exact and metre_price is None else 0
    return math.ceil(100 * bound / step - 1e-6) * step / 100 if step else bound


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
