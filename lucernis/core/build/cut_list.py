"""The cut list: every piece of the harness to cut, and what they come to."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

from lucernis.core.harness.harness import harness_of
from lucernis.core.harness.pieces import CutPiece
from lucernis.plan.model import Plan


@dataclass(frozen=True, slots=True)
class WireTotal:
    """All of one size and colour. [m]"""

    size: str
    colour: str
    area_mm2: float
    pieces: int
    total_m: float
    longest_m: float


@dataclass(frozen=True, slots=True)
class EndTotal:
    """So many of one thing that goes on ends, or so much tube. [mm]"""

    what: str
    count: int
    length_mm: float


@dataclass(frozen=True, slots=True)
class CutList:
    """Every piece in the order of the plan, what it comes to, and what is not known yet."""

    pieces: list[CutPiece]
    wires: list[WireTotal]
    ends: list[EndTotal]
    guessed: list[str]


def cut_list(plan: Plan) -> CutList:
    """Every conductor of a plan as pieces to cut.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.

    Returns
    -------
    CutList
        Pieces in the order of the plan; wire by size and colour, ends and tube by their kind; tags of runs whose length
        nobody has measured, which are not to be cut yet.

    Notes
    -----
    ``cut = way + Σ (strip + again)`` over both ends, to the next centimetre; a length typed along the wire's own way
    gets the rule's slack besides. Figures of ends from strip_lengths.csv, studs.csv and heat_shrink.csv.
    """
    return cut_totals(list(harness_of(plan).pieces))


def cut_totals(pieces: list[CutPiece]) -> CutList:
    """A cut list of some pieces.

    Parameters
    ----------
    pieces : list of CutPiece
        In the order they are listed.

    Returns
    -------
    CutList
        With what they come to.
    """
    wires: dict[tuple[float, str, str], list[float]] = {}
    fits, tubes = Counter[str](), Counter[tuple[float, float]]()
    for piece in pieces:
        wires.setdefault((piece.area_mm2, piece.size, piece.colour), []).append(piece.cut_m)
        for end in piece.ends:
            # A splice that joins wires is one joint, not an end of each.
            if not (end.what == "butt splice" and end.part_id):
                fits[end.fits] += 1
            if end.shrink_before_mm is not None and end.shrink_after_mm is not None:
                tubes[(end.shrink_before_mm, end.shrink_after_mm)] += round(end.shrink_length_mm)
    totals = [EndTotal(what, count, 0.0) for what, count in sorted(fits.items())]
    totals += [EndTotal(f"heat-shrink {a:g} to {b:g} mm", 0, float(mm)) for (a, b), mm in sorted(tubes.items())]
    return CutList(
        pieces=pieces,
        wires=[
            WireTotal(size, colour, area, len(some), round(sum(some), 2), max(some))
            for (area, size, colour), some in sorted(wires.items(), reverse=True)
        ],
        ends=totals,
        guessed=list(dict.fromkeys(piece.tag for piece in pieces if piece.guessed)),
    )
