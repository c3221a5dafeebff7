"""What changed in the cut list since it was printed: a difference to write on the paper, not a new list."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from lucernis.core.harness.pieces import CutPiece, PieceEnd


@dataclass(frozen=True, slots=True)
class CutChange:
    """One piece that is new, no longer there, or another now. `was` and `now` are what differs, in words."""

    id: str
    tag: str
    leg: str
    kind: Literal["new", "gone", "other"]
    was: str
    now: str


def _end(end: PieceEnd) -> str:
    return f"{end.fits} at {end.part or end.at}"


def _told(piece: CutPiece) -> dict[str, str]:
    return {
        "wire": f"{piece.size} {piece.colour}",
        "cut": f"{piece.cut_m:.2f} m",
        "tag": piece.tag,
        "end A": _end(piece.start),
        "end B": _end(piece.finish),
    }


def cut_changes(before: Iterable[CutPiece], now: Iterable[CutPiece]) -> list[CutChange]:
    """What differs between two cut lists.

    Parameters
    ----------
    before : iterable of CutPiece
        As printed.
    now : iterable of CutPiece
        As it stands.

    Returns
    -------
    list of CutChange
        In the order of the list as it stands, what is gone at its end. Lengths in metres.
    """
    old = {piece.id: piece for piece in before}
    found = []
    for piece in now:
        was = old.pop(piece.id, None)
        here = _told(piece)
        if was is None:
            found.append(CutChange(piece.id, piece.tag, piece.leg, "new", "", ", ".join([here["wire"], here["cut"]])))
            continue
        there = _told(was)
        other = [name for name in here if here[name] != there[name]]
        if other:
            found.append(
                CutChange(
                    piece.id, piece.tag, piece.leg, "other",
                    ", ".join(there[name] for name in other), ", ".join(here[name] for name in other),
                )
            )  # fmt: skip
    return found + [
        CutChange(piece.id, piece.tag, piece.leg, "gone", f"{piece.size} {piece.colour}, {piece.cut_m:.2f} m", "")
        for piece in old.values()
    ]
