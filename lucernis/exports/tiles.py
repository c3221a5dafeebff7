"""A drawing too large for a page at a size one can read, cut into sheets that overlap."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from lucernis.core.pictures.drawing import Drawing, Piece, Stroke, Words

# Nothing on paper is smaller: 2.3 mm high. [pt]
LEAST_PT = 6.5
# What the edge cuts on one sheet stands whole on the next. [px]
_OVERLAP_X, _OVERLAP_Y = 150.0, 50.0
# What stands at an edge and where it goes on takes so much of a sheet. [px]
_EDGE = 20.0
# About how wide a letter is, as a share of its size.
_LETTER = 0.56


@dataclass(frozen=True, slots=True)
class Tile:
    """A part of a drawing as a drawing of its own; `name` says which, empty where there is only one."""

    drawing: Drawing
    name: str


def _starts(whole: float, window: float, overlap: float) -> list[float]:
    """Where windows begin that cover a length, as few as do, evenly spread. [px]"""
    if whole <= window:
        return [0.0]
    count = 2
    while whole > window + (count - 1) * (window - overlap):
        count += 1
    return [at * (whole - window) / (count - 1) for at in range(count)]


def _span(words: Words) -> tuple[float, float]:
    wide = len(words.text) * words.size * _LETTER
    left = words.x - {"start": 0.0, "middle": wide / 2, "end": wide}[words.anchor]
    return left, left + wide


def _cut(stroke: Stroke, left: float, top: float, right: float, bottom: float) -> Iterator[Stroke]:
    """What of a stroke lies in a window: straight lines are cut at its edge, outlines and curves are kept whole where
    they lie in it and left to the sheet beside where they do not."""
    if stroke.fill != "none" or stroke.curve or len(stroke.points) != 2:
        if all(left <= x <= right and top <= y <= bottom for x, y in stroke.points):
            yield stroke
        return
    (x0, y0), (x1, y1) = stroke.points
    # Liang and Barsky: how far along the line it enters and leaves the window.
    enter, leave = 0.0, 1.0
    for step, room in ((x0 - x1, x0 - left), (x1 - x0, right - x0), (y0 - y1, y0 - top), (y1 - y0, bottom - y0)):
        if step == 0:
            if room < 0:
                return
        elif step < 0:
            enter = max(enter, room / step)
        else:
            leave = min(leave, room / step)
    if enter < leave:
        ends = [(x0 + at * (x1 - x0), y0 + at * (y1 - y0)) for at in (enter, leave)]
        yield replace(stroke, points=ends)


def _window(drawing: Drawing, left: float, top: float, wide: float, high: float) -> Drawing:
    right, bottom = left + wide, top + high
    pieces = []
    for piece in drawing.pieces:
        strokes = [
            replace(cut, points=[(x - left, y - top) for x, y in cut.points])
            for stroke in piece.strokes
            for cut in _cut(stroke, left, top, right, bottom)
        ]
        words = [
            replace(one, x=one.x - left, y=one.y - top)
            for one in piece.words
            if left <= _span(one)[0] and _span(one)[1] <= right + 2 and top <= one.y - one.size and one.y <= bottom
        ]
        if strokes or words:
            pieces.append(Piece(piece.label, piece.subject, strokes, words))
    return replace(drawing, width=wide, height=high, pieces=pieces)


def in_sheets(drawing: Drawing, width: float, height: float) -> list[Tile]:
    """A drawing in as many sheets as its type needs to be read.

    Parameters
    ----------
    drawing : Drawing
        The picture.
    width, height : float
        Room on a page. [pt]

    Returns
    -------
    list of Tile
        The drawing itself where its smallest letters stay at `LEAST_PT` or above on one page; else parts of it that
        do, row by row, that overlap, each with where it goes on at its edges.
    """
    smallest = min((words.size for piece in drawing.pieces for words in piece.words), default=LEAST_PT)
    scale = LEAST_PT / smallest
    if min(width / drawing.width, height / drawing.height) >= scale:
        return [Tile(drawing, "")]
    wide, high = width / scale - _EDGE, height / scale - _EDGE
    wide, high = min(wide, drawing.width), min(high, drawing.height)
    across, down = _starts(drawing.width, wide, _OVERLAP_X), _starts(drawing.height, high, _OVERLAP_Y)
    tiles = []
    for row, top in enumerate(down):
        for column, left in enumerate(across):
            number = row * len(across) + column + 1
            part = _window(drawing, left, top, wide, high)
            edge = Piece("Edges")
            if column + 1 < len(across):
                edge.words.append(Words(wide + 4, 12, f"→ {number + 1}", size=smallest, tone="soft"))
                edge.strokes.append(Stroke([(wide, 0), (wide, high)], tone="line", dashed=True))
            if row + 1 < len(down):
                edge.words.append(Words(4, high + 14, f"↓ {number + len(across)}", size=smallest, tone="soft"))
                edge.strokes.append(Stroke([(0, high), (wide, high)], tone="line", dashed=True))
            part.pieces.append(edge)
            part.width, part.height = wide + _EDGE, high + _EDGE
            tiles.append(Tile(part, f"sheet {number} of {len(across) * len(down)}"))
    return tiles
