"""Buying wire: against trying everything, against a published example, and what cannot be bought."""

from __future__ import annotations

import itertools
import math
import random

import numpy as np
import pytest

from lucernis.core.build.knapsack import Knapsack
from lucernis.core.build.patterns import Stock as Spool
from lucernis.core.build.spools import buy, first_fit

# A paper mill's order, rolls of 5600 mm: width [mm] and how often. Published as the worked example of the cutting-stock
# problem in encyclopaedias; from memory. 73 rolls are proved to be the least.
MILL = {
    1380: 22, 1520: 25, 1560: 12, 1710: 14, 1820: 18, 1880: 18, 1930: 20, 2000: 10, 2050: 12, 2100: 14, 2140: 16,
    2150: 18, 2200: 20,
}  # fmt: skip


def by_trying(pieces: list[float], spools: list[Spool], metre: float | None) -> float:
    """The least cost over every way to lay the pieces: each on one of as many spools as there are pieces, or loose."""
    best = math.inf
    kinds = [None, *range(len(spools))] if metre is not None else list(range(len(spools)))
    for of in itertools.product(kinds, repeat=len(pieces)):
        cost = sum((metre or 0.0) * piece for piece, kind in zip(pieces, of, strict=True) if kind is None)
        for kind, spool in enumerate(spools):
            mine = [piece for piece, one in zip(pieces, of, strict=True) if one == kind]
            cost += spool.price * _fewest(mine, spool.length_m) if mine else 0.0
        best = min(best, cost)
    return best


def _fewest(pieces: list[float], length_m: float) -> float:
    if any(one > length_m for one in pieces):
        return math.inf
    for count in range(1, len(pieces) + 1):
        for of in itertools.product(range(count), repeat=len(pieces)):
            fill = [0.0] * count
            for piece, at in zip(pieces, of, strict=True):
                fill[at] += piece
            if max(fill) <= length_m + 1e-9:
                return count
    return math.inf


@pytest.mark.parametrize("seed", range(12))
def test_the_purchase_is_that_of_trying_everything(seed: int) -> None:
    rng = random.Random(seed)
    pieces = [round(rng.uniform(0.4, 6.0), 2) for _ in range(5)]
    spools = [
        Spool(length_m, round(length_m * rng.uniform(0.7, 1.1), 2)) for length_m in rng.sample([6.5, 10.0, 15.0], 2)
    ]
    metre = rng.choice([None, 1.3])
    found = buy(pieces, spools, metre)
    assert found.cost == pytest.approx(by_trying(pieces, spools, metre))
    assert found.bound == pytest.approx(found.cost, rel=1e-3)
    cut = sorted([*found.by_the_metre, *(one for spool in found.spools for one in spool.pieces_m)])
    assert cut == sorted(pieces)
    for spool in found.spools:
        assert sum(spool.pieces_m) <= spool.length_m + 1e-9
        assert spool.left_m == pytest.approx(spool.length_m - sum(spool.pieces_m))


def test_a_published_order_of_a_paper_mill() -> None:
    """73 rolls are known to be the least; within one of it, and the bound says how far off it can be."""
    pieces = [width / 1000 for width, count in MILL.items() for _ in range(count)]
    assert len(pieces) == 219
    found = buy(pieces, [Spool(5.6, 1.0)], None, limit_s=4.0)
    assert 73 <= found.cost <= 74
    assert found.bound == 73
    assert found.gap_frac <= 1 / 74


def test_what_fits_nowhere_is_told_and_not_joined() -> None:
    found = buy([12.0, 3.0], [Spool(10.0, 9.0)], None)
    assert found.problem == "a piece of 12.00 m: the longest spool has 10 m"
    assert buy([12.0], [], None).problem.endswith("nothing of it is sold")
    mixed = buy([12.0, 3.0], [Spool(10.0, 9.0)], 1.0)
    assert (mixed.by_the_metre, mixed.cost) == ([12.0, 3.0], 15.0)


def test_nothing_is_bought_for_nothing() -> None:
    found = buy([], [Spool(10.0, 9.0)], 1.0)
    assert (found.cost, found.spools, found.by_the_metre, found.gap_frac) == (0.0, [], [], 0.0)


def test_a_spool_is_worth_it_from_its_price_on() -> None:
    """25 m for 20: eighteen metres at 1.10 cost 19.80 loose, nineteen 20.90."""
    loose, whole = (buy([metres], [Spool(25.0, 20.0)], 1.1) for metres in (18.0, 19.0))
    assert (loose.by_the_metre, len(loose.spools)) == ([18.0], 0)
    assert (whole.by_the_metre, len(whole.spools), whole.cost) == ([], 1, 20.0)
    assert [one.left_m for one in whole.spools] == [6.0]


def test_first_fit_lays_the_longest_first() -> None:
    assert first_fit([3.0, 7.0, 5.0, 5.0], 10.0) == [[7.0, 3.0], [5.0, 5.0]]


@pytest.mark.parametrize("seed", range(8))
def test_what_is_on_the_shelf_is_cut_first_and_nothing_cheaper_is_left(seed: int) -> None:
    """Against trying every way: each piece from the shelf, where it fits, or bought as by_trying does."""
    rng = random.Random(seed)
    pieces = [round(rng.uniform(0.4, 4.0), 2) for _ in range(5)]
    shelf = [round(rng.uniform(1.0, 6.0), 2) for _ in range(2)]
    spools, metre = [Spool(8.0, 7.0)], rng.choice([None, 1.3])
    best = math.inf
    for of in itertools.product(range(len(shelf) + 1), repeat=len(pieces)):
        fill = [sum(p for p, at in zip(pieces, of, strict=True) if at == k) for k in range(len(shelf))]
        if all(used <= length_m + 1e-9 for used, length_m in zip(fill, shelf, strict=True)):
            best = min(
                best, by_trying([p for p, at in zip(pieces, of, strict=True) if at == len(shelf)], spools, metre)
            )
    found = buy(pieces, spools, metre, shelf=shelf)
    assert found.cost == pytest.approx(best)
    assert found.bound <= found.cost + 1e-9
    cuts = [*found.shelf, *found.spools]
    assert sorted([*found.by_the_metre, *(p for cut in cuts for p in cut.pieces_m)]) == sorted(pieces)
    assert all(sum(cut.pieces_m) + cut.left_m == pytest.approx(cut.length_m) for cut in cuts)
    assert not {cut.length_m for cut in found.shelf} - set(shelf)


def test_the_shorter_remnant_is_taken_and_a_full_shelf_buys_nothing() -> None:
    found = buy([0.5], [], None, shelf=[25.0, 0.7])
    assert [cut.length_m for cut in found.shelf] == [0.7]
    assert (found.cost, found.bound, found.problem) == (0.0, 0.0, "")
    assert buy([0.5, 3.0], [], None, shelf=[0.7]).problem == "a piece of 3.00 m: nothing of it is sold"
    many = buy([1.0] * 300, [Spool(50.0, 40.0)], None, shelf=[10.0] * 5)
    assert (sum(len(cut.pieces_m) for cut in many.shelf), many.cost) == (50, 200.0)


@pytest.mark.parametrize(
    ("kinds", "seed", "gap_frac"),
    [(((8, 10), (10, 12), (12, 14)), 7, 0.02), (((8, 9), (10, 12), (12, 13.5)), 2, 0.01)],
)
def test_forty_pieces_on_short_reels_come_near_to_what_nobody_can_beat(
    kinds: tuple[tuple[float, float], ...], seed: int, gap_frac: float
) -> None:
    """Farley's bound, raised to a sum of whole prices. Choosing among the patterns of the bound alone: within 6 %."""
    dice = random.Random(seed)
    pieces = [round(dice.uniform(0.4, 6.5), 2) for _ in range(40)]
    found = buy(pieces, [Spool(float(length), float(price)) for length, price in kinds], None)
    assert found.problem == ""
    assert sorted(one for cut in found.spools for one in cut.pieces_m) == sorted(pieces)
    assert all(sum(cut.pieces_m) <= cut.length_m + 1e-9 for cut in found.spools)
    assert 0 < found.bound <= found.cost
    assert found.gap_frac < gap_frac


@pytest.mark.parametrize("seed", range(4))
def test_the_best_pattern_of_a_spool_is_that_of_trying_everything(seed: int) -> None:
    dice = random.Random(seed)
    lengths = np.array(sorted({round(dice.uniform(0.5, 4.0), 2) for _ in range(4)}, reverse=True))
    wanted = np.array([float(dice.randint(1, 4)) for _ in lengths])
    prices = np.array([dice.uniform(0.5, 5.0) for _ in lengths])
    sold_m = [5.0, 9.0]
    found = Knapsack(lengths, wanted, max(sold_m)).best(prices, sold_m)
    for length_m, column in zip(sold_m, found, strict=True):
        fits = [
            float(prices @ np.array(counts))
            for counts in itertools.product(*(range(int(one) + 1) for one in wanted))
            if float(lengths @ np.array(counts)) <= length_m + 1e-9
        ]
        assert float(lengths @ column) <= length_m + 1e-9
        assert (column <= wanted).all()
        assert float(prices @ column) == pytest.approx(max(fits))
