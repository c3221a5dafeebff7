"""A table as all papers draw it: ruled lines, shaded head, boxes to tick or write in."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from reportlab.lib.units import mm
from reportlab.platypus import Table, TableStyle

from lucernis.exports.paper import INK, MARGIN_MM, PAGE_MM, RULE, SHADE, PaperSize, para


def ruled(
    heads: Sequence[str],
    rows: Sequence[Sequence[Any]],
    widths: Sequence[float],
    size: PaperSize,
    *,
    wide: bool,
    boxes: Sequence[int] = (),
) -> Table:
    """Rows under a head that is repeated on each page.

    Parameters
    ----------
    heads : sequence of str
        Words of the head.
    rows : sequence of sequence
        Cells; text is set as a paragraph.
    widths : sequence of float
        Of the columns, by their share of the page.
    size : str
        ``a4`` or ``letter``.
    wide : bool
        Landscape.
    boxes : sequence of int
        Columns drawn as boxes, counted from 0.

    Returns
    -------
    Table
        As wide as the page's frame.
    """
    room = (PAGE_MM[size][1] if wide else PAGE_MM[size][0]) - 2 * MARGIN_MM
    cells = [[para(text, bold=True) for text in heads]]
    cells += [[para(cell) if isinstance(cell, str) else cell for cell in row] for row in rows]
    table = Table(cells, colWidths=[one * room / sum(widths) * mm for one in widths], repeatRows=1, hAlign="LEFT")
    style: list[tuple[Any, ...]] = [
        ("VALIGN", (0, 0), (-1, -1), "TOP"),
        ("LINEBELOW", (0, 0), (-1, -1), 0.4, RULE),
        ("BACKGROUND", (0, 0), (-1, 0), SHADE),
        ("LEFTPADDING", (0, 0), (-1, -1), 2),
        ("RIGHTPADDING", (0, 0), (-1, -1), 2),
        ("TOPPADDING", (0, 0), (-1, -1), 2),
        ("BOTTOMPADDING", (0, 0), (-1, -1), 3),
    ]
    for column in boxes:
        style += [("BOX", (column, 1), (column, -1), 0.8, INK), ("INNERGRID", (column, 1), (column, -1), 0.8, INK)]
    table.setStyle(TableStyle(style))
    return table
