"""Cutting stock by patterns: what one spool is cut into, found one after another from what a piece is worth."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import Bounds, LinearConstraint, linprog, milp

from lucernis.core.build.knapsack import Knapsack

# Rounds of pricing for all pieces, and for what is left once some patterns are settled.
_ROUNDS = 60
_LATER_ROUNDS = 6
# So often a purchase is settled pattern by pattern, and of how many different lengths at most: beyond, so many pieces
# go round that whole numbers of the patterns lie near the bound by themselves.
_DIVES = 4
_MOST_LENGTHS = 80
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


class _Patterns:
    """Patterns of the spools, and what is known of their prices."""

    def __init__(self, pieces_m: Sequence[float], spools: Sequence[Stock], metre_price: float | None) -> None:
        counted = Counter(pieces_m)
        self.lengths = np.array(sorted(counted, reverse=True))
        self.wanted = np.array([float(counted[length_m]) for length_m in self.lengths])
        self.spools = spools
        self.columns: list[NDArray[np.float64]] = []
        self.kinds: list[int | None] = []
        self.costs: list[float] = []
        self._known: set[tuple[int | None, tuple[float, ...]]] = set()
        for j, length_m in enumerate(self.lengths):
            for k, spool in enumerate(spools):
                # So many as fit, and a single: what is left at the end takes no more.
                for many in {min(self.wanted[j], np.floor(spool.length_m / length_m + 1e-9)), 1.0}:
                    if length_m <= spool.length_m + 1e-9:
                        self._add(k, j, float(many))
            if metre_price is not None:
                self._add(None, j, 1.0, metre_price * float(length_m))

    def _add(self, kind: int | None, j: int, many: float, cost: float | None = None) -> None:
        column = np.zeros(len(self.lengths))
        column[j] = many
        self._keep(kind, column, self.spools[kind].price if kind is not None else cost or 0.0)

    def _keep(self, kind: int | None, column: NDArray[np.float64], cost: float) -> bool:
        key = (kind, tuple(column))
        if key in self._known:
            return False
        self._known.add(key)
        self.columns.append(column)
        self.kinds.append(kind)
        self.costs.append(cost)
        return True

    def relaxed(
        self, left: NDArray[np.float64], rounds: int
    ) -> tuple[NDArray[np.int64], NDArray[np.float64], float] | None:
        """The linear programme for the pieces left: patterns by their index, how much of each, and Farley's bound."""
        wanting = left > 0
        sold_m = [spool.length_m for spool in self.spools]
        knapsack = Knapsack(self.lengths[wanting], left[wanting], max(sold_m))
        bound, found = 0.0, None
        for _ in range(rounds):
            columns = np.array(self.columns)
            of = np.flatnonzero((columns <= left).all(axis=1))
            costs = np.array(self.costs)[of]
            solved = linprog(costs, A_ub=-columns[of][:, wanting].T, b_ub=-left[wanting], method="highs")
            if solved.x is None:
                return None
            found = of, np.asarray(solved.x)
            prices = -solved.ineqlin.marginals
            dearest, fresh = 1.0, False
            for spool, (k, pattern) in zip(self.spools, enumerate(knapsack.best(prices, sold_m)), strict=True):
                value = float(prices @ pattern)
                if spool.price > 0:
                    dearest = max(dearest, value / spool.price)
                if value > spool.price + 1e-7:
                    column = np.zeros(len(left))
                    column[wanting] = pattern
                    fresh |= self._keep(k, column, spool.price)
            bound = max(bound, float(solved.fun or 0.0) / dearest)
            if not fresh:
                break
        return None if found is None else (*found, bound)

    def settled(self, dice: np.random.Generator | None) -> list[int] | None:
        """Patterns in whole numbers: what the linear programme takes whole, else the pattern it takes most of, and
        again for the pieces left. With dice it is not always the most."""
        left, taken = self.wanted.copy(), list[int]()
        while left.any():
            found = self.relaxed(left, _LATER_ROUNDS)
            if found is None:
                return None
            of, much, _ = found
            whole = [int(at) for at in np.flatnonzero(much > 1 - 1e-6) for _ in range(int(much[at] + 1e-6))]
            lean = much if dice is None else much * dice.uniform(0.5, 1.0, len(much))
            for at in whole or [int(np.argmax(lean))]:
                column = self.columns[of[at]]
                if (column <= left).all():
                    taken.append(int(of[at]))
                    left = left - column
        return taken

    def chosen(self, limit_s: float) -> list[int] | None:
        """The cheapest patterns in whole numbers among those that are known; None where time ran out."""
        found = milp(
            np.array(self.costs),
            constraints=LinearConstraint(np.array(self.columns).T, self.wanted, np.inf),
            bounds=Bounds(0, np.inf),
            integrality=np.ones(len(self.costs), dtype=np.int64),
            options={"time_limit": limit_s, "mip_rel_gap": _NEAR_FRAC},
        )
        if found.x is None:
            return None
        return [at for at, count in enumerate(np.round(found.x)) for _ in range(int(count))]

    def cost(self, taken: Sequence[int]) -> float:
        return sum(self.costs[at] for at in taken)

    def cut(self, taken: Sequence[int], bound: float) -> Laid:
        """Patterns as they are taken; what a pattern would cut beyond what is wanted stays on the spool."""
        left = self.wanted.copy()
        spools: list[tuple[int, list[float]]] = []
        loose: list[float] = []
        cost = 0.0
        for at in taken:
            cutting = np.minimum(self.columns[at], left)
            if not cutting.any():
                continue
            left -= cutting
            some = [
                float(length_m) for length_m, many in zip(self.lengths, cutting, strict=True) for _ in range(int(many))
            ]
            kind = self.kinds[at]
            cost += self.costs[at]
            if kind is None:
                loose += some
            else:
                spools.append((kind, some))
        return Laid(spools, loose, cost, min(bound, cost))


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
    raised to what whole spools can cost. Whole numbers by diving: patterns are settled one after another and the
    programme is solved anew for what is left; where that stays above the bound, an integer programme chooses among all
    the patterns met on the way.
    """
    if not pieces_m or not spools:
        return None
    patterns = _Patterns(pieces_m, spools, metre_price)
    relaxed = patterns.relaxed(patterns.wanted, _ROUNDS)
    if relaxed is None:
        return None
    bound = _payable(relaxed[2], spools, metre_price)
    best: list[int] | None = None

    def near() -> bool:
        return best is not None and patterns.cost(best) <= bound * (1 + _NEAR_FRAC)

    def cheaper(found: list[int] | None) -> list[int] | None:
        if found is None or (best is not None and patterns.cost(best) <= patterns.cost(found)):
            return best
        return found

    dice = np.random.Generator(np.random.PCG64(1))
    for dive in range(_DIVES if len(patterns.lengths) <= _MOST_LENGTHS else 0):
        best = cheaper(patterns.settled(dice if dive else None))
        if near():
            break
    if not near():
        best = cheaper(patterns.chosen(limit_s))
    return None if best is None else patterns.cut(best, bound)


def _payable(bound: float, spools: Sequence[Stock], metre_price: float | None) -> float:
    """The least sum of whole spools that is no less than a bound: what lies between nobody can pay."""
    cents = [round(100 * one.price) for one in spools]
    exact = all(abs(100 * one.price - cent) < 1e-6 for one, cent in zip(spools, cents, strict=True))
    step = math.gcd(*cents) if exact and metre_price is None else 0
    return math.ceil(100 * bound / step - 1e-6) * step / 100 if step else bound
