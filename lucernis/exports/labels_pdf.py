"""Labels as PDF: one page a label for strips of 9 to 24 mm, and plates on sheets."""

from __future__ import annotations

import io
from collections.abc import Sequence
from typing import Any, Literal

from reportlab.lib.colors import HexColor
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Flowable, KeepTogether, Spacer, Table, TableStyle

from lucernis.core.build.labels import Plate, WireLabel, plates, wire_labels
from lucernis.core.pictures.connections import wire_tone
from lucernis.core.report import Report
from lucernis.exports.code_drawing import code_rows
from lucernis.exports.glyphs import draw_text, register_fonts, text_width
from lucernis.exports.paper import INK, MARGIN_MM, PAGE_MM, PaperSize, Stamp, make_pdf, para
from lucernis.exports.svg import PRINT
from lucernis.plan.model import Plan

Strip = Literal[9, 12, 19, 24]
STRIPS: tuple[Strip, ...] = (9, 12, 19, 24)
# Type sizes of the lines by the width of the strip [pt]: the tag first. What a strip has no line for goes behind it.
_SIZES: dict[Strip, tuple[float, ...]] = {9: (9.0, 7.0), 12: (10.0, 7.5), 19: (14.0, 9.0, 9.0), 24: (18.0, 11.0, 11.0)}
# A text is no longer than this on one side of a label, however long its names: it is read at a cable. Practice. [mm]
_MOST_MM: dict[Strip, float] = {9: 60.0, 12: 70.0, 19: 90.0, 24: 120.0}
_EDGE_MM = 2.0
_BAND_MM = 2.5


def _face(at: int) -> str:
    return "TextBold" if at == 0 else "Text"


def _shortened(text: str, face: str, size: float, most: float) -> str:
    """A text cut where it grows longer than `most`, with a sign that it is. [pt]"""
    if text_width(text, face, size) <= most:
        return text
    while text and text_width(f"{text}…", face, size) > most:
        text = text[:-1]
    return f"{text.rstrip(' ·,')}…"


def _lines(label: WireLabel, strip: Strip) -> list[str]:
    sizes = _SIZES[strip]
    head, rest = list(label.lines[: len(sizes) - 1]), label.lines[len(sizes) - 1 :]
    most = _MOST_MM[strip] * mm
    return [_shortened(text, _face(at), sizes[at], most) for at, text in enumerate([*head, " · ".join(rest)])]


def _text_width(label: WireLabel, strip: Strip) -> float:
    pairs = zip(_lines(label, strip), _SIZES[strip], strict=True)
    return max(text_width(text, _face(at), size) for at, (text, size) in enumerate(pairs))


def _draw_text(canvas: Any, label: WireLabel, strip: Strip, left: float) -> None:
    sizes = _SIZES[strip]
    leading = 1.12
    tall = sum(sizes) * leading
    y = (strip * mm + tall) / 2
    for at, (text, size) in enumerate(zip(_lines(label, strip), sizes, strict=True)):
        y -= size * leading
        draw_text(canvas, left, y + 0.25 * size, text, _face(at), size)


def draw_code(canvas: Any, text: str, left: float, side: float, height: float) -> None:
    """A QR code as squares on a canvas, upright in the middle of its height. [pt]"""
    rows = code_rows(text)
    cell = side / len(rows)
    top = (height + side) / 2
    for at, row in enumerate(rows):
        for column, dark in enumerate(row):
            if dark:
                canvas.rect(left + column * cell, top - (at + 1) * cell, cell, cell, stroke=0, fill=1)


def strip_pdf(plan: Plan, strip: Strip, link: str = "") -> bytes:
    """Labels for a strip printer: one page each, as long as its text asks.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.
    strip : int
        Width of the strip. [mm]
    link : str
        What a run's id is put behind for its QR code; none where empty. Strips of 19 mm and more have room for one.

    Returns
    -------
    bytes
        The PDF. A flag has its text twice, with the way round the cable between.
    """
    register_fonts()
    out = io.BytesIO()
    canvas = Canvas(out, invariant=1)
    canvas.setTitle(f"{plan.job.name}: labels, {strip} mm")
    height = strip * mm
    coded = bool(link) and strip >= 19
    for label in wire_labels(plan):
        wide = _text_width(label, strip)
        flag = label.kind == "flag"
        gap = (label.wrap_mm + 2 * _EDGE_MM) * mm if flag else 0.0
        code = height - 2 * mm if coded else 0.0
        total = (_BAND_MM + 2 * _EDGE_MM) * mm + wide * (2 if flag else 1) + gap + (code + 1 * mm if coded else 0)
        canvas.setPageSize((total, height))
        canvas.setFillColor(HexColor(PRINT[wire_tone(label.colour)]))
        canvas.setStrokeColor(INK)
        canvas.rect(0, 0, _BAND_MM * mm, height, stroke=1, fill=1)
        canvas.setFillColor(INK)
        left = (_BAND_MM + _EDGE_MM) * mm
        _draw_text(canvas, label, strip, left)
        if flag:
            _draw_text(canvas, label, strip, left + wide + gap)
            canvas.setDash(1, 2)
            for fold in (left + wide + _EDGE_MM * mm, left + wide + gap - _EDGE_MM * mm):
                canvas.line(fold, 0, fold, height)
            canvas.setDash()
        if coded:
            draw_code(canvas, f"{link}{label.run}", total - code - 1 * mm, code, height)
        canvas.showPage()
    if not wire_labels(plan):
        canvas.setPageSize((60 * mm, height))
        canvas.setFont("Text", 7)
        canvas.drawString(2 * mm, height / 2, "No run yet, so no label.")
        canvas.showPage()
    canvas.save()
    return out.getvalue()


def _plate(plate: Plate) -> Flowable:
    body: list[Flowable] = [para(plate.title, "title")]
    body += [Spacer(0, 2 * mm), *(para(line, "head") for line in plate.lines)]
    if plate.warning:
        body += [Spacer(0, 2 * mm), para(plate.warning, "body", bold=True)]
    table = Table([[body]], colWidths=[88 * mm])
    table.setStyle(
        TableStyle(
            [("BOX", (0, 0), (-1, -1), 1.2, INK), ("LEFTPADDING", (0, 0), (-1, -1), 8),
             ("TOPPADDING", (0, 0), (-1, -1), 6), ("BOTTOMPADDING", (0, 0), (-1, -1), 10)]
        )
    )  # fmt: skip
    return table


def plates_pdf(plan: Plan, report: Report, stamp: Stamp, size: PaperSize) -> bytes:
    """Plates of batteries, switches and blocks, to be cut out.

    Parameters
    ----------
    plan : Plan
        The plan.
    report : Report
        Not needed; papers are all made alike.
    stamp : Stamp
        Head and foot.
    size : str
        ``a4`` or ``letter``.

    Returns
    -------
    bytes
        The PDF, two plates a row.
    """
    made: Sequence[Flowable] = [_plate(one) for one in plates(plan)]
    room = (PAGE_MM[size][0] - 2 * MARGIN_MM) * mm
    story: list[Flowable] = [para("Cut out, laminate, fix where one sees it. The ways of a block are on the fuse map.")]
    for at in range(0, len(made), 2):
        pair = [*made[at : at + 2], ""][:2]
        row = Table([pair], colWidths=[room / 2] * 2)
        row.setStyle(TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 0)]))
        story.append(KeepTogether([Spacer(0, 3 * mm), row]))
    return make_pdf(story, stamp, size, wide=False)
