"""What lands where: every terminal of a part with each wire on it."""

from __future__ import annotations

from dataclasses import dataclass

from lucernis.core.build.steps import torque_text
from lucernis.core.harness.harness import harness_of
from lucernis.core.harness.pieces import CutPiece, PieceEnd, one_pole
from lucernis.plan.model import FuseBlock, Part, Plan, Switch
from lucernis.plan.terminals import has_legs, terminals

# Numbers on the case of a relay, DIN 72552, from memory.
_RELAY_PINS = {"in +": "30", "out +": "87", "coil +": "86", "coil −": "85"}
_NEGATIVE = "−"
# Positive studs that get a boot over them.
BOOTED = ("battery", "alternator", "switch", "isolator")


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
    on_stud: int
    layer: int
    """Which stud of the part, and which lug on it from the bottom; 0 where it is on none."""


@dataclass(frozen=True, slots=True)
class TerminalAt:
    """A terminal with its pin where the part has one printed on it, and the wires that land there."""

    name: str
    pin: str
    function: str
    torque: str
    fuse: str
    """What stands in a way or on a post there; empty where nothing does."""
    cover: str
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
    found = [f"{name} +" for name in names] if positive else []
    if not names:
        found = ["+"] if positive else []
        return [*found, _NEGATIVE] if negative else found
    if not positive:
        return [f"{name} {_NEGATIVE}" for name in names]
    if not one_pole(part) and negative:
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
    harness = harness_of(plan)
    fed = harness.plan
    places = {place.id: place.name for place in fed.places}
    at: dict[str, dict[str, list[tuple[WireAt, PieceEnd]]]] = {part.id: {} for part in fed.parts}
    at |= {one.key: {} for one in harness.in_line}
    for piece in harness.pieces:
        for end in piece.ends:
            wire = WireAt(
                piece.id, end.run, piece.tag, piece.leg, piece.colour, piece.size, piece.area_mm2, end.fits,
                _far(piece, end), end.label, end.on_stud, end.layer,
            )  # fmt: skip
            # Wires at a holder are the one that is fed and the one that goes on.
            name = end.at if end.part_id else "fed side" if _comes_in(piece, end) else "load side"
            at[end.part_id or end.holder].setdefault(name, []).append((wire, end))
    fuses = {(one.part, one.way): one.what for one in harness.holders.values() if one.mounting == "way"}
    posts = {(one.part, one.run): one.what for one in harness.holders.values() if one.mounting == "post"}
    found = []
    for part in fed.parts:
        names = _own_terminals(part)
        names += [name for name in at[part.id] if name not in names]
        rows = []
        for name in names:
            landed = at[part.id].get(name, [])
            way = int(name.removeprefix("way ")) if name.startswith("way ") else None
            fuse = fuses.get((part.id, way), "") if way is not None else ""
            on_post = [
                posts[part.id, wire.run] for wire, _ in landed if (part.id, wire.run) in posts and wire.leg[0] == "+"
            ]
            pin = _RELAY_PINS.get(name, "") if part.kind == "relay" else ""
            rows.append(_terminal(part, name, pin, fuse or ", ".join(on_post), landed))
        found.append(
            PartLanding(part.id, part.name, part.tag, part.kind, places.get(part.place or "", ""), tuple(rows))
        )
    for one in harness.in_line:
        sides = [_terminal(None, name, "", one.what if name == "fed side" else "", at[one.key].get(name, []))
                 for name in ("fed side", "load side")]  # fmt: skip
        title = f"{one.name[0].upper()}{one.name[1:]} of {one.tag}, {one.where}"
        found.append(PartLanding(one.key, title, one.tag, "holder", one.place, tuple(sides)))
    return found


def _comes_in(piece: CutPiece, end: PieceEnd) -> bool:
    """Whether a piece brings current to a holder: it ends there with its far end."""
    return end is piece.finish


def _terminal(part: Part | None, name: str, pin: str, fuse: str, landed: list[tuple[WireAt, PieceEnd]]) -> TerminalAt:
    """A terminal with what lands on it, what lies at the bottom of its stud first."""
    studded = next((end for _, end in landed if end.stud), None)
    torque = torque_text(studded.stud, studded.torque_nm) if studded is not None else ""
    wires = tuple(wire for wire, _ in sorted(landed, key=lambda one: (one[0].on_stud, one[0].layer)))
    cover = ""
    if part is not None and studded is not None and any(wire.leg[0] == "+" for wire in wires):
        cover = "boot" if part.kind in BOOTED else "cover" if part.kind == "busbar" else ""
    return TerminalAt(name, pin, _function(part, name) if part is not None else "", torque, fuse, cover, wires)
