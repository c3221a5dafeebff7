"""The pieces worth most on a length of wire, exactly."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

# Wire is cut to the centimetre, so that a pattern is a sum of whole numbers.
_PER_M = 100


class Knapsack:
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
