"""Everything to buy for a plan besides its wire: counted, with what is on the shelf taken off and spares added."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Literal

from lucernis.core.build.cut_list import CutList, CutPiece
from lucernis.core.layout.channels import measured_channels
from lucernis.core.layout.fill import bundle_mm, grommet_for, inside_needed_mm, outside_mm
from lucernis.core.layout.laid import layout_of
from lucernis.core.power.costs import MAIN_FAMILIES, part_amount
from lucernis.core.sizing.fusing import far_key
from lucernis.core.sizing.sized import sized_plan
from lucernis.plan.layout import Crossing
from lucernis.plan.model import FuseBlock, Load, Plan
from lucernis.plan.prices import Price
from lucernis.practice.tables import load_table

Group = Literal["ends", "tube", "fuses", "holes", "ways", "labels", "covers", "parts", "devices"]
GROUPS: tuple[tuple[Group, str], ...] = (
    ("ends", "Lugs and terminals"),
    ("tube", "Heat-shrink"),
    ("fuses", "Fuses and holders"),
    ("holes", "Holes"),
    ("ways", "Along the way"),
    ("labels", "Labels"),
    ("covers", "Covers and boots"),
    ("parts", "Parts"),
    ("devices", "Devices, where the customer has none"),
)
# First words of what goes on an end, and the key of its price.
_ENDS = {
    "lug": "lug", "ring": "ring", "push-on": "push_on", "ferrule": "ferrule", "butt": "splice", "pin": "pin",
    "solar": "solar", "cap": "cap",
}  # fmt: skip
# Held every so often where nobody said how often, and tied in between. Common practice, no source. [m]
_CLAMP_M = 0.45
_TIE_M = 0.3
_BOOTED = ("battery", "alternator", "switch", "isolator")
_THERE_ALREADY = ("alternator", "keyed_feed")


@dataclass(frozen=True, slots=True)
class ShopLine:
    """One thing to buy. `needed` is what the plan counts, `spare` what is carried besides, `on_shelf` what is there
    already, `buy` the rest; `price` is None where the list has none, and `price_key` the key it was found by.
    """

    key: str
    group: Group
    what: str
    unit: str
    needed: float
    spare: float
    on_shelf: float
    buy: float
    price: float | None
    cost: float | None
    supplier: str
    price_key: str


@dataclass(frozen=True, slots=True)
class _Wanted:
    key: str
    group: Group
    what: str
    amount: float
    each: float = 1.0
    """How much of what its price is for one of it holds: a battery its watt-hours."""


def _ends(cut: CutList) -> Iterator[_Wanted]:
    for one in cut.ends:
        base = _ENDS.get(one.what.split()[0].rstrip(","))
        if one.count and base is not None:
            yield _Wanted(f"{base}:{one.what.split(maxsplit=1)[1]}", "ends", one.what, one.count)
    tubes = Counter[float]()
    for piece in cut.pieces:
        for end in (piece.start, piece.finish):
            if end.shrink_before_mm is not None:
                tubes[end.shrink_before_mm] += round(end.shrink_length_mm)
    for before_mm, length_mm in sorted(tubes.items()):
        yield _Wanted(f"tube:{before_mm:g}", "tube", f"Heat-shrink {before_mm:g} mm, adhesive-lined", length_mm / 1000)


def _fuses(plan: Plan) -> Iterator[_Wanted]:
    sized = sized_plan(plan)
    parts = {part.id: part for part in plan.parts}
    found: Counter[tuple[str, str, str, float]] = Counter()
    holders: Counter[tuple[str, str]] = Counter()
    for run in plan.runs:
        for end, key in ((run.start, run.id), (run.finish, far_key(run.id))):
            made = sized.fuses.get(key)
            if made is None or made.fuse is None:
                continue
            base = "fuse:main" if made.fuse.family in MAIN_FAMILIES else "fuse:branch"
            found[(base, made.fuse.family, made.fuse.label, made.fuse.rating_a)] += made.count
            if not (isinstance(parts[end.part], FuseBlock) and end.way is not None):
                # A sealed holder is another thing on the shelf than an open one.
                kind, words = (":sealed", ", sealed") if made.sealed_holder else ("", "")
                holders[(f"holder:{made.fuse.family}{kind}", f"Holder for {made.fuse.label}{words}")] += made.count
    for (_, family, label, rating_a), count in sorted(found.items()):
        yield _Wanted(f"fuse:{family}:{rating_a:g}", "fuses", f"{label} {rating_a:g} A", count)
    for (key, label), count in sorted(holders.items()):
        yield _Wanted(key, "fuses", label, count)


def _ways(plan: Plan, cut: CutList) -> Iterator[_Wanted]:
    layout, measured = layout_of(plan), measured_channels(plan)
    along: dict[str, list[CutPiece]] = {run.id: [] for run in plan.runs}
    for piece in cut.pieces:
        for run_id in piece.runs:
            along[run_id].append(piece)
    grommets: Counter[float] = Counter()
    tubes: dict[tuple[str, float], float] = {}
    clamps = ties = 0

    def hole(one: Crossing, wires: list[float]) -> None:
        made = grommet_for(one.hole_mm or inside_needed_mm(wires, "hole"))
        if made is not None and wires:
            grommets[made[0]] += 1

    for channel in plan.channels:
        pieces = {piece.id: piece for run in layout.lying.get(channel.id, ()) for piece in along[run.id]}
        wires = [outside_mm(piece.area_mm2) for piece in pieces.values()]
        if not wires:
            continue
        for one in channel.crossings:
            hole(one, wires)
        length_m = measured[channel.id].length_m or 0.0
        if channel.inside_mm is not None:
            tube = ("conduit", channel.inside_mm)
            tubes[tube] = tubes.get(tube, 0.0) + length_m
        else:
            thick = bundle_mm(wires)
            loom = next(
                (float(row["inside_mm"]) for row in load_table("loom_sizes").rows if float(row["inside_mm"]) >= thick),
                None,
            )
            if loom is not None:
                tubes[("loom", loom)] = tubes.get(("loom", loom), 0.0) + length_m
            ties += math.ceil(length_m / _TIE_M)
        clamps += math.ceil(length_m / (channel.clamp_m or _CLAMP_M)) + 1
    for run in plan.runs:
        for one in run.passes:
            hole(one, [outside_mm(piece.area_mm2) for piece in along[run.id]])
    for inside_mm, count in sorted(grommets.items()):
        yield _Wanted(f"grommet:{inside_mm:g}", "holes", f"Grommet, {inside_mm:g} mm inside", count)
    for (kind, inside_mm), length_m in sorted(tubes.items()):
        name = "Conduit" if kind == "conduit" else "Slit loom"
        yield _Wanted(f"{kind}:{inside_mm:g}", "ways", f"{name}, {inside_mm:g} mm inside", round(length_m, 2))
    if clamps:
        yield _Wanted("clamp", "ways", "Clamp", clamps)
    if ties:
        yield _Wanted("tie", "ways", "Cable tie", ties)
    if cut.pieces:
        yield _Wanted("sleeve", "labels", "Sleeve label", 2 * len(cut.pieces))


def _parts(plan: Plan, cut: CutList) -> Iterator[_Wanted]:
    kinds = {part.id: part for part in plan.parts}
    boots = sum(
        1
        for piece in cut.pieces
        for end in (piece.start, piece.finish)
        if piece.leg[0] == "+" and end.stud and end.part_id and kinds[end.part_id].kind in _BOOTED
    )
    bars = sum(part.kind == "busbar" for part in plan.parts)
    if bars:
        yield _Wanted("cover", "covers", "Busbar cover", bars)
    if boots:
        yield _Wanted("boot", "covers", "Boot over a positive stud", boots)
    for part in plan.parts:
        if part.kind in _THERE_ALREADY or getattr(part, "use", "") == "starter":
            continue
        amount = part_amount(part, plan)
        if amount is not None:
            key, each, unit = amount
            told = part.name if unit == "piece" else f"{part.name}, {each:g} {'ways' if unit == 'way' else unit}"
            yield _Wanted(key, "parts", told, 1, each)
        elif isinstance(part, Load):
            yield _Wanted("device", "devices", part.name, 1)


def price_of(key: str, prices: Mapping[str, Price]) -> Price | None:
    """The price of a thing: of its own key, or the nearest wider one.

    Parameters
    ----------
    key : str
        As ``lug:50 mm² × M8``.
    prices : Mapping
        The price list by key.

    Returns
    -------
    Price or None
        ``lug`` where ``lug:50 mm² × M8`` has none; a fuse's family before main or branch fuses as a whole.
    """
    words = key.split(":")
    names = [":".join(words[:count]) for count in range(len(words), 0, -1)]
    if words[0] == "fuse" and len(words) > 1:
        names.insert(-1, "fuse:main" if words[1] in MAIN_FAMILIES else "fuse:branch")
    return next((prices[name] for name in names if name in prices), None)


def shopping(
    plan: Plan, cut: CutList, prices: Mapping[str, Price], shelf: Mapping[str, float] | None = None
) -> list[ShopLine]:
    """All that is bought by the piece or the metre, wire apart.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.
    cut : CutList
        Its pieces.
    prices : Mapping
        The price list by key.
    shelf : Mapping, optional
        What is there already, by key.

    Returns
    -------
    list of ShopLine
        Group by group. Whole pieces; lengths to a tenth of a metre.
    """
    plan, shelf = layout_of(plan).plan, shelf or {}
    supplies = {row["kind"]: row for row in load_table("supplies").rows}
    found = []
    wanted = [*_ends(cut), *_fuses(plan), *_ways(plan, cut), *_parts(plan, cut)]
    for one in wanted:
        row = supplies.get(one.key.partition(":")[0]) if one.group not in ("parts", "devices") else None
        unit = row["unit"] if row is not None else "piece"
        spare = max(float(row["spare_frac"]) * one.amount, float(row["spare_least"])) if row is not None else 0.0
        spare = math.ceil(spare - 1e-9) if unit == "piece" else math.ceil(10 * spare - 1e-9) / 10
        whole = one.amount + spare
        have = min(whole, shelf.get(one.key, 0.0)) if one.group != "parts" else 0.0
        buy = whole - have
        buy = float(math.ceil(buy - 1e-9)) if unit == "piece" else round(math.ceil(10 * buy - 1e-6) / 10, 1)
        price = price_of(one.key, prices)
        paid = price.price * one.each if price is not None else None
        found.append(
            ShopLine(
                key=one.key,
                group=one.group,
                what=one.what,
                unit=unit,
                needed=one.amount,
                spare=float(spare),
                on_shelf=have,
                buy=buy,
                price=paid,
                cost=round(buy * paid, 2) if paid is not None else None,
                supplier=price.supplier if price is not None else "",
                price_key=price.key if price is not None else "",
            )
        )
    order = [group for group, _ in GROUPS]
    return sorted(found, key=lambda line: order.index(line.group))
