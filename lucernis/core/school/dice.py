"""What is drawn by chance in the school, from a seed: the same seed gives the same case for ever."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TypeVar

import numpy as np

from lucernis.errors import NothingFits

One = TypeVar("One")


class Dice:
    """Draws from a seed."""

    def __init__(self, *seed: int) -> None:
        self._made = np.random.Generator(np.random.PCG64(np.random.SeedSequence(list(seed))))

    def one_of(self, things: Sequence[One]) -> One:
        """One of several.

        Raises
        ------
        NothingFits
            If there are none.
        """
        if not things:
            raise NothingFits("nothing to draw from")
        return things[int(self._made.integers(len(things)))]

    def some_of(self, things: Sequence[One], count: int) -> list[One]:
        """So many of several, each once, in a drawn order."""
        order = self._made.permutation(len(things))
        return [things[int(at)] for at in order[:count]]

    def between(self, low: int, high: int) -> int:
        """A whole number, both ends included."""
        return int(self._made.integers(low, high + 1))

    def chance(self, share: float) -> bool:
        """True in so large a share of draws."""
        return bool(self._made.random() < share)
