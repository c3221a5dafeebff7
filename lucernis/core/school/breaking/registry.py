"""Every breaker by its code, with how hard it is to see."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from lucernis.core.checks.codes import CODES
from lucernis.core.school.breaking.van import Van

Hard = Literal[1, 2, 3]
# Puts a mistake in; gives the ids of what it may be found at.
Break = Callable[[Van], tuple[str, ...]]


@dataclass(frozen=True, slots=True)
class Breaker:
    """One way to a code.

    `hard`: 1 is seen by looking, 2 by comparing figures, 3 by knowing. `along` are other codes under which the same
    mistake shows itself; `whole` tells that so much follows from it that nothing else is asked of the van. What is not
    `of_trade` no person at work does: it is left out of cases.
    """

    code: str
    hard: Hard
    breaks: Break
    along: frozenset[str]
    whole: bool
    of_trade: bool


BREAKERS: dict[str, Breaker] = {}


def breaks(
    code: str, hard: Hard, *, along: tuple[str, ...] = (), whole: bool = False, of_trade: bool = True
) -> Callable[[Break], Break]:
    """Register a breaker for a code of the checks."""
    if code not in CODES or code in BREAKERS or not CODES.keys() >= set(along):
        raise ValueError(f"{code!r} is no code, has a breaker already, or goes along with none")

    def register(function: Break) -> Break:
        BREAKERS[code] = Breaker(code, hard, function, frozenset(along), whole, of_trade)
        return function

    return register
