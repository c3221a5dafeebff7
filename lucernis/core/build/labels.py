"""What is written on a wire's ends, on lids, on switches and on the battery's box."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from lucernis.core.circuit.live_from import listed, live_from
from lucernis.core.circuit.terminals import end_terminal, point
from lucernis.core.harness.harness import harness_of
from lucernis.core.layout.fill import outside_mm
from lucernis.plan.model import Battery, FuseBlock, Part, Plan, Switch

# From this outside diameter on no sleeve is made that goes over a lug: a flag is folded round it. Practice. [mm]
FLAG_FROM_MM = 9.0
# What of a label sticks on itself once it is round. Practice. [mm]
OVERLAP_MM = 5.0
_OUTS = ("out", "out_b")
_CHEMISTRY = {"lfp": "lithium", "agm": "lead, AGM", "gel": "lead, gel", "flooded": "lead, filled"}


@dataclass(frozen=True, slots=True)
class WireLabel:
    """A label of one end: its lines, the largest first. `wrap_mm` goes once round the wire and sticks. [mm]"""

    piece: str
    run: str
    end: Literal["A", "B"]
    kind: Literal["sleeve", "flag"]
    lines: tuple[str, str, str]
    at: str
    colour: str
    outside_mm: float
    wrap_mm: float


@dataclass(frozen=True, slots=True)
class Plate:
    """A plate of a part: a title, and lines in the order they are read."""

    part: str
    title: str
    lines: tuple[str, ...]
    warning: str


def wrap_mm(around_mm: float) -> float:
    """How long a label is that goes once round a wire.

    Parameters
    ----------
    around_mm : float
        Outside diameter, > 0. [mm]

    Returns
    -------
    float
        ``π d`` and what sticks on itself, to the next millimetre. [mm]
    """
    return float(math.ceil(math.pi * around_mm + OVERLAP_MM - 1e-9))


def wire_labels(plan: Plan) -> list[WireLabel]:
    """Two labels for each piece, in the order of the cut list.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.

    Returns
    -------
    list of WireLabel
        Spares too. Diameters in mm.
    """
    found = []
    for piece in harness_of(plan).pieces:
        around = outside_mm(piece.area_mm2)
        ends: tuple[tuple[Literal["A", "B"], str, str], ...] = (
            ("A", piece.start.label, piece.start.part or piece.start.at),
            ("B", piece.finish.label, piece.finish.part or piece.finish.at),
        )
        for name, label, at in ends:
            first, size, far = label.split(" · ", maxsplit=2)
            found.append(
                WireLabel(
                    piece=piece.id,
                    run=piece.run,
                    end=name,
                    kind="flag" if around >= FLAG_FROM_MM else "sleeve",
                    lines=(f"{first} {piece.leg}", size, far),
                    at=at,
                    colour=piece.colour,
                    outside_mm=round(around, 1),
                    wrap_mm=wrap_mm(around),
                )
            )
    return found


def _battery(part: Battery, plan: Plan, amps: str) -> Plate:
    volts = part.rated_v or plan.nominal_v
    warning = "Disconnect the negative first, reconnect it last. Tools insulated, rings off."
    if part.chemistry != "lfp":
        warning += " Gives off hydrogen while it is charged: no spark, no flame."
    what = f"{volts:g} V, {part.capacity_ah:g} Ah, {_CHEMISTRY.get(part.chemistry, part.chemistry)}"
    return Plate(part.id, part.name, (what, f"Fused by {amps}") if amps else (what,), warning)


def _behind(plan: Plan, part: Part) -> list[str]:
    """Names of what a switch feeds, one run further."""
    names = {one.id: one.name for one in plan.parts}
    return [
        names[run.finish.part]
        for run in plan.runs
        if run.start.part == part.id and run.legs != "negative" and end_terminal(part, run.start, "start") in _OUTS
    ]


def plates(plan: Plan) -> list[Plate]:
    """A plate for each battery, switch and fuse block.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.

    Returns
    -------
    list of Plate
        In the order of the plan; the ways of a block are on the fuse map.
    """
    harness = harness_of(plan)
    plan = harness.plan
    found = []
    for part in plan.parts:
        if isinstance(part, Battery):
            own = [one for one in harness.holders.values() if one.part == part.id]
            found.append(_battery(part, plan, ", ".join(f"{one.what}, {one.tag}" for one in own)))
        elif isinstance(part, Switch):
            behind = ", ".join(_behind(plan, part)) or "nothing yet"
            others = _live_behind(plan, part)
            told = (f"{part.rated_a:g} A" if part.rated_a else "", f"Off stops: {behind}")
            warning = ""
            if others:
                warning = (
                    f"Off is not dead: {listed(others)} can keep what is behind it live. Take their fuses out too."
                )
            elif part.use == "isolator":
                told = (told[0], f"Off: everything behind it is dead: {behind}")
            found.append(Plate(part.id, part.name, tuple(one for one in told if one), warning))
        elif isinstance(part, FuseBlock):
            feed = next((run for run in plan.runs if run.finish.part == part.id and run.legs != "negative"), None)
            made = next((one for one in harness.holders.values() if feed is not None and one.run == feed.id), None)
            lines = [f"{plan.nominal_v} V, {part.ways} ways"]
            if feed is not None:
                lines.append(f"Fed by {feed.tag}{f' behind {made.what}, {made.where}' if made is not None else ''}")
            found.append(
                Plate(part.id, part.name, tuple(lines), "A fuse that blew has a reason: find it first. Same rating.")
            )
    return found


def _live_behind(plan: Plan, part: Switch) -> list[str]:
    """Names of the sources that reach the far side of a switch while it is off."""
    reaching = live_from(plan, {part.id})
    outs = {point(part.id, name) for name in _OUTS}
    names = {one.id: one.name for one in plan.parts}
    return list(dict.fromkeys(names[source] for out in sorted(outs) for source in reaching.get(out, ())))
