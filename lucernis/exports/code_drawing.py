"""QR codes: as rows of cells, and as a drawing for a page."""

from __future__ import annotations

import qrcode
from reportlab.graphics.shapes import Drawing, Rect
from reportlab.lib.units import mm
from reportlab.platypus import Flowable

from lucernis.exports.paper import INK


def code_rows(text: str) -> list[list[bool]]:
    """A QR code, one cell of quiet around it, up to a seventh of it may be lost.

    Parameters
    ----------
    text : str
        What it says.

    Returns
    -------
    list of list of bool
        Rows from the top, True where a cell is dark.
    """
    made = qrcode.QRCode(border=1, error_correction=qrcode.constants.ERROR_CORRECT_M)
    made.add_data(text)
    made.make(fit=True)
    return [[bool(cell) for cell in row] for row in made.get_matrix()]


def code_drawing(text: str, side_mm: float = 24.0) -> Flowable:
    """A QR code as a drawing.

    Parameters
    ----------
    text : str
        What it says.
    side_mm : float
        Its side. [mm]

    Returns
    -------
    Flowable
        For a page.
    """
    rows = code_rows(text)
    side, cell = side_mm * mm, side_mm * mm / len(rows)
    out = Drawing(side, side)
    for at, row in enumerate(rows):
        for column, dark in enumerate(row):
            if dark:
                out.add(Rect(column * cell, side - (at + 1) * cell, cell, cell, fillColor=INK, strokeColor=None))
    return out
