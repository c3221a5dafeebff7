"""What is bought where conductors meet away from a terminal: splices, studs, branches of a tab."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from lucernis.core.harness.pieces import BESIDE, CutPiece, Cutter, PieceEnd
from lucernis.plan.model import Joint, Plan

# Where a wire has several tabs or clamps of its own beside the others.
_MANY_TABS = ("busbar", "fuse_block", "joint")


@dataclass(frozen=True, slots=True)
class BoughtJoint:
    """A joint as a part that is bought, and where it goes. `pieces` meet in it."""

    key: str
    what: str
    part: str
    place: str
    pieces: tuple[str, ...]


def _beside(
    plan: Plan, ends: dict[tuple[str, str], list[tuple[CutPiece, PieceEnd]]], cutter: Cutter
) -> list[BoughtJoint]:
    found = []
    for part in plan.parts:
        some = ends.get((part.id, BESIDE), [])
        if len(some) < 2:
            continue
        stud = cutter.meets_on_a_stud(part.id)
        size = some[0][0].size
        thread = some[0][1].stud
        what = f"Insulated stud {thread}, for negatives" if stud else f"butt splice {size}"
        key = f"stud:{thread}" if stud else f"splice:{size}"
        ids = tuple(piece.id for piece, _ in some)
        found.append(BoughtJoint(key, what, part.id, some[0][1].place, ids))
    return found


def joints_of(plan: Plan, pieces: Sequence[CutPiece], cutter: Cutter) -> list[BoughtJoint]:
    """Joints that no part of the plan stands for.

    Parameters
    ----------
    plan : Plan
        As fed.
    pieces : sequence of CutPiece
        All of them.
    cutter : Cutter
        What cut them.

    Returns
    -------
    list of BoughtJoint
        One where negatives meet beside a part that takes none; one where two push-ons would share a tab; one for each
        pair of wires in a splice, of which each wire is an end.
    """
    ends: dict[tuple[str, str], list[tuple[CutPiece, PieceEnd]]] = {}
    for piece in pieces:
        for end in piece.ends:
            if end.part_id:
                ends.setdefault((end.part_id, end.at), []).append((piece, end))
    found = _beside(plan, ends, cutter)
    parts = {part.id: part for part in plan.parts}
    for (part_id, at), some in ends.items():
        part = parts[part_id]
        if at == BESIDE:
            continue
        ids = tuple(piece.id for piece, _ in some)
        if isinstance(part, Joint) and part.form == "splice":
            size = max(some, key=lambda one: one[0].area_mm2)[0].size
            found.append(BoughtJoint(f"splice:{size}", f"butt splice {size}", part_id, some[0][1].place, ids))
        tabs = [one for one in some if one[1].what == "push-on"]
        if part.kind not in _MANY_TABS and len(tabs) > 1:
            found += [
                BoughtJoint("tab", "Tab with two blades, 6.3 mm", part_id, some[0][1].place, ids)
                for _ in range(len(tabs) - 1)
            ]
    return found
