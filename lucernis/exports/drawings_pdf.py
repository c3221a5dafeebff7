"""The pictures on paper: roof-off plan, step-down drawing, state board, fuse window and pinch chart of each circuit."""

from __future__ import annotations

from collections.abc import Iterator

from reportlab.graphics.shapes import Drawing as Sheet
from reportlab.graphics.shapes import Group, Path, Rect, String
from reportlab.lib import colors
from reportlab.platypus import Flowable, KeepTogether, PageBreak, Spacer, Table

from lucernis.core.build.landing import landings
from lucernis.core.faults.study import study_faults
from lucernis.core.layout.laid import laid_out, layout_of
from lucernis.core.pictures.board import state_board
from lucernis.core.pictures.connections import connection_drawing
from lucernis.core.pictures.drawing import Drawing, Stroke, Words
from lucernis.core.pictures.fuse_window import fuse_window
from lucernis.core.pictures.pinch import pinch_chart
from lucernis.core.pictures.roof_off import roof_off
from lucernis.core.pictures.step_down import step_down_map
from lucernis.core.pictures.wiring import wiring_sheet, wiring_sheets
from lucernis.core.report import Report
from lucernis.core.sizing.sized import sized_plan
from lucernis.exports.glyphs import pieces_of, register_fonts, text_width
from lucernis.exports.paper import MARGIN_MM, PAGE_MM, PaperSize, Stamp, make_pdf, para
from lucernis.exports.ruled import ruled
from lucernis.exports.svg import PRINT
from lucernis.exports.tiles import in_sheets
from lucernis.plan.model import Load, Plan

_POINTS_PER_MM = 72 / 25.4


def _colour(tone: str) -> colors.Color | None:
    value = PRINT[tone]  # type: ignore[index]
    return None if value == "none" else colors.HexColor(value)


def _path(stroke: Stroke, height: float) -> Path:
    path = Path(
        strokeColor=_colour(stroke.tone),
        strokeWidth=stroke.width,
        fillColor=_colour(stroke.fill),
        strokeDashArray=[5, 4] if stroke.dashed else None,
    )
    flipped = [(x, height - y) for x, y in stroke.points]
    path.moveTo(*flipped[0])
    if stroke.curve:
        for k in range(1, len(flipped) - 2, 3):
            path.curveTo(*flipped[k], *flipped[k + 1], *flipped[k + 2])
    else:
        for point in flipped[1:]:
            path.lineTo(*point)
    if stroke.fill != "none":
        # The library fills no path that is open.
        path.closePath()
    return path


def _strings(words: Words, height: float) -> Iterator[String]:
    """A line of text as strings of one face each."""
    font = "Mono" if words.mono else "TextBold" if words.bold else "Text"
    wide = text_width(words.text, font, words.size)
    x = words.x - {"start": 0.0, "middle": wide / 2, "end": wide}[words.anchor]
    for face, run in pieces_of(words.text, font):
        yield String(x, height - words.y, run, fontName=face, fontSize=words.size, fillColor=_colour(words.tone))
        x += text_width(run, font, words.size)


def sheet(drawing: Drawing, width: float, height: float) -> Flowable:
    """A drawing scaled to fit a space, in points."""
    register_fonts()
    scale = min(width / drawing.width, height / drawing.height, 1.0)
    out = Sheet(drawing.width * scale, drawing.height * scale)
    group = Group(Rect(0, 0, drawing.width, drawing.height, fillColor=None, strokeColor=None))
    for piece in drawing.pieces:
        for stroke in piece.strokes:
            group.add(_path(stroke, drawing.height))
        for words in piece.words:
            for string in _strings(words, drawing.height):
                group.add(string)
    group.scale(scale, scale)
    out.add(group)
    return out


def wiring_pdf(plan: Plan, report: Report, stamp: Stamp, paper: PaperSize) -> bytes:
    """Wiring diagram and connection drawings on paper.

    Parameters
    ----------
    plan : Plan
        The plan.
    report : Report
        Not needed; papers are all made alike.
    stamp : Stamp
        What stands on every page.
    paper : str
        ``a4``, ``a3`` or ``letter``.

    Returns
    -------
    bytes
        The PDF: a page a sheet, then every part with what lands on its terminals.
    """
    short, long = PAGE_MM[paper]
    width = (long - 2 * MARGIN_MM) * _POINTS_PER_MM
    height = (short - 37 - 16) * _POINTS_PER_MM - 24
    story: list[Flowable] = []
    for one in wiring_sheets(plan):
        drawing = wiring_sheet(plan, one.id, None)
        story += [para(drawing.note, "small"), Spacer(1, 6), sheet(drawing, width, height), PageBreak()]
    for landed in landings(plan):
        if any(terminal.wires for terminal in landed.terminals):
            story += [KeepTogether([sheet(connection_drawing(landed), width, height), Spacer(1, 8)])]
    return make_pdf(story or [para("No parts yet.")], stamp, paper, wide=True, signed=True)


def drawings_pdf(plan: Plan, report: Report, stamp: Stamp, paper: PaperSize) -> bytes:
    """Every picture of a plan on paper.

    Parameters
    ----------
    plan : Plan
        The plan.
    report : Report
        Its report.
    stamp : Stamp
        What stands on every page.
    paper : str
        ``a4`` or ``letter``.

    Returns
    -------
    bytes
        The PDF: plan of a vehicle with channels, map and board, each in as many sheets as its type needs, then
        two circuits a page.
    """
    short, long = PAGE_MM[paper]
    width = (long - 2 * MARGIN_MM) * _POINTS_PER_MM
    height = (short - 37 - 16) * _POINTS_PER_MM - 24
    story: list[Flowable] = []
    laid = [roof_off(plan, report, layout_of(plan))] if plan.channels else []
    for drawing in (*laid, step_down_map(plan, report), state_board(plan, report)):
        for tile in in_sheets(drawing, width, height):
            title = f"{drawing.title}, {tile.name}" if tile.name else drawing.title
            story += [para(title, "head"), para(drawing.note, "small"), Spacer(1, 6)]
            story += [sheet(tile.drawing, width, height), PageBreak()]
        if drawing.kind == "layout" and drawing.rows:
            # Numbers of the channels, with what lies in them.
            rows = [[row[-1], *row[:-1]] for row in drawing.rows]
            heads = ("No.", *drawing.columns[:-1])
            story += [ruled(heads, rows, (10, 52, 34, 34, 20, 76, 20, 16, 11), paper, wide=True), PageBreak()]
    plan = laid_out(plan)
    sized = sized_plan(plan)
    faults = study_faults(plan, sized)
    loads = {part.id: part for part in plan.parts if isinstance(part, Load)}
    cells: list[list[Flowable | str]] = []
    for run in plan.runs:
        if run.id not in faults.of_run:
            continue
        window = fuse_window(plan, sized, faults, run)
        load = loads.get(sized.topology.finish_of.get(run.id, ""))
        pinch = pinch_chart(plan, sized, load) if load is not None else None
        half = width / 2 - 8
        row: list[Flowable | str] = [sheet(window, half, height / 2 - 30)]
        row.append(sheet(pinch, half, height / 2 - 30) if pinch is not None else "")
        cells.append([para(window.title, "body", bold=True), para(pinch.title if pinch else "", "body", bold=True)])
        cells.append(row)
    if cells:
        story.append(Table(cells, colWidths=[width / 2, width / 2]))
    return make_pdf(story, stamp, paper, wide=True)
