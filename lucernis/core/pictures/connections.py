"""Connection drawing of one part: every terminal with each wire on it, in its colour, true to scale."""

from __future__ import annotations

import math

from lucernis.core.build.landing import PartLanding, TerminalAt, WireAt
from lucernis.core.pictures.drawing import Drawing, Piece, Stroke, Tone, Words, copper_width

_LEFT, _BOX_W, _ROW, _TOP = 16.0, 310.0, 26.0, 40.0
_WIRE_W, _TAG_W, _WIDTH = 60.0, 62.0, 1180.0
COLUMNS = [
    "Terminal", "Pin", "Function", "Fuse", "Wire", "Colour", "Size", "What is on it", "On its stud", "Far end",
    "Tighten to", "Cover",
]  # fmt: skip


def wire_tone(colour: str) -> Tone:
    """The tone of a wire's insulation."""
    return f"wire_{colour}"  # type: ignore[return-value]


def wire_strokes(points: list[tuple[float, float]], colour: str, area_mm2: float) -> list[Stroke]:
    """A wire in its colour, its copper true to scale, edged so that black is seen on dark and white on light.

    Parameters
    ----------
    points : list of tuple
        Its way. [px]
    colour : str
        Of the insulation.
    area_mm2 : float
        Copper. [mm²]

    Returns
    -------
    list of Stroke
        Edge and wire.
    """
    width = copper_width(math.sqrt(4 * area_mm2 / math.pi))
    return [Stroke(points, tone="soft", width=width + 2), Stroke(points, tone=wire_tone(colour), width=width)]


def sleeve(piece: Piece, x: float, y: float, tag: str, colour: str) -> float:
    """A tag as it is printed, its left edge in the wire's colour; answers with its width. [px]"""
    width = max(36.0, 9.0 * len(tag) + 16)
    piece.box(x, y - 10, width, 20)
    piece.strokes.append(Stroke([(x + 3, y - 9), (x + 3, y + 9)], tone=wire_tone(colour), width=5))
    piece.words.append(Words(x + 10, y + 4.5, tag, size=13, mono=True))
    return width


def short(text: str, most: int) -> str:
    """A text cut to so many letters, with a mark where it was."""
    return text if len(text) <= most else text[: most - 1] + "…"


def stud_text(wire: WireAt) -> str:
    """Which stud a lug goes on, and which of the lugs there it is."""
    layer = f", lug {wire.layer} from below" if wire.layer > 1 else ""
    return f"stud {wire.on_stud}{layer}"


def _row(drawing: Drawing, terminal: TerminalAt, wire: WireAt, y: float, *, stacked: bool) -> None:
    told = f"{wire.tag} {wire.leg}, {wire.size} {wire.colour}, {wire.fits}, to {wire.far}"
    piece = Piece(f"{terminal.name}: {told}", subject=wire.run)
    x = _LEFT + _BOX_W
    piece.strokes += wire_strokes([(x, y), (x + _WIRE_W, y)], wire.colour, wire.area_mm2)
    piece.strokes.append(
        Stroke([(x - 4, y - 4), (x + 4, y - 4), (x + 4, y + 4), (x - 4, y + 4), (x - 4, y - 4)], fill="zinc")
    )
    x += _WIRE_W
    x += sleeve(piece, x, y, f"{wire.tag}{wire.leg}", wire.colour) + 10
    order = f" · {stud_text(wire)}" if stacked and wire.layer else ""
    piece.words.append(Words(x, y + 4.5, short(f"{wire.colour} · {wire.fits}{order}", 52), size=13, mono=True))
    piece.words.append(Words(_WIDTH - 12, y + 4.5, short(wire.far, 40), size=13, anchor="end"))
    drawing.pieces.append(piece)


def connection_drawing(landing: PartLanding) -> Drawing:
    """The connection drawing of a part.

    Parameters
    ----------
    landing : PartLanding
        What lands on it.

    Returns
    -------
    Drawing
        A row a wire; terminals nothing lands on are there as free. The table beside it says the same, and the torque.
    """
    count = sum(max(1, len(one.wires)) for one in landing.terminals)
    drawing = Drawing(
        kind="connections",
        # A holder's name has the tag of its run in it.
        title=(landing.name if landing.kind == "holder" else f"{landing.tag} {landing.name}".strip())
        + (f", {landing.place}" if landing.place else ""),
        note="Wires in their colour, copper true to scale. Usual studs and torques; the maker's sheet wins.",
        width=_WIDTH,
        height=_TOP + _ROW * max(1, count) + 24,
        columns=COLUMNS,
    )
    frame = Piece(f"{landing.name}")
    frame.box(_LEFT, _TOP - 14, _BOX_W, _ROW * max(1, count) + 8, tone="ink", fill="zinc")
    frame.words.append(Words(_LEFT, _TOP - 22, short(drawing.title, 96), size=15, bold=True))
    drawing.pieces.append(frame)
    y = _TOP
    for terminal in landing.terminals:
        name = f"{terminal.name}{f' ({terminal.pin})' if terminal.pin else ''}"
        told = Piece(f"{name}: {'free' if not terminal.wires else ''}")
        told.words.append(
            Words(_LEFT + _BOX_W - 10, y + 4.5, short(name, 24), size=13, anchor="end", bold=bool(terminal.wires))
        )
        besides = [terminal.torque.split(",")[0].removesuffix(", practice"), terminal.fuse, terminal.cover]
        if said := ", ".join(word for word in besides if word):
            told.words.append(Words(_LEFT + 8, y + 4.5, short(said, 30), size=12, tone="soft"))
        if not terminal.wires:
            told.words.append(Words(_LEFT + _BOX_W + 10, y + 4.5, "free", size=13, tone="soft"))
            drawing.rows.append([terminal.name, terminal.pin, terminal.function, terminal.fuse, "free", *7 * [""]])
        drawing.pieces.append(told)
        stacked = len(terminal.wires) > 1
        for wire in terminal.wires:
            _row(drawing, terminal, wire, y, stacked=stacked)
            drawing.rows.append(
                [
                    terminal.name, terminal.pin, terminal.function, terminal.fuse, f"{wire.tag} {wire.leg}",
                    wire.colour, wire.size, wire.fits, stud_text(wire) if stacked and wire.layer else "", wire.far,
                    terminal.torque, terminal.cover,
                ]
            )  # fmt: skip
            y += _ROW
        y += 0 if terminal.wires else _ROW
    return drawing
