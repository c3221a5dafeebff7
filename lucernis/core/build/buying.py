"""What wire to buy for a cut list, by the workshop's own prices."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from lucernis.core.build.cut_list import CutList, WireTotal
from lucernis.core.build.patterns import Stock
from lucernis.core.build.spools import Purchase, buy, first_fit
from lucernis.plan.prices import Price


@dataclass(frozen=True, slots=True)
class WirePurchase:
    """One size and colour, how it is bought, and what it would cost on whole spools of one length
    alone, laid longest first.

    `metres` are those cut off by the metre. [m]
    """

    wire: WireTotal
    bought: Purchase
    on_one_spool: float | None
    gap_frac: float
    supplier: str
    metres: float


def _stock(size: str, prices: Mapping[str, Price]) -> list[Stock]:
    """Spools of a size in the list, shortest first: ``spool:SIZE:METRES``."""
    found = []
    for key, price in prices.items():
        kind, _, rest = key.partition(":")
        name, _, metres = rest.rpartition(":")
        if kind == "spool" and name == size:
            found.append(Stock(float(metres), price.price))
    return sorted(found)


def _is_wire(key: str, size: str) -> bool:
    """Whether a price is one of wire of a size, on spools or by the metre."""
    return key in ("wire", f"wire:{size}") or key.rpartition(":")[0] == f"spool:{size}"


def buy_wires(
    found: CutList, prices: Mapping[str, Price], shelf: Mapping[tuple[str, str], Sequence[float]] | None = None
) -> list[WirePurchase]:
    """The cheapest purchase of each size and colour.

    Parameters
    ----------
    found : CutList
        Pieces.
    prices : Mapping
        ``spool:SIZE:METRES`` for a spool, ``wire:SIZE`` for a metre of it, ``wire`` for a metre of each mm².
    shelf : Mapping, optional
        Size and colour to the lengths that are there already. [m]

    Returns
    -------
    list of WirePurchase
        In the order of the cut list's wires. What has no price at all says so.
    """
    lines = []
    for wire in found.wires:
        pieces = [one.cut_m for one in found.pieces if (one.size, one.colour) == (wire.size, wire.colour)]
        spools = _stock(wire.size, prices)
        metre = prices[f"wire:{wire.size}"].price if f"wire:{wire.size}" in prices else None
        if metre is None and "wire" in prices:
            metre = prices["wire"].price * wire.area_mm2
        bought = buy(pieces, spools, metre, shelf=(shelf or {}).get((wire.size, wire.colour), ()))
        alone = [
            spool.price * len(first_fit(pieces, spool.length_m)) for spool in spools if max(pieces) <= spool.length_m
        ]
        named = [price for key, price in prices.items() if _is_wire(key, wire.size) and price.supplier]
        supplier = named[0].supplier if named else ""
        on_one = min(alone, default=None)
        lines.append(WirePurchase(wire, bought, on_one, bought.gap_frac, supplier, bought.metres))
    return lines
