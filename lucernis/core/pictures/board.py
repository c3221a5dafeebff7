"""State board: every point and every state with the voltage to expect; what is dead is told at a glance."""

from __future__ import annotations

from lucernis.core.pictures.drawing import Drawing, Piece, Words
from lucernis.core.prove.board import cell_text, reading_board
from lucernis.core.report import Report
from lucernis.plan.model import Plan

NAME_W, CELL_W, ROW = 240.0, 92.0, 24.0
TOP = 46.0


def state_board(plan: Plan, report: Report) -> Drawing:
    """The state board.

    Parameters
    ----------
    plan : Plan
        The plan.
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
        note="Volts a meter reads between each point and its negative, by the batteries' own volts. Live: no battery "
        "reaches it, but a charger or panels do. Dead: nothing does.",
        width=NAME_W + CELL_W * len(states) + 20,
        height=TOP + ROW * len(report.nodes) + 16,
        columns=["Point", *states],
    )
    head = Piece("States")
    for k, name in enumerate(states):
        text = name if len(name) <= 13 else name[:12] + "…"
        head.words.append(Words(10 + NAME_W + CELL_W * (k + 1) - 8, TOP - 10, text, size=12, anchor="end", bold=True))
    drawing.pieces.append(head)
    for r, node in enumerate(reading_board(plan, report.nodes)):
        y = TOP + ROW * r
        said = ", ".join(f"{name} {cell_text(cell)}" for name, cell in zip(states, node.cells, strict=True))
        piece = Piece(f"{node.label}: {said}", subject=node.part)
        piece.words.append(Words(14, y + 16, node.tag, size=12, mono=True))
        piece.words.append(Words(58, y + 16, node.label if len(node.label) <= 28 else node.label[:27] + "…", size=12))
        for k, cell in enumerate(node.cells):
            x = 10 + NAME_W + CELL_W * k
            dead = not cell.live_from
            piece.box(x, y, CELL_W, ROW, fill="zinc" if dead else "sheet")
            piece.words.append(
                Words(x + CELL_W - 8, y + 16, cell.text, size=12, anchor="end", mono=True,
                      tone="soft" if dead else "ink")
            )  # fmt: skip
        drawing.pieces.append(piece)
        drawing.rows.append([node.label, *(cell_text(cell) for cell in node.cells)])
    return drawing
