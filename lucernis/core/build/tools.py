"""What the workshop's crimping tool does, against what a job asks of it."""

from __future__ import annotations

from collections.abc import Collection

from lucernis.core.build.cut_list import CutList


def missing_dies(cut: CutList, dies: Collection[str]) -> list[str]:
    """Sizes a job has lugs of and the tool has no die for.

    Parameters
    ----------
    cut : CutList
        Its pieces.
    dies : collection of str
        Sizes as the cut list names them, as ``16 mm²``; where it is empty nothing is known of the tool.

    Returns
    -------
    list of str
        Thickest first; none where nothing is known.
    """
    if not dies:
        return []
    known = {"".join(one.lower().split()) for one in dies}
    found: dict[str, float] = {}
    for piece in cut.pieces:
        lugs = any(end.fits.startswith("lug ") for end in (piece.start, piece.finish))
        if lugs and "".join(piece.size.lower().split()) not in known:
            found[piece.size] = piece.area_mm2
    return sorted(found, key=lambda size: -found[size])
