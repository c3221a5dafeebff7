"""How to buy wire: whole spools, or by the metre, so that it costs least and no piece is joined."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.optimize import Bounds, LinearConstraint, milp
from scipy.sparse import lil_array

from lucernis.core.build.patterns import Laid, Stock, by_patterns

# Up to so many choices of a piece and a spool each is its own; beyond, patterns are looked for.
_MOST_CHOICES = 400
# Where fewer pieces than this go on a spool what is left over decides, and patterns are looked for; where more do, all
# their lengths together decide.
_FEW = 6
# So often a little more length is asked for until the pieces fit.
_TRIES = 60
# What is on the shelf costs nothing; where it saves nothing either, a remnant is taken that pieces more than half fill,
# and the shortest of them. [price for each m]
_SHELF_WORTH = 1e-6


@dataclass(frozen=True, slots=True)
class SpoolCut:
    """A spool that is bought, the pieces cut from it, longest first, and what is left on it. [m]"""

    length_m: float
    pieces_m: list[float]
    left_m: float


@dataclass(frozen=True, slots=True)
class Purchase:
    """What is bought, and which pieces are cut from what. `shelf` is cut from what is there already; `bound` is what no
    purchase could cost less than."""

    shelf: list[SpoolCut]
    spools: list[SpoolCut]
    by_the_metre: list[float]
    cost: float
    bound: float
    problem: str

    @property
    def gap_frac(self) -> float:
        """How much cheaper it could at most be."""
        return 0.0 if self.cost <= 0 else max(0.0, 1 - self.bound / self.cost)


def first_fit(pieces_m: Sequence[float], length_m: float) -> list[list[float]]:
    """Pieces laid into as few equal lengths as first-fit decreasing finds: longest first, each into the first it fits.

    Parameters
    ----------
    pieces_m : sequence of float
        None longer than `length_m`. [m]
    length_m : float
        Of each spool. [m]

    Returns
    -------
    list of list of float
        Pieces of each spool. [m]
    """
    found: list[list[float]] = []
    left: list[float] = []
    for piece_m in sorted(pieces_m, reverse=True):
        at = next((k for k, free_m in enumerate(left) if free_m >= piece_m - 1e-9), None)
        if at is None:
            found.append([])
            left.append(length_m)
            at = len(found) - 1
        found[at].append(piece_m)
        left[at] -= piece_m
    return found


def _greedy(
    pieces_m: list[float], spools: Sequence[Stock], metre: float
) -> tuple[list[tuple[int, list[float]]], list[float], float]:
    """The cheapest of: all by the metre, or what fits on spools of one kind by first fit and the rest by the metre."""
    best: tuple[list[tuple[int, list[float]]], list[float], float] = ([], list(pieces_m), metre * sum(pieces_m))
    for k, spool in enumerate(spools):
        short = [one for one in pieces_m if one <= spool.length_m + 1e-9]
        rest = [one for one in pieces_m if one > spool.length_m + 1e-9]
        laid = first_fit(short, spool.length_m)
        cost = spool.price * len(laid) + (metre * sum(rest) if rest else 0.0)
        if cost < best[2] - 1e-9 or not math.isfinite(best[2]):
            best = ([(k, pieces) for pieces in laid], rest, cost)
    return best


def _from_shelf(pieces: list[float], shelf: Sequence[float]) -> tuple[list[SpoolCut], list[float]]:
    """Pieces, longest first, each from the remnant it leaves least of; and those left to buy."""
    laid, out = _packed(pieces, sorted(shelf))
    cuts = [
        SpoolCut(length_m, some, round(length_m - sum(some), 6))
        for length_m, some in zip(sorted(shelf), laid, strict=True)
        if some
    ]
    return cuts, out


def buy(
    pieces_m: Sequence[float],
    spools: Sequence[Stock],
    metre_price: float | None,
    limit_s: float = 2.0,
    shelf: Sequence[float] = (),
) -> Purchase:
    """The cheapest way to buy wire of one size and colour.

    Parameters
    ----------
    pieces_m : sequence of float
        Cut lengths. [m]
    spools : sequence of Stock
        What it is sold on.
    metre_price : float or None
        What a metre costs cut off; None where it is not sold so.
    limit_s : float
        How long the search may take. [s]
    shelf : sequence of float
        Lengths that are there already and cost nothing. [m]

    Returns
    -------
    Purchase
        With the bound of the search; `problem` where some piece is longer than anything that is there or sold.

    Notes
    -----
    Cutting stock as an integer programme (a piece goes to one spool or is bought by the metre; a spool that is used is
    paid), solved by HiGHS. Where that would be too large, patterns of a spool are generated from the prices of the
    linear programme (`by_patterns`); first-fit decreasing stands in where time runs out. What is on the shelf is part
    of the programme where that is small; else it is filled first, longest pieces first.
    """
    pieces = sorted((float(one) for one in pieces_m), reverse=True)
    kept, rest = _from_shelf(pieces, shelf)
    longest_m = max((one.length_m for one in spools), default=0.0)
    if rest and metre_price is None and rest[0] > longest_m + 1e-9:
        sold = f"the longest spool has {longest_m:g} m" if spools else "nothing of it is sold"
        return Purchase([], [], [], 0.0, 0.0, f"a piece of {rest[0]:.2f} m: {sold}")
    found = _bought(rest, spools, metre_price, limit_s)
    cheapest = min(
        [metre_price if metre_price is not None else math.inf, *(one.price / one.length_m for one in spools)]
    )
    bound = max(0.0, sum(pieces) - sum(shelf)) * cheapest if rest else 0.0
    if not shelf or not rest:
        return Purchase(kept, found.spools, found.by_the_metre, found.cost, found.cost if not rest else found.bound, "")
    there = [Stock(length_m, _SHELF_WORTH * length_m, 1) for length_m in sorted(shelf)]
    exact = _exact(pieces, [*there, *spools], metre_price, found.cost + _SHELF_WORTH * sum(shelf) + 1e-6, limit_s)
    if exact is None:
        return Purchase(kept, found.spools, found.by_the_metre, found.cost, min(bound, found.cost), "")
    stocks = [*there, *spools]
    cuts = [
        (k, SpoolCut(stocks[k].length_m, some, round(stocks[k].length_m - sum(some), 6))) for k, some in exact.spools
    ]
    cost = sum(stocks[k].price for k, _ in cuts if k >= len(there)) + (metre_price or 0.0) * sum(exact.by_the_metre)
    bound = max(bound, exact.bound - _SHELF_WORTH * sum(shelf))
    return Purchase(
        [cut for k, cut in cuts if k < len(there)],
        [cut for k, cut in cuts if k >= len(there)],
        exact.by_the_metre,
        cost,
        min(bound, cost),
        "",
    )


def _bought(pieces: list[float], spools: Sequence[Stock], metre_price: float | None, limit_s: float) -> Purchase:
    """The cheapest purchase of pieces, longest first, none of them longer than what is sold."""
    if not pieces:
        return Purchase([], [], [], 0.0, 0.0, "")
    metre = math.inf if metre_price is None else metre_price
    laid, rest, cost = _greedy(pieces, spools, metre)
    bound = min([metre, *(one.price / one.length_m for one in spools)]) * sum(pieces)
    found = _exact(pieces, spools, metre_price, cost, limit_s)
    if found is None and spools:
        few = max(one.length_m for one in spools) * len(pieces) < _FEW * sum(pieces)
        found = by_patterns(pieces, spools, metre_price, limit_s) if few else _by_length(pieces, spools, metre_price)
    if found is not None:
        bound = max(bound, found[3])
        if found[2] <= cost + 1e-9:
            laid, rest, cost = found[:3]
    if len(spools) == 1 and metre_price is None:
        # Of one kind of spool only whole ones are bought.
        bound = spools[0].price * math.ceil(bound / spools[0].price - 1e-6) if spools[0].price > 0 else bound
    cuts = [SpoolCut(spools[k].length_m, some, round(spools[k].length_m - sum(some), 6)) for k, some in laid]
    return Purchase([], cuts, rest, cost, min(bound, cost), "")


def _packed(pieces: list[float], lengths_m: list[float]) -> tuple[list[list[float]], list[float]]:
    """Pieces, longest first, each where least is left over; and those that fit nowhere."""
    left, laid, out = list(lengths_m), [list[float]() for _ in lengths_m], list[float]()
    for piece_m in pieces:
        fits = [(free_m, at) for at, free_m in enumerate(left) if free_m >= piece_m - 1e-9]
        if not fits:
            out.append(piece_m)
            continue
        at = min(fits)[1]
        laid[at].append(piece_m)
        left[at] -= piece_m
    return laid, out


def _by_length(pieces: list[float], spools: Sequence[Stock], metre_price: float | None) -> Laid | None:
    """The cheapest spools whose lengths together suffice, with a little more asked for until the pieces fit on them.

    The first of these choices is a bound: no purchase can do with less length.
    """
    total_m, bound, best = sum(pieces), None, None
    n = len(spools)
    cost = np.array([*(one.price for one in spools), metre_price if metre_price is not None else 0.0])
    lengths = np.array([[*(one.length_m for one in spools), 1.0]])
    high = np.array(
        [*(math.ceil(total_m / one.length_m) + 1 for one in spools), total_m if metre_price is not None else 0]
    )
    kinds = np.array([1] * n + [0], dtype=np.int64)
    for tried in range(_TRIES):
        wanted_m = total_m * (1 + 0.003 * tried)
        found = milp(
            cost,
            constraints=LinearConstraint(lengths, wanted_m - 1e-7, np.inf),
            bounds=Bounds(np.zeros(n + 1), high),
            integrality=kinds,
        )
        if found.x is None:
            return best
        paid = float(found.fun or 0.0)
        bound = paid if bound is None else bound
        if best is not None and paid >= best.cost - 1e-9:
            break
        of = [k for k in range(n) for _ in range(round(found.x[k]))]
        of.sort(key=lambda k: spools[k].length_m)
        laid, out = _packed(pieces, [spools[k].length_m for k in of])
        if out and metre_price is None:
            continue
        used = [(k, some) for k, some in zip(of, laid, strict=True) if some]
        whole = sum(spools[k].price for k, _ in used) + (metre_price or 0.0) * sum(out)
        if best is None or whole < best.cost - 1e-9:
            best = Laid(used, out, whole, bound)
        if not out:
            break
    return best


def _exact(
    pieces: list[float], spools: Sequence[Stock], metre_price: float | None, most_cost: float, limit_s: float
) -> Laid | None:
    bins = []
    for k, spool in enumerate(spools):
        fit = [one for one in pieces if one <= spool.length_m + 1e-9]
        # No more than first fit needs, and no more than the cheapest known purchase could pay for.
        count = len(first_fit(fit, spool.length_m))
        if spool.price > 0 and math.isfinite(most_cost):
            count = min(count, int(most_cost / spool.price + 1e-9))
        count = count if spool.most is None else min(count, spool.most)
        bins += [k] * count
    n, m = len(pieces), len(bins)
    if not n or not m or n * (m + 1) > _MOST_CHOICES:
        return None
    metres = 0.0 if metre_price is None else metre_price
    lengths = np.array(pieces)
    size = n * m + m + n
    used = np.array([2 * _SHELF_WORTH if spools[k].most is not None else 0.0 for k in bins])
    cost = np.concatenate([-np.outer(used, lengths).ravel(), [spools[k].price for k in bins], metres * lengths])
    high = np.ones(size)
    for at, k in enumerate(bins):
        high[at * n : (at + 1) * n] = lengths <= spools[k].length_m + 1e-9
    if metre_price is None:
        high[n * m + m :] = 0
    same = [at for at in range(1, m) if bins[at] == bins[at - 1]]
    rows = lil_array((n + m + len(same), size))
    for j in range(n):
        rows[[j], [at * n + j for at in range(m)]] = 1.0
        rows[j, n * m + m + j] = 1.0
    for at, k in enumerate(bins):
        rows[[n + at], list(range(at * n, (at + 1) * n))] = lengths
        rows[n + at, n * m + at] = -spools[k].length_m
    # Of spools alike the first is used first: the same purchase is not looked at twice.
    for row, at in enumerate(same):
        rows[n + m + row, n * m + at - 1], rows[n + m + row, n * m + at] = -1.0, 1.0
    low = np.concatenate([np.ones(n), np.full(m + len(same), -np.inf)])
    top = np.concatenate([np.ones(n), np.full(m, 1e-7), np.zeros(len(same))])
    found = milp(
        cost,
        constraints=LinearConstraint(rows.tocsr(), low, top),
        bounds=Bounds(np.zeros(size), high),
        integrality=np.ones(size, dtype=np.int64),
        options={"time_limit": limit_s},
    )
    if found.x is None:
        return None
    taken = found.x > 0.5
    laid = [
        (k, [pieces[j] for j in range(n) if taken[at * n + j]])
        for at, k in enumerate(bins)
        if taken[n * m + at] and taken[at * n : (at + 1) * n].any()
    ]
    rest = [pieces[j] for j in range(n) if taken[n * m + m + j]]
    paid = sum(spools[k].price for k, _ in laid) + metres * sum(rest)
    if paid > most_cost + 1e-9:
        return None
    bound = float(found.mip_dual_bound) if found.mip_dual_bound is not None else 0.0
    return Laid(laid, rest, paid, bound)
