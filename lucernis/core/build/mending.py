"""What a changed plan asks for beyond an older one: wire, parts and work to mend a vehicle that is there already."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from lucernis.core.build.cut_list import CutList, cut_totals
from lucernis.core.build.order import Order
from lucernis.core.build.shopping import ShopLine
from lucernis.core.build.since import cut_changes
from lucernis.core.build.steps import Step

# Done whatever is mended: make it dead, and at the end look whether all is well.
_ALWAYS = ("power:still", "power:load", "power:again")


def more_pieces(then: CutList, now: CutList) -> CutList:
    """Pieces that are new or other than they were.

    Parameters
    ----------
    then : CutList
        What is there.
    now : CutList
        What there is to be.

    Returns
    -------
    CutList
        Only what has to be cut.
    """
    cut = {one.id for one in cut_changes(then.pieces, now.pieces) if one.kind != "gone"}
    return cut_totals([piece for piece in now.pieces if piece.id in cut])


def more_lines(then: Sequence[ShopLine], now: Sequence[ShopLine]) -> list[ShopLine]:
    """What is bought beyond what is there.

    Parameters
    ----------
    then : sequence of ShopLine
        All that the older plan asks for.
    now : sequence of ShopLine
        All that the newer one does, with what is on the shelf.

    Returns
    -------
    list of ShopLine
        Lines whose need has grown, by so much; their cost in proportion.
    """
    # Parts and devices of one kind share a key and go by their names.
    there: dict[tuple[str, str], float] = {}
    for line in then:
        there[line.key, line.what] = there.get((line.key, line.what), 0.0) + line.needed
    found = []
    for line in now:
        needed = round(line.needed - there.get((line.key, line.what), 0.0), 6)
        if needed <= 0:
            continue
        buy = min(line.buy, needed)
        cost = line.cost * buy / line.buy if line.cost is not None and line.buy > 0 else line.cost
        found.append(replace(line, needed=needed, spare=0.0, buy=buy, cost=cost))
    return found


def more_steps(then: Order, now: Order) -> list[Step]:
    """Steps of the work that are new or read differently, and those that are always done.

    Parameters
    ----------
    then : Order
        Of the older plan.
    now : Order
        Of the newer one.

    Returns
    -------
    list of Step
        In their order.
    """
    there = {(step.id, step.done_as) for step in (*then.steps, *then.power_up)}
    return [
        step
        for step in (*now.steps, *now.power_up)
        if step.phase == "safe" or step.id in _ALWAYS or (step.id, step.done_as) not in there
    ]
