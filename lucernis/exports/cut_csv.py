"""The cut list as a table, and the texts of both sleeves of every piece."""

from __future__ import annotations

from collections.abc import Iterable

from lucernis.core.build.cut_list import cut_list
from lucernis.core.build.labels import wire_labels
from lucernis.exports.tables_csv import written
from lucernis.plan.model import Plan


def cut_list_csv(plan: Plan) -> bytes:
    """Every piece with both its ends.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.

    Returns
    -------
    bytes
        UTF-8 with a byte-order mark, CRLF; lengths in metres, the rest in millimetres.
    """
    channels = {one.id: one.name for one in plan.channels}
    rows: list[Iterable[object]] = [
        (
            "tag", "leg", "piece", "colour", "size", "cut_m", "measured", "end_a", "at_a", "place_a", "on_a",
            "strip_a_mm", "tube_a", "end_b", "at_b", "place_b", "on_b", "strip_b_mm", "tube_b", "channels",
        )
    ]  # fmt: skip
    for one in cut_list(plan).pieces:
        row: list[object] = [
            one.tag,
            one.leg,
            one.which,
            one.colour,
            one.size,
            one.cut_m,
            "no" if one.guessed else "yes",
        ]
        for end in (one.start, one.finish):
            tube = f"{end.shrink_before_mm:g} mm" if end.shrink_before_mm is not None else ""
            row += [end.part, end.at, end.place, end.fits, end.strip_mm, tube]
        rows.append([*row, "; ".join(channels.get(name, name) for name in one.channels)])
    return written(rows)


def labels_csv(plan: Plan) -> bytes:
    """A sleeve for each end of every piece, for a program that prints them.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.

    Returns
    -------
    bytes
        UTF-8 with a byte-order mark, CRLF; `outside_mm` is the wire's, for the size of the sleeve,
        `wrap_mm` goes once round it.
    """
    rows: list[Iterable[object]] = [("tag", "end", "text", "at", "outside_mm", "wrap_mm", "kind")]
    for one in wire_labels(plan):
        tag = one.lines[0].split()[0] + one.lines[0].split()[-1]
        text = " · ".join((one.lines[0].rpartition(" ")[0], *one.lines[1:]))
        rows.append((tag, one.end, text, one.at, one.outside_mm, one.wrap_mm, one.kind))
    return written(rows)
