"""What lands where: every terminal of a part with each wire on it."""

from __future__ import annotations

from dataclasses import dataclass

from lucernis.core.build.cut_list import CutPiece, PieceEnd, cut_list
from lucernis.core.build.steps import torque_text
from lucernis.core.layout.laid import layout_of
from lucernis.plan.model import FuseBlock, Part, Plan, Switch
from lucernis.plan.terminals import has_legs, terminals

# Numbers on the case of a relay, DIN 72552, from memory.
_RELAY_PINS = {"in +": "30", "out +": "87", "coil +": "86", "coil −": "85"}
_NEGATIVE = "−"


@dataclass(frozen=True, slots=True)
class WireAt:
    """A wire on a terminal: what it ends in there, and where its other end is."""

    piece: str
    run: str
    tag: str
    leg: str
    colour: str
    size: str
    area_mm2: float
    fits: str
    far: str
    label: str


@dataclass(frozen=True, slots=True)
class TerminalAt:
    """A terminal with its pin where the part has one printed on it, and the wires that land there."""

    name: str
    pin: str
    function: str
    torque: str
    wires: tuple[WireAt, ...]


@dataclass(frozen=True, slots=True)
class PartLanding:
    """A part with its terminals in their order."""

    part: str
    name: str
    tag: str
    kind: str
    place: str
    terminals: tuple[TerminalAt, ...]


def _own_terminals(part: Part) -> list[str]:
    """Terminals a part has whether or not a wire lands there."""
    positive, negative = has_legs(part)
    if isinstance(part, FuseBlock):
        found = ["+", *(f"way {way}" for way in range(1, part.ways + 1))]
        return [*found, "negative bar"] if part.negative_bar else found
    names = terminals(part)
    one_pole = part.kind in ("switch", "relay", "diode", "keyed_feed")
    found = [f"{name} +" for name in names] if positive else []
    if not names:
        found = ["+"] if positive else []
        return [*found, _NEGATIVE] if negative else found
    if not positive:
        return [f"{name} {_NEGATIVE}" for name in names]
    if not one_pole and negative:
        found += [f"{name} {_NEGATIVE}" for name in names]
    elif "coil" in names:
        found.append(f"coil {_NEGATIVE}")
    return found


def _far(piece: CutPiece, end: PieceEnd) -> str:
    other = piece.finish if end is piece.start else piece.start
    where = f", {other.place}" if other.place and other.place != end.place else ""
    return f"{other.part}, {other.at}{where}" if other.part else other.at


def _function(part: Part, name: str) -> str:
    if isinstance(part, FuseBlock):
        return "feed" if name == "+" else "negatives" if name == "negative bar" else ""
    kinds = {"in": "supply", "out": "switched" if isinstance(part, Switch) else "out", "coil": "coil", "pv": "panels"}
    return kinds.get(name.split()[0], "")


def landings(plan: Plan) -> list[PartLanding]:
    """Every part with what lands on its terminals.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.

    Returns
    -------
    list of PartLanding
        In the order of the plan; each end of each piece that ends at a part stands once. Terminals nothing lands on are
        there without wires. Areas in mm².
    """
    laid = layout_of(plan).plan
    places = {place.id: place.name for place in laid.places}
    at: dict[str, dict[str, list[tuple[WireAt, PieceEnd]]]] = {part.id: {} for part in laid.parts}
    for piece in cut_list(plan).pieces:
        for end in (piece.start, piece.finish):
            if end.part_id:
                wire = WireAt(
                    piece.id, end.run, piece.tag, piece.leg, piece.colour, piece.size, piece.area_mm2, end.fits,
                    _far(piece, end), end.label,
                )  # fmt: skip
                at[end.part_id].setdefault(end.at, []).append((wire, end))
    found = []
    for part in laid.parts:
        names = _own_terminals(part)
        names += [name for name in at[part.id] if name not in names]
        rows = []
        for name in names:
            landed = at[part.id].get(name, [])
            studded = next((end for _, end in landed if end.stud), None)
            pin = _RELAY_PINS.get(name, "") if part.kind == "relay" else ""
            torque = torque_text(studded.stud, studded.torque_nm) if studded is not None else ""
            rows.append(TerminalAt(name, pin, _function(part, name), torque, tuple(wire for wire, _ in landed)))
        found.append(
            PartLanding(part.id, part.name, part.tag, part.kind, places.get(part.place or "", ""), tuple(rows))
        )
    return found
