"""Signs of parts as general standards draw them (IEC 60617, from memory): battery, lamp, motor, heater, panel, body."""

from __future__ import annotations

import math

from lucernis.core.pictures.drawing import Piece, Stroke, Words
from lucernis.plan.model import Part

_R = 9.0


def _ring(piece: Piece, x: float, y: float) -> None:
    points = [(x + _R * math.cos(k * math.pi / 8), y + _R * math.sin(k * math.pi / 8)) for k in range(17)]
    piece.strokes.append(Stroke(points, width=1.4))


def _battery(piece: Piece, x: float, y: float) -> None:
    """A long thin plate and a short thick one, twice."""
    for k, (half, width) in enumerate(((9.0, 1.2), (5.0, 2.6), (9.0, 1.2), (5.0, 2.6))):
        at = x - 9 + 6 * k
        piece.strokes.append(Stroke([(at, y - half), (at, y + half)], width=width))


def _lamp(piece: Piece, x: float, y: float) -> None:
    _ring(piece, x, y)
    off = _R * math.sqrt(0.5)
    for sign in (1, -1):
        piece.strokes.append(Stroke([(x - off, y - sign * off), (x + off, y + sign * off)], width=1.4))


def _motor(piece: Piece, x: float, y: float) -> None:
    _ring(piece, x, y)
    piece.words.append(Words(x, y + 4.5, "M", size=12, anchor="middle", bold=True))


def _heater(piece: Piece, x: float, y: float) -> None:
    piece.box(x - 12, y - 6, 24, 12, tone="ink")
    for k in range(1, 4):
        at = x - 12 + 6 * k
        piece.strokes.append(Stroke([(at, y - 6), (at, y + 6)], width=1.2))


def _panel(piece: Piece, x: float, y: float) -> None:
    piece.box(x - 12, y - 8, 24, 16, tone="ink")
    piece.strokes.append(Stroke([(x - 12, y - 8), (x, y), (x + 12, y - 8)], width=1.2))


def _body(piece: Piece, x: float, y: float) -> None:
    """A bar with strokes below it: joined to the body."""
    piece.strokes.append(Stroke([(x - 10, y), (x + 10, y)], width=1.8))
    for k in range(4):
        at = x - 9 + 6 * k
        piece.strokes.append(Stroke([(at, y), (at - 4, y + 7)], width=1.2))


def draw_symbol(piece: Piece, part: Part, x: float, y: float) -> None:
    """Draw the sign of a part around a point; nothing where there is none that everybody reads.

    Parameters
    ----------
    piece : Piece
        What it is drawn into.
    part : Part
        The part.
    x, y : float
        Its middle. [px]
    """
    signs = {"battery": _battery, "panel": _panel, "chassis_point": _body}
    of_loads = {"lamp": _lamp, "motor": _motor, "heater": _heater}
    sign = of_loads.get(part.device) if part.kind == "load" else signs.get(part.kind)
    if sign is not None:
        sign(piece, x, y)
