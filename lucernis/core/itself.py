"""A thing as the key of what is remembered of it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Generic, TypeVar

Thing = TypeVar("Thing")


@dataclass(frozen=True, slots=True, eq=False)
class Itself(Generic[Thing]):
    """Equal to itself alone: plans and their sizes are never changed, and to compare large ones takes longer than it
    saves."""

    thing: Thing

    def __hash__(self) -> int:
        """By which object it is; it lives as long as it is remembered."""
        return id(self.thing)

    def __eq__(self, other: object) -> bool:
        """Only the very same."""
        return isinstance(other, Itself) and other.thing is self.thing
