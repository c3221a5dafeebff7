"""What to buy as a table, a workbook and a paper: by group, and by who sells it."""

from __future__ import annotations

import io
from collections import Counter
from collections.abc import Iterable, Sequence
from typing import Any

from openpyxl import Workbook
from openpyxl.cell.cell import TYPE_STRING
from openpyxl.styles import Font
from openpyxl.utils import get_column_letter
from openpyxl.worksheet.worksheet import Worksheet
from reportlab.lib.units import mm
from reportlab.platypus import CondPageBreak, Flowable, Spacer

from lucernis.core.build.buying import WirePurchase
from lucernis.core.build.shopping import GROUPS, ShopLine
from lucernis.core.harness.pieces import CutPiece
from lucernis.exports.paper import PaperSize, Stamp, make_pdf, para
from lucernis.exports.ruled import ruled
from lucernis.exports.tables_csv import written

_HEADS = ("group", "what", "needed", "spare", "on_shelf", "buy", "unit", "price", "cost", "supplier", "key")
_NOBODY = "no supplier named"


def how_bought(one: WirePurchase) -> str:
    """How wire of one size and colour is bought, in words."""
    if one.bought.problem:
        return one.bought.problem
    spools = Counter(cut.length_m for cut in one.bought.spools)
    told = [f"{count} × spool of {length_m:g} m" for length_m, count in sorted(spools.items())]
    if one.bought.by_the_metre:
        told.append(f"{one.metres:.2f} m cut off, {len(one.bought.by_the_metre)} pieces")
    if one.bought.shelf:
        told.append(f"{len(one.bought.shelf)} remnants from the shelf")
    return ", ".join(told)


def shopping_rows(wires: Iterable[WirePurchase], lines: Iterable[ShopLine]) -> list[list[object]]:
    """Every line to buy, wire first, in the order of `_HEADS`."""
    names = dict(GROUPS)
    rows: list[list[object]] = []
    for one in wires:
        bought = round(sum(cut.length_m for cut in one.bought.spools) + one.metres, 2)
        shelf = round(sum(sum(cut.pieces_m) for cut in one.bought.shelf), 2)
        what = f"{one.wire.size} {one.wire.colour}: {how_bought(one)}"
        spare = round(one.metres - sum(one.bought.by_the_metre), 2)
        cost = None if one.bought.problem else round(one.bought.cost, 2)
        key = f"wire:{one.wire.size}"
        rows.append(["Wire", what, one.wire.total_m, spare, shelf, bought, "m", None, cost, one.supplier, key])
    for line in lines:
        rows.append(
            [
                names[line.group], line.what, round(line.needed, 2), line.spare, line.on_shelf, line.buy, line.unit,
                line.price, line.cost, line.supplier, line.key,
            ]
        )  # fmt: skip
    return rows


def shopping_csv(wires: Iterable[WirePurchase], lines: Iterable[ShopLine]) -> bytes:
    """The shopping list as CSV: UTF-8 with a byte-order mark, no cell a formula; empty where there is no price."""
    rows = [["" if cell is None else cell for cell in row] for row in shopping_rows(wires, lines)]
    return written([_HEADS, *rows])


def _sheet(book: Workbook, title: str, heads: Sequence[str], rows: Iterable[Sequence[Any]]) -> None:
    sheet: Worksheet = book.create_sheet(title)
    for column, text in enumerate(heads, start=1):
        sheet.cell(1, column, text).font = Font(bold=True)
    widths = [len(text) for text in heads]
    for at, row in enumerate(rows, start=2):
        for column, value in enumerate(row, start=1):
            cell = sheet.cell(at, column)
            if isinstance(value, str):
                # Set by its kind: a name that begins with = is a name, not a formula.
                cell.value, cell.data_type = value, TYPE_STRING
            else:
                cell.value = value
            widths[column - 1] = max(widths[column - 1], min(60, len(str(value or ""))))
    for column, width in enumerate(widths, start=1):
        sheet.column_dimensions[get_column_letter(column)].width = width + 2
    sheet.freeze_panes = "A2"


def shopping_xlsx(wires: Sequence[WirePurchase], lines: Sequence[ShopLine], pieces: Iterable[CutPiece]) -> bytes:
    """Shopping list, orders by supplier and cut list as a workbook.

    Parameters
    ----------
    wires : sequence of WirePurchase
        Wire as it is bought.
    lines : sequence of ShopLine
        All else.
    pieces : iterable of CutPiece
        Of the cut list.

    Returns
    -------
    bytes
        An XLSX file of three sheets; texts are texts, whatever they begin with.
    """
    book = Workbook()
    book.remove(book.worksheets[0])
    rows = shopping_rows(wires, lines)
    _sheet(book, "To buy", _HEADS, rows)
    orders = [[row[9] or _NOBODY, row[1], row[5], row[6], row[7], row[8]] for row in rows if row[5]]
    _sheet(
        book, "Orders", ("supplier", "what", "buy", "unit", "price", "cost"), sorted(orders, key=lambda r: str(r[0]))
    )
    _sheet(
        book,
        "Cut list",
        ("tag", "leg", "piece", "size", "colour", "cut_m", "end_a", "on_a", "end_b", "on_b"),
        [
            [
                one.tag, one.leg, one.which, one.size, one.colour, one.cut_m,
                one.start.part or one.start.at, one.start.fits, one.finish.part or one.finish.at, one.finish.fits,
            ]
            for one in pieces
        ],
    )  # fmt: skip
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _amount(value: float) -> str:
    return f"{value:g}"


def shopping_pdf(
    wires: Sequence[WirePurchase], lines: Sequence[ShopLine], currency: str, stamp: Stamp, size: PaperSize
) -> bytes:
    """The shopping list on paper, an order for each supplier.

    Parameters
    ----------
    wires : sequence of WirePurchase
        Wire as it is bought.
    lines : sequence of ShopLine
        All else.
    currency : str
        Of the prices; empty where they have none.
    stamp : Stamp
        Head and foot.
    size : str
        ``a4`` or ``letter``.

    Returns
    -------
    bytes
        The PDF, with a box to tick for each line.
    """
    rows = [row for row in shopping_rows(wires, lines) if row[5]]
    suppliers = sorted({str(row[9]) for row in rows}, key=lambda name: (name == "", name))
    story: list[Flowable] = []
    for name in suppliers:
        own = [row for row in rows if str(row[9]) == name]
        story += [CondPageBreak(45 * mm), para(name or _NOBODY.capitalize(), "head"), Spacer(0, 1 * mm)]
        heads = ("For", "What", "Buy", "Each", f"Costs {currency}".strip(), "Got")
        cells = [
            [
                str(row[0]), str(row[1]), f"{_amount(float(str(row[5])))} {row[6]}",
                "" if row[7] is None else f"{float(str(row[7])):.2f}",
                "no price" if row[8] is None else f"{float(str(row[8])):.2f}", "",
            ]
            for row in own
        ]  # fmt: skip
        story.append(
            ruled(heads, cells, (28, 92, 22, 16, 20, 10), size, wide=False, boxes=(5,))
        )  # fmt: skip
        cost = sum(float(str(row[8])) for row in own if row[8] is not None)
        story += [para(f"Together {cost:.2f} {currency}".strip(), bold=True), Spacer(0, 4 * mm)]
    story.append(
        para("Spares are counted in; what is on the shelf is taken off. Usual parts: the one in the hand wins.")
    )
    return make_pdf(story, stamp, size, wide=False)
