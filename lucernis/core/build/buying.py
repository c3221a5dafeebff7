"""What wire to buy for a cut list, by the workshop's own prices."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from lucernis.core.build.cut_list import CutList, WireTotal
from lucernis.core.build.patterns import Stock
from lucernis.core.build.spools import Purchase, buy
from lucernis.plan.prices import Price


@dataclass(frozen=True, slots=True)
class WirePurchase:
    """One size and colour, how it is bought, and what it would cost on whole spools of one length alone."""

    wire: WireTotal
    bought: Purchase
    on_one_spool: float | None
    gap_frac: float


def _stock(size: str, prices: Mapping[str, Price]) -> list[Stock]:
    """Spools of a size in the list, shortest first: ``spool:SIZE:METRES``."""
    found = []
    for key, price in prices.items():
        kind, _, rest = key.partition(":")
        name, _, metres = rest.rpartition(":")
        if kind == "spool" and name == size:
            found.append(Stock(float(metres), price.price))
    return sorted(found)


def buy_wires(found: CutList, prices: Mapping[str, Price]) -> list[WirePurchase]:
    """The cheapest purchase of each size and colour.

    Parameters
    ----------
    found : CutList
        Pieces.
    prices : Mapping
        ``spool:SIZE:METRES`` for a spool, ``wire:SIZE`` for a metre of it, ``wire`` for a metre of each mm².

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
        bought = buy(pieces, spools, metre)
        alone = [one for one in (buy(pieces, [spool], None) for spool in spools) if not one.problem]
        lines.append(WirePurchase(wire, bought, min((one.cost for one in alone), default=None), bought.gap_frac))
    return lines
