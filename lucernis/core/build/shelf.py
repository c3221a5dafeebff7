"""What lies on the workshop's shelf, before and after a job: remnants of wire, and things by their key."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from lucernis.core.build.buying import WirePurchase
from lucernis.core.build.shopping import ShopLine

# A remnant shorter than this is scrap. Common practice, no source.
KEEP_M = 1.0
_WIRE = "wire"
_MOST_ALIKE = 200


@dataclass(frozen=True, slots=True)
class OnShelf:
    """So many of a key, or so many remnants of a length of ``wire:SIZE:COLOUR``. [m]"""

    key: str
    length_m: float
    count: float
    note: str = ""

    @property
    def wire(self) -> tuple[str, str] | None:
        """Size and colour where it is wire."""
        kind, _, rest = self.key.partition(":")
        size, _, colour = rest.rpartition(":")
        return (size, colour) if kind == _WIRE and size and colour else None


def remnants(shelf: Iterable[OnShelf]) -> dict[tuple[str, str], list[float]]:
    """Lengths of wire by size and colour. [m]"""
    found: dict[tuple[str, str], list[float]] = {}
    for one in shelf:
        if one.wire is not None and one.length_m > 0:
            # No job is cut from more of one length: thousands of them would only be counted.
            found.setdefault(one.wire, []).extend([one.length_m] * min(int(one.count), _MOST_ALIKE))
    return found


def things(shelf: Iterable[OnShelf]) -> dict[str, float]:
    """How many of each key, wire apart."""
    found: dict[str, float] = {}
    for one in shelf:
        if one.wire is None:
            found[one.key] = found.get(one.key, 0.0) + one.count
    return found


def back_to_shelf(wires: Iterable[WirePurchase]) -> list[OnShelf]:
    """Remnants of a purchase that are worth keeping, of the shelf's own lengths too.

    Parameters
    ----------
    wires : iterable of WirePurchase
        What is bought and cut.

    Returns
    -------
    list of OnShelf
        Each remnant of at least `KEEP_M`, longest first within its wire. [m]
    """
    found = []
    for one in wires:
        left = Counter(
            round(cut.left_m, 2) for cut in (*one.bought.shelf, *one.bought.spools) if cut.left_m >= KEEP_M - 1e-9
        )
        found += [
            OnShelf(f"{_WIRE}:{one.wire.size}:{one.wire.colour}", length_m, float(count))
            for length_m, count in sorted(left.items(), reverse=True)
        ]
    return found


def after_job(shelf: Sequence[OnShelf], wires: Sequence[WirePurchase], lines: Sequence[ShopLine]) -> list[OnShelf]:
    """The shelf once a job is bought and cut.

    Parameters
    ----------
    shelf : sequence of OnShelf
        As it stands.
    wires : sequence of WirePurchase
        The job's wire.
    lines : sequence of ShopLine
        All else.

    Returns
    -------
    list of OnShelf
        Without what is used, with the remnants worth keeping and the spares that were bought and not used.
    """
    used = Counter(
        ((one.wire.size, one.wire.colour), round(cut.length_m, 6)) for one in wires for cut in one.bought.shelf
    )
    taken = {line.key: line.needed for line in lines if line.group not in ("parts", "devices")}
    gained = {line.key: line.buy for line in lines if line.group not in ("parts", "devices")}
    found = []
    for one in shelf:
        count = one.count
        if one.wire is not None:
            gone = min(int(count), used[(one.wire, round(one.length_m, 6))])
            used[(one.wire, round(one.length_m, 6))] -= gone
            count -= gone
        elif one.key in taken:
            count = max(0.0, count + gained.pop(one.key) - taken.pop(one.key))
        if count > 0:
            found.append(OnShelf(one.key, one.length_m, round(count, 2), one.note))
    for key, bought in gained.items():
        left = round(bought - taken[key], 2)
        if left > 0:
            found.append(OnShelf(key, 0.0, left))
    return found + back_to_shelf(wires)
