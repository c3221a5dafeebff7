"""What every printed page has in common: fonts, size, head and foot with job, revision, date, practice, caution."""

from __future__ import annotations

import io
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cache
from typing import Any, Literal

from reportlab.lib import colors
from reportlab.lib.pagesizes import A3, A4, LETTER, landscape
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import BaseDocTemplate, Frame, PageTemplate, Paragraph

from lucernis.core.report import CAUTION
from lucernis.exports.glyphs import draw_right, draw_text, markup, register_fonts

PaperSize = Literal["a4", "a3", "letter"]
_SIZES = {"a4": A4, "a3": A3, "letter": LETTER}
# Short and long side of each paper.
PAGE_MM: dict[PaperSize, tuple[float, float]] = {"a4": (210.0, 297.0), "a3": (297.0, 420.0), "letter": (215.9, 279.4)}
MARGIN_MM = 12
INK = colors.HexColor("#15181b")
RULE = colors.HexColor("#9aa1a8")
SHADE = colors.HexColor("#eef0f2")


@dataclass(frozen=True, slots=True)
class Stamp:
    """What stands on every page."""

    title: str
    job: str
    customer: str
    workshop: str
    revision: int
    date: str
    practice: str


@cache
def style(name: Literal["body", "small", "head", "title", "mono"]) -> ParagraphStyle:
    """Paragraph styles."""
    register_fonts()
    size = {"body": 8.5, "small": 7, "head": 11, "title": 15, "mono": 8.5}[name]
    font = {"head": "TextBold", "title": "TextBold", "mono": "Mono"}.get(name, "Text")
    return ParagraphStyle(name, fontName=font, fontSize=size, leading=size * 1.25, textColor=INK)


def para(
    text: str, name: Literal["body", "small", "head", "title", "mono"] = "body", *, bold: bool = False
) -> Paragraph:
    """A paragraph of plain text."""
    look = style(name)
    inner = markup(text, "TextBold" if bold and look.fontName == "Text" else look.fontName)
    return Paragraph(f"<b>{inner}</b>" if bold else inner, look)


def _decorate(stamp: Stamp, wide: tuple[float, float], *, signed: bool) -> Callable[[Any, Any], None]:
    width, height = wide

    def draw(canvas: Any, document: Any) -> None:
        canvas.saveState()
        canvas.setFillColor(INK)
        right, head, second = width - MARGIN_MM * mm, height - 12 * mm, height - 16.5 * mm
        draw_text(canvas, MARGIN_MM * mm, head, f"{stamp.job} · {stamp.title}", "TextBold", 13)
        line = " · ".join(part for part in (stamp.workshop, stamp.customer) if part)
        draw_text(canvas, MARGIN_MM * mm, second, line, "Text", 8)
        draw_right(canvas, right, head, f"revision {stamp.revision} · {stamp.date}", "Text", 8)
        if stamp.practice:
            draw_right(canvas, right, second, f"practice: {stamp.practice}", "Text", 8)
        canvas.setStrokeColor(RULE)
        canvas.line(MARGIN_MM * mm, height - 18.5 * mm, width - MARGIN_MM * mm, height - 18.5 * mm)
        caution = para(CAUTION, "small")
        _, tall = caution.wrap(width - 40 * mm, 20 * mm)
        caution.drawOn(canvas, MARGIN_MM * mm, 14 * mm - tall)
        canvas.setFont("Text", 8)
        canvas.drawRightString(width - MARGIN_MM * mm, 8 * mm, f"page {document.page}")
        if signed:
            canvas.drawString(
                MARGIN_MM * mm, 6 * mm, "Drawn, date ____________________   Checked, date ____________________"
            )
        canvas.restoreState()

    return draw


def make_pdf(story: Sequence[Any], stamp: Stamp, size: PaperSize, *, wide: bool, signed: bool = False) -> bytes:
    """Lay flowing pieces out on pages with head and foot.

    Parameters
    ----------
    story : sequence
        Pieces of the PDF library.
    stamp : Stamp
        What stands on every page.
    size : str
        ``a4`` or ``letter``.
    wide : bool
        Landscape.
    signed : bool
        With room for who drew and who checked it.

    Returns
    -------
    bytes
        The PDF; the same input gives the same bytes.
    """
    register_fonts()
    page = landscape(_SIZES[size]) if wide else _SIZES[size]
    out = io.BytesIO()
    document = BaseDocTemplate(
        out, pagesize=page, title=f"{stamp.job} · {stamp.title}", author=stamp.workshop, invariant=1
    )
    frame = Frame(MARGIN_MM * mm, 16 * mm, page[0] - 2 * MARGIN_MM * mm, page[1] - 37 * mm, 0, 0, 0, 0)
    document.addPageTemplates([PageTemplate(id="page", frames=[frame], onPage=_decorate(stamp, page, signed=signed))])
    document.build(list(story))
    return out.getvalue()
