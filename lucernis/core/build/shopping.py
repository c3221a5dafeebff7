"""Everything to buy for a plan besides its wire: counted, with what is on the shelf taken off and spares added."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Literal

from lucernis.core.build.cut_list import CutList
from lucernis.core.build.landing import BOOTED
from lucernis.core.harness.harness import Harness, harness_of
from lucernis.core.harness.openings import is_sealed, needs_gland, needs_grommet
from lucernis.core.layout.channels import measured_channels
from lucernis.core.layout.fill import bundle_mm, grommet_for, inside_needed_mm, outside_mm
from lucernis.core.power.costs import MAIN_FAMILIES, part_amount
from lucernis.plan.layout import Crossing
from lucernis.plan.model import Joint, Load, Panel, Plan
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
# Nobody sets clamps closer than this. [m]
_LEAST_CLAMP_M = 0.02
# Parts that are screwed down by themselves.
_SCREWED = ("fuse_block", "busbar", "switch", "charger", "relay", "isolator", "shunt", "diode")
# What a splice or a cap is of is counted among the ends.
_BOUGHT_AS_ENDS = ("splice", "cap")
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


def _fuses(harness: Harness) -> Iterator[_Wanted]:
    found: Counter[tuple[str, str, str, float]] = Counter()
    holders: Counter[tuple[str, str]] = Counter()
    for one in harness.holders.values():
        base = "fuse:main" if one.family in MAIN_FAMILIES else "fuse:branch"
        found[(base, one.family, one.label, one.rating_a)] += one.count
        if one.mounting != "way":
            # A sealed holder is another thing on the shelf than an open one.
            kind, words = (":sealed", ", sealed") if one.sealed else ("", "")
            holders[(f"holder:{one.family}{kind}", f"Holder for {one.label}{words}")] += one.count
    for (_, family, label, rating_a), count in sorted(found.items()):
        yield _Wanted(f"fuse:{family}:{rating_a:g}", "fuses", f"{label} {rating_a:g} A", count)
    for (key, label), count in sorted(holders.items()):
        yield _Wanted(key, "fuses", label, count)


def _joints(harness: Harness) -> Iterator[_Wanted]:
    """Joints no part stands for, and what leads take that no run stands for."""
    joints = Counter((one.key, one.what) for one in harness.joints)
    for (key, what), count in sorted(joints.items()):
        yield _Wanted(key, "ends", what[0].upper() + what[1:], count)
    extra: Counter[tuple[str, str]] = Counter()
    for lead in harness.leads:
        for key, what, count in lead.bought:
            extra[(key, what)] += count
    for (key, what), count in sorted(extra.items()):
        group: Group = "fuses" if key.startswith(("fuse", "holder")) else "ends"
        yield _Wanted(f"{key}:lead" if group == "fuses" else key, group, f"{what}, for a lead", count)


def _ways(harness: Harness) -> Iterator[_Wanted]:
    plan, measured = harness.plan, measured_channels(harness.plan)
    grommets: Counter[float] = Counter()
    tubes: dict[tuple[str, float], float] = {}
    clamps = ties = glands = seals = 0

    def hole(one: Crossing, wires: list[float]) -> None:
        nonlocal glands, seals
        if not wires:
            return
        made = grommet_for(one.hole_mm or inside_needed_mm(wires, "hole"))
        if made is not None and needs_grommet(one):
            grommets[made[0]] += 1
        glands += needs_gland(one)
        seals += is_sealed(one)

    for channel in plan.channels:
        # What comes back through a channel lies in it twice.
        wires = [outside_mm(piece.area_mm2) for piece in harness.in_channel[channel.id]]
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
        clamps += math.ceil(length_m / max(channel.clamp_m or _CLAMP_M, _LEAST_CLAMP_M)) + 1
    for run in plan.runs:
        for one in run.passes:
            hole(one, [outside_mm(piece.area_mm2) for piece in harness.through_run[run.id]])
    for inside_mm, count in sorted(grommets.items()):
        yield _Wanted(f"grommet:{inside_mm:g}", "holes", f"Grommet, {inside_mm:g} mm inside", count)
    if glands:
        yield _Wanted("gland", "holes", "Roof entry or gland", glands)
    if seals:
        yield _Wanted("sealant", "holes", "Sealant, for so many holes", seals)
    for (kind, inside_mm), length_m in sorted(tubes.items()):
        name = "Conduit" if kind == "conduit" else "Slit loom"
        yield _Wanted(f"{kind}:{inside_mm:g}", "ways", f"{name}, {inside_mm:g} mm inside", round(length_m, 2))
    if clamps:
        yield _Wanted("clamp", "ways", "Clamp", clamps)
    if ties:
        yield _Wanted("tie", "ways", "Cable tie", ties)
    if harness.pieces:
        yield _Wanted("sleeve", "labels", "Sleeve label", 2 * len(harness.pieces))


def _fixings(plan: Plan) -> Iterator[_Wanted]:
    """What holds parts: straps of batteries, brackets of panels, screws of the rest."""
    batteries = sum(part.kind == "battery" and getattr(part, "use", "") != "starter" for part in plan.parts)
    panels = sum(part.series * part.strings for part in plan.parts if isinstance(part, Panel))
    screwed = sum(part.kind in _SCREWED for part in plan.parts)
    if batteries:
        yield _Wanted("strap", "ways", "Strap or bracket of a battery", batteries)
    if panels:
        yield _Wanted("bracket", "ways", "Set of brackets for a panel", panels)
    if screwed:
        yield _Wanted("screw", "ways", "Screw, for parts", 4 * screwed)


def _parts(harness: Harness) -> Iterator[_Wanted]:
    plan = harness.plan
    kinds = {part.id: part for part in plan.parts}
    booted = {
        (end.part_id, end.at)
        for piece in harness.pieces
        for end in piece.ends
        if piece.leg[0] == "+" and end.stud and end.part_id and kinds[end.part_id].kind in BOOTED
    }
    boots = len(booted)
    bars = sum(part.kind == "busbar" for part in plan.parts)
    if bars:
        yield _Wanted("cover", "covers", "Busbar cover", bars)
    if boots:
        yield _Wanted("boot", "covers", "Boot over a positive stud", boots)
    for part in plan.parts:
        if part.kind in _THERE_ALREADY or getattr(part, "use", "") == "starter":
            continue
        if isinstance(part, Joint) and part.form in _BOUGHT_AS_ENDS:
            continue
        amount = part_amount(part, plan)
        if amount is not None:
            key, each, unit = amount
            told = part.name if unit == "piece" else f"{part.name}, {each:g} {'ways' if unit == 'way' else unit}"
            panels = part.series * part.strings if isinstance(part, Panel) else 1
            if panels > 1:
                told = f"{part.name}, {each / panels:g} {unit} each"
            yield _Wanted(key, "parts", told, panels, each / panels)
        elif isinstance(part, Load):
            yield _Wanted("device", "devices", part.name, part.count)


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
    harness, shelf = harness_of(plan), shelf or {}
    supplies = {row["kind"]: row for row in load_table("supplies").rows}
    found = []
    wanted = [
        *_ends(cut), *_joints(harness), *_fuses(harness), *_ways(harness), *_fixings(harness.plan), *_parts(harness),
    ]  # fmt: skip
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
