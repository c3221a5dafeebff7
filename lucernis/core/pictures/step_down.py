"""Step-down map: the whole system from the store at the left to the loads at the right, copper true to scale."""

from __future__ import annotations

from textwrap import wrap

from lucernis.core.circuit.terminals import part_id_of
from lucernis.core.circuit.topology import Topology, trace
from lucernis.core.pictures.drawing import Drawing, Piece, Stroke, Tone, Words, copper_width
from lucernis.core.pictures.step_down_layout import Layout, Spot
from lucernis.core.report import LoadReport, PartReport, Report, RunReport
from lucernis.plan.model import Plan

# Type is never under 12 px: the rest is as large as that asks for.
SMALL, USUAL = 12.0, 13.0
ROW = 46.0
BOX_W, BOX_H = 132.0, 36.0
GAP = 132.0
# The ribbon bends in the first part of the gap and runs straight for the rest, where fuse and amperes stand.
BEND = 36.0
CHARGER_LIFT = 12.0
BOW_LEAST, BOW_PER_ROW = 24.0, 8.0
LEFT, TOP = 12.0, 52.0
HEAD_LINE = 16.0
HEAD_CHARACTERS = 32
FUSE_W = 34.0
_HEADS = {
    "battery": "Batteries",
    "panel": "Solar",
    "alternator": "Batteries",
    "switch": "Switch",
    "relay": "Switch",
    "diode": "Switch",
    "keyed_feed": "Switch",
    "isolator": "Switch",
    "busbar": "Busbars",
    "fuse_block": "Fuse block",
    "charger": "Charger",
    "load": "Load",
}
_HEAD_ORDER = ("Batteries", "Solar", "Switch", "Busbars", "Joint", "Fuse block", "Charger", "Load")
_GRADE: dict[str, Tone] = {"stop": "stop", "fix": "fix", "look": "line", "good": "line"}


def _box_at(spot: Spot) -> tuple[float, float]:
    return LEFT + spot.column * (BOX_W + GAP), TOP + spot.row * ROW


def _short(text: str, most: int) -> str:
    return text if len(text) <= most else text[: most - 1] + "…"


def step_down_map(plan: Plan, report: Report, state_id: str | None = None) -> Drawing:
    """The whole system by stages.

    Parameters
    ----------
    plan : Plan
        The plan.
    report : Report
        Its report: currents, sizes, fuses, verdicts.
    state_id : str, optional
        Currents of this state; the design currents otherwise.

    Returns
    -------
    Drawing
        Positives as ribbons from left to right; negatives of their own in a line below.
    """
    topology = trace(plan)
    layout = Layout(plan, topology)
    runs = {run.id: run for run in report.runs}
    drawing = Drawing(
        kind="map",
        title="Step-down map",
        note="Ribbons are as thick as the copper is; amperes are those of "
        + ("the worst state" if state_id is None else next(s.name for s in plan.states if s.id == state_id))
        + ". Colour only where something is wrong.",
        width=LEFT * 2 + layout.columns * BOX_W + (layout.columns - 1) * GAP,
        height=TOP + layout.rows * ROW + 20,
        columns=["Run", "From", "To", "Wire", "Fuse", "Amperes", "Verdict"],
    )
    last = layout.columns - 1
    if any(layout.parts_kind(one) == "charger" and spot.column == last for one, spot in layout.spots.items()):
        # Supplies go round to a charger's far side.
        drawing.width += BOW_LEAST + BOW_PER_ROW * layout.rows
    _heads(drawing, layout, topology)
    for run_id in (*topology.order, *topology.closing):
        run = runs[run_id]
        start, finish = (part_id_of(topology.start_of[run_id]), part_id_of(topology.finish_of[run_id]))
        if start in layout.spots and finish in layout.spots:
            beside = ":" in topology.finish_of[run_id] and topology.parts[finish].kind != "charger"
            closing = run_id in topology.closing or beside
            lift = _lift(topology, topology.finish_of[run_id])
            spots = layout.spots[start], layout.spots[finish]
            drawing.pieces.append(_ribbon(run, *spots, state_id, closing=closing, lift=lift))
    at = [k for k, state in enumerate(plan.states) if state_id in (None, state.id)]
    alive = {node.id for node in report.nodes if any(node.live_from[k] for k in at)}
    parts, loads = {one.id: one for one in report.parts}, {one.id: one for one in report.loads}
    for one, spot in layout.spots.items():
        piece = _part(
            one, spot, parts.get(one), loads.get(one), state_id, loose=one in layout.loose, alive=one in alive
        )
        drawing.pieces.append(piece)
    _returns(drawing, plan, report)
    for run in report.runs:
        drawing.rows.append(
            [
                run.tag,
                run.start_label,
                run.finish_label,
                _wire(run),
                _fuse(run),
                f"{_amps(run, state_id):.1f} A",
                run.verdict,
            ]
        )
    return drawing


def _heads(drawing: Drawing, layout: Layout, topology: Topology) -> None:
    by_column: dict[int, set[str]] = {}
    for one, spot in layout.spots.items():
        kind = topology.parts[one].kind
        by_column.setdefault(spot.column, set()).add(_HEADS.get(kind, "Joint"))
    piece = Piece("Stages")
    for column, names in by_column.items():
        # A heading may stand over its gap too; what is still too long goes on in a second line.
        text = " · ".join(name for name in _HEAD_ORDER if name in names)
        for line, part in enumerate(wrap(text, HEAD_CHARACTERS)):
            at = LEFT + column * (BOX_W + GAP), 18 + line * HEAD_LINE
            piece.words.append(Words(*at, part, tone="soft", size=USUAL, bold=True))
    drawing.pieces.append(piece)


def _wire(run: RunReport) -> str:
    return f"{run.parallel} × {run.wire.label}" if run.parallel > 1 else run.wire.label


def _fuse(run: RunReport) -> str:
    if run.fuse is None or run.fuse.rating_a is None:
        return ""
    return f"{run.fuse.rating_a:g} A"


def _amps(run: RunReport, state_id: str | None) -> float:
    return run.design_current_a if state_id is None else run.states[state_id].current_a


def _lift(topology: Topology, finish: str) -> float:
    """How far from a box's middle a ribbon ends: a charger is met by its output above and its supply below. [px]"""
    if topology.part_at(finish).kind != "charger":
        return 0.0
    return -CHARGER_LIFT if finish.partition(":")[2].startswith("out") else CHARGER_LIFT


def _ribbon(
    run: RunReport, start: Spot, finish: Spot, state_id: str | None, *, closing: bool, lift: float = 0.0
) -> Piece:
    (x0, y0), (x1, y1) = _box_at(start), _box_at(finish)
    x0, y0, y1 = x0 + BOX_W, y0 + BOX_H / 2, y1 + BOX_H / 2 + lift
    if x1 <= x0:
        # Two parts in one column, as a coil beside what tells it: from middle to middle.
        x1, x0 = x1 + BOX_W / 2, x0 - BOX_W / 2
    amps = _amps(run, state_id)
    tone: Tone = {"stop": "stop", "fix": "fix"}.get(run.verdict, "copper")  # type: ignore[assignment]
    fuse = _fuse(run)
    label = (
        f"{run.tag}, {run.start_label} to {run.finish_label}: {_wire(run)}, "
        + (f"{fuse} fuse, " if fuse else "")
        + f"{amps:.1f} A, {run.verdict}"
    )
    piece = Piece(label, subject=run.id)
    width = copper_width(run.wire.diameter_mm)
    bend = min(x0 + BEND, x1)
    if lift > 0:
        right = x1 + BOX_W
        _from_behind(piece, run, (x0, y0), (right, y1 - lift), tone, fuse)
        # Its words stand at its source: near the charger other supplies go past.
        words = f"{run.tag}  {_short_amps(amps)}"
        over = y0 - run.parallel * (width + 2) / 2 - 3
        piece.words.append(Words(x0 + 12 + FUSE_W + 10, over, words, size=SMALL, mono=True))
        return piece
    for k in range(run.parallel):
        shift = (k - (run.parallel - 1) / 2) * (width + 2)
        here, there = y0 + shift, y1 + shift
        middle = (x0 + bend) / 2
        curve = [(x0, here), (middle, here), (middle, there), (bend, there)]
        piece.strokes.append(Stroke(curve, tone=tone, width=width, curve=True, dashed=closing))
        piece.strokes.append(Stroke([(bend, there), (x1, there)], tone=tone, width=width, dashed=closing))
    if closing:
        return piece
    if fuse:
        at = bend + 4
        _fuse_at(piece, at, y1, fuse)
    half = run.parallel * (width + 2) / 2
    piece.words.append(Words(x1 - 4, y1 - half - 3, run.tag, size=SMALL, anchor="end", mono=True))
    below = Words(x1 - 4, y1 + half + 11, _short_amps(amps), size=SMALL, anchor="end", mono=True, tone="soft")
    piece.words.append(below)
    return piece


def _fuse_at(piece: Piece, x: float, y: float, fuse: str) -> None:
    """A fuse in a ribbon: its rating in a frame."""
    piece.box(x, y - 9, FUSE_W, 18, tone="ink")
    piece.words.append(Words(x + FUSE_W / 2, y + 4, fuse.replace(" A", ""), size=SMALL, anchor="middle", mono=True))


def _short_amps(current_a: float) -> str:
    """Three figures are enough on a drawing."""
    return f"{current_a:.0f} A" if current_a >= 100 else f"{current_a:.1f} A"


def _from_behind(
    piece: Piece, run: RunReport, start: tuple[float, float], end: tuple[float, float], tone: Tone, fuse: str
) -> None:
    """A charger's supply: along its own row, which other boxes keep clear of, and round to the charger's far side."""
    (x0, y0), (x1, y1) = start, end
    width = copper_width(run.wire.diameter_mm)
    # The further it has to go, the further out it goes round.
    bow = BOW_LEAST + BOW_PER_ROW * abs(y0 - y1) / ROW
    for k in range(run.parallel):
        shift = (k - (run.parallel - 1) / 2) * (width + 2)
        here, there = y0 + shift, y1 + shift
        piece.strokes.append(Stroke([(x0, here), (x1, here)], tone=tone, width=width))
        curve = [(x1, here), (x1 + bow, here), (x1 + bow, there), (x1, there)]
        piece.strokes.append(Stroke(curve, tone=tone, width=width, curve=True))
    if fuse:
        at = x0 + 12
        _fuse_at(piece, at, y0, fuse)


def _part(
    one: str,
    spot: Spot,
    part: PartReport | None,
    load: LoadReport | None,
    state_id: str | None,
    *,
    loose: bool,
    alive: bool,
) -> Piece:
    x, y = _box_at(spot)
    name, tag = (part.name, part.tag) if part is not None else (load.name, load.tag) if load is not None else (one, "")
    verdict = part.verdict if part is not None else load.verdict if load is not None else "good"
    under, tone = tag, _GRADE[verdict]
    if part is not None and part.kind not in ("battery", "panel", "alternator", "charger"):
        under += f" {part.through_a:.0f} A" + (f" of {part.rated_a:g}" if part.rated_a else "")
    elif load is not None:
        state = load.states[state_id] if state_id is not None else load.worst
        under += f"  {state.voltage_v:.2f} V" if state.voltage_v else "  live" if alive else "  dead"
    piece = Piece(f"{name}, {under}", subject=one)
    piece.box(x, y, BOX_W, BOX_H, tone="soft" if tone == "line" else tone, fill="zinc" if loose else "sheet")
    piece.words.append(Words(x + 6, y + 15, _short(name, 17), size=USUAL, bold=part is not None))
    piece.words.append(Words(x + 6, y + 30, under, size=SMALL, tone="soft" if tone == "line" else tone, mono=True))
    return piece


def _returns(drawing: Drawing, plan: Plan, report: Report) -> None:
    """Negatives alone, shunt and bonds: a line of their own below."""
    own = [run for run in report.runs if run.role == "return"]
    if not own:
        return
    y = drawing.height + 12
    heading = Piece("Negatives of their own")
    heading.words.append(Words(LEFT, y, "Negatives of their own", tone="soft", size=USUAL, bold=True))
    drawing.pieces.append(heading)
    for k, run in enumerate(own):
        at = y + 22 + 22 * k
        piece = Piece(
            f"{run.tag}, {run.start_label} to {run.finish_label}: {_wire(run)}, {run.verdict}", subject=run.id
        )
        width = copper_width(run.wire.diameter_mm)
        piece.strokes.append(Stroke([(LEFT, at - 4), (LEFT + 60, at - 4)], tone="ink", width=width))
        piece.words.append(
            Words(
                LEFT + 70, at, f"{run.tag}  {run.start_label} → {run.finish_label}  {_wire(run)}", size=SMALL, mono=True
            )
        )
        drawing.pieces.append(piece)
    drawing.height = y + 22 * len(own) + 24
