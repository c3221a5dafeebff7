"""State board: every point and every state with the voltage to expect; what is dead is told at a glance."""

from __future__ import annotations

from lucernis.core.pictures.drawing import Drawing, Piece, Words
from lucernis.core.report import Report

NAME_W, CELL_W, ROW = 240.0, 92.0, 24.0
TOP = 46.0


def volts_text(voltage_v: float | None) -> str:
    """What a cell of the board says.

    Parameters
    ----------
    voltage_v : float or None
        Volts at a point, None where nothing is live. [V]

    Returns
    -------
    str
        Two digits, or ``dead``.
    """
    return "dead" if voltage_v is None else f"{voltage_v:.2f}"


def state_board(report: Report) -> Drawing:
    """The state board.

    Parameters
    ----------
    report : Report
        Its nodes and states.

    Returns
    -------
    Drawing
        A grid; the table beside it says the same.
    """
    states = [state.name for state in report.summary.states]
    drawing = Drawing(
        kind="board",
        title="State board",
        note="Volts between each point and its negative; dead: no battery reaches it.",
        width=NAME_W + CELL_W * len(states) + 20,
        height=TOP + ROW * len(report.nodes) + 16,
        columns=["Point", *states],
    )
    head = Piece("States")
    for k, name in enumerate(states):
        text = name if len(name) <= 13 else name[:12] + "…"
        head.words.append(Words(10 + NAME_W + CELL_W * (k + 1) - 8, TOP - 10, text, size=12, anchor="end", bold=True))
    drawing.pieces.append(head)
    for r, node in enumerate(report.nodes):
        y = TOP + ROW * r
        said = ", ".join(f"{name} {volts_text(v)}" for name, v in zip(states, node.voltage_v, strict=True))
        piece = Piece(f"{node.label}: {said}", subject=node.part)
        piece.words.append(Words(14, y + 16, node.tag, size=12, mono=True))
        piece.words.append(Words(58, y + 16, node.label if len(node.label) <= 28 else node.label[:27] + "…", size=12))
        for k, voltage_v in enumerate(node.voltage_v):
            x = 10 + NAME_W + CELL_W * k
            dead = voltage_v is None
            piece.box(x, y, CELL_W, ROW, fill="zinc" if dead else "sheet")
            piece.words.append(
                Words(x + CELL_W - 8, y + 16, volts_text(voltage_v), size=12, anchor="end", mono=True,
                      tone="soft" if dead else "ink")
            )  # fmt: skip
        drawing.pieces.append(piece)
        drawing.rows.append([node.label, *(volts_text(v) for v in node.voltage_v)])
    return drawing
