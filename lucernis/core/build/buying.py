"""What wire to buy for a cut list, by the workshop's own prices."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from lucernis.core.build.cut_list import CutList, WireTotal
from lucernis.core.build.patterns import Stock
from lucernis.core.build.spools import Purchase, SpoolCut, buy, first_fit
from lucernis.plan.model import Plan
from lucernis.plan.prices import Price
from lucernis.plan.rules import plan_rules


@dataclass(frozen=True, slots=True)
class WirePurchase:
    """One size and colour, how it is bought, and what it would cost on whole spools of one length
    alone, laid longest first.

    `metres` are those cut off by the metre, with their spare share, to the next tenth. [m]
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


def wire_spare_frac(plan: Plan) -> float:
    """Share of wire beyond the pieces cut from it, by the plan's rules."""
    return plan_rules(plan).values.wire_spare_frac


def _usable_m(length_m: float, pieces_m: Sequence[float], spare_frac: float) -> float:
    """What of a length may be cut, so that some of it is left; a single piece may take all of it. [m]"""
    alone = max((piece_m for piece_m in pieces_m if piece_m <= length_m + 1e-9), default=0.0)
    return max(length_m / (1 + spare_frac), alone)


def _whole(cuts: Sequence[SpoolCut], usable: Sequence[tuple[float, float]]) -> list[SpoolCut]:
    """Cuts of usable lengths as cuts of the lengths they are of. [m]"""
    left = list(usable)
    found = []
    for cut in cuts:
        at = next(k for k, (usable_m, _) in enumerate(left) if abs(usable_m - cut.length_m) < 1e-9)
        length_m = left.pop(at)[1]
        found.append(SpoolCut(length_m, cut.pieces_m, round(length_m - sum(cut.pieces_m), 6)))
    return found


def _bought(
    pieces: Sequence[float], spools: Sequence[Stock], metre: float | None, shelf: Sequence[float], spare_frac: float
) -> tuple[Purchase, float, float]:
    """The cheapest purchase with a spare share, the metres cut off for it, and how much cheaper it could be [1]. [m]"""
    stock = [one._replace(length_m=_usable_m(one.length_m, pieces, spare_frac)) for one in spools]
    remnants = [(_usable_m(length_m, pieces, spare_frac), length_m) for length_m in shelf]
    found = buy(
        pieces,
        stock,
        metre * (1 + spare_frac) if metre is not None else None,
        shelf=[usable_m for usable_m, _ in remnants],
    )
    if found.problem:
        # Said by what is sold, not by what may be cut of it.
        return buy(pieces, spools, metre), 0.0, 0.0
    metres = math.ceil(round(10 * sum(found.by_the_metre) * (1 + spare_frac), 6)) / 10
    rounding = (metre or 0.0) * (metres - sum(found.by_the_metre) * (1 + spare_frac))
    whole = [(one.length_m, sold.length_m) for one, sold in zip(stock, spools, strict=True)]
    every = [pair for pair in whole for _ in found.spools]
    return (
        replace(
            found,
            shelf=_whole(found.shelf, remnants),
            spools=_whole(found.spools, every),
            cost=found.cost + rounding,
        ),
        metres,
        # Before metres are rounded up: the shop's tenth is no fault of the search.
        found.gap_frac,
    )


def buy_wires(
    found: CutList,
    prices: Mapping[str, Price],
    shelf: Mapping[tuple[str, str], Sequence[float]] | None = None,
    *,
    spare_frac: float,
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
    spare_frac : float
        Share of wire beyond the pieces: bought where it is sold by the metre, else left on the spool or the remnant.

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
        bought, metres, gap_frac = _bought(
            pieces, spools, metre, (shelf or {}).get((wire.size, wire.colour), ()), spare_frac
        )
        alone = [
            spool.price * len(first_fit(pieces, _usable_m(spool.length_m, pieces, spare_frac)))
            for spool in spools
            if max(pieces) <= spool.length_m
        ]
        named = [price for key, price in prices.items() if _is_wire(key, wire.size) and price.supplier]
        supplier = named[0].supplier if named else ""
        on_one = min(alone, default=None)
        lines.append(WirePurchase(wire, bought, on_one, gap_frac, supplier, metres))
    return lines
