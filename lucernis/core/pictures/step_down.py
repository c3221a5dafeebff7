"""Step-down map: the whole system from the store at the left to the loads at the right, copper true to scale."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field

from lucernis.core.circuit.terminals import part_id_of
from lucernis.core.circuit.topology import Topology, trace
from lucernis.core.pictures.drawing import Drawing, Piece, Stroke, Tone, Words, copper_width
from lucernis.core.report import LoadReport, PartReport, Report, RunReport
from lucernis.plan.model import Plan

ROW = 42.0
BOX_W, BOX_H = 124.0, 32.0
GAP = 136.0
# The ribbon bends in the first part of the gap and runs straight for the rest, where fuse and amperes stand.
BEND = 40.0
CHARGER_LIFT = 12.0
CHARGER_ROOM = 0.4
LEFT, TOP = 12.0, 46.0
# First column a kind may stand in; what is fed further down moves on to the right.
_STAGE = {
    "battery": 0,
    "panel": 3,
    "alternator": 0,
    "isolator": 1,
    "charger": 3,
    "switch": 1,
    "keyed_feed": 1,
    "relay": 2,
    "diode": 2,
    "busbar": 2,
    "joint": 2,
    "fuse_block": 3,
    "load": 4,
    "shunt": 1,
    "chassis_point": 1,
}
_HEADS = {
    "battery": "Store",
    "panel": "Sun",
    "alternator": "Store",
    "switch": "Switch",
    "relay": "Switch",
    "diode": "Switch",
    "keyed_feed": "Switch",
    "isolator": "Switch",
    "busbar": "Bus",
    "fuse_block": "Fuse block",
    "charger": "Charger",
    "load": "Load",
}
_HEAD_ORDER = ("Store", "Sun", "Switch", "Bus", "Joint", "Fuse block", "Charger", "Load")
_GRADE: dict[str, Tone] = {"stop": "stop", "fix": "fix", "look": "line", "good": "line"}


@dataclass(slots=True)
class _Spot:
    column: int
    row: float


@dataclass(slots=True)
class _Standing:
    """A point being placed: what it feeds is waiting, and the rows of what has been placed."""

    point: str
    column: int
    waiting: Iterator[str]
    rows: list[float] = field(default_factory=list)


class _Layout:
    """Every fed part gets a column by its stage and a row by the loads behind it."""

    def __init__(self, plan: Plan, topology: Topology) -> None:
        self.plan, self.topology = plan, topology
        self.spots: dict[str, _Spot] = {}
        self._next_row = 0.0
        for part in plan.parts:
            if part.kind == "battery" or (part.kind == "panel" and topology.root_of.get(part.id) == part.id):
                self._place(part.id, 0)
        fed = {part_id_of(point) for point in topology.feeder_of}
        self.loose = [
            part.id
            for part in plan.parts
            if part.id not in self.spots and part.id not in fed and part.kind not in ("shunt", "chassis_point")
        ]
        for one in self.loose:
            self._place(one, 0)
        self.columns = max((spot.column for spot in self.spots.values()), default=0) + 1
        self._push_loads_right()
        self.rows = self._next_row

    def parts_kind(self, part_id: str) -> str:
        """Kind of a part."""
        return self.topology.parts[part_id].kind

    def _place(self, point: str, column: int) -> None:
        # A stack of its own: a chain may be longer than calls can be nested.
        stack = [self._standing(point, column)]
        while stack:
            there = next(stack[-1].waiting, None)
            if there is None:
                row = self._settle(stack.pop())
                if stack:
                    stack[-1].rows.append(row)
            elif part_id_of(there) not in self.spots:
                stack.append(self._standing(there, stack[-1].column + 1))

    def _standing(self, point: str, column: int) -> _Standing:
        fed = point in self.topology.feeder_of
        at = max(column, _STAGE[self.topology.part_at(point).kind]) if fed else column
        return _Standing(point, at, (self.topology.finish_of[one] for one in self.topology.fed_runs.get(point, ())))

    def _settle(self, here: _Standing) -> float:
        rows = here.rows
        if not rows:
            # Two ribbons meet at a charger, each with its words: it needs more room above and below.
            room = CHARGER_ROOM if self.topology.part_at(here.point).kind == "charger" else 0.0
            rows = [self._next_row + room]
            self._next_row += 1 + 2 * room
        # What hangs behind a load lies in line with it; everything else stands in the middle of what it feeds.
        load = self.topology.part_at(here.point).kind == "load"
        spot = _Spot(here.column, rows[0] if load else sum(rows) / len(rows))
        part = self.topology.part_at(here.point)
        if ":" not in here.point or part.kind == "charger":
            self.spots.setdefault(part.id, spot)
        return spot.row

    def _depths(self) -> dict[str, int]:
        """How many parts hang one after the other behind each point."""
        depth: dict[str, int] = {}
        for run_id in reversed(self.topology.order):
            start, finish = self.topology.start_of[run_id], self.topology.finish_of[run_id]
            depth[start] = max(depth.get(start, 0), 1 + depth.get(finish, 0))
        return depth

    def _push_loads_right(self) -> None:
        last, depths = self.columns - 1, self._depths()
        for one, spot in self.spots.items():
            if self.topology.parts[one].kind == "load":
                spot.column = last - depths.get(one, 0)


def _box_at(spot: _Spot) -> tuple[float, float]:
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
    layout = _Layout(plan, topology)
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
        drawing.width += BEND + 90
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
    parts, loads = {one.id: one for one in report.parts}, {one.id: one for one in report.loads}
    for one, spot in layout.spots.items():
        drawing.pieces.append(_part(one, spot, parts.get(one), loads.get(one), state_id, loose=one in layout.loose))
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


def _heads(drawing: Drawing, layout: _Layout, topology: Topology) -> None:
    by_column: dict[int, set[str]] = {}
    for one, spot in layout.spots.items():
        kind = topology.parts[one].kind
        by_column.setdefault(spot.column, set()).add(_HEADS.get(kind, "Joint"))
    piece = Piece("Stages")
    for column, names in by_column.items():
        text = " · ".join(name for name in _HEAD_ORDER if name in names)
        piece.words.append(Words(LEFT + column * (BOX_W + GAP), 22, _short(text, 24), tone="soft", size=12, bold=True))
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
    run: RunReport, start: _Spot, finish: _Spot, state_id: str | None, *, closing: bool, lift: float = 0.0
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
        piece.words.append(Words(right + BEND - 4, y1 - lift + 4, f"{run.tag} {amps:.1f} A", size=11, mono=True))
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
        frame = [(at, y1 - 8), (at + 30, y1 - 8), (at + 30, y1 + 8), (at, y1 + 8), (at, y1 - 8)]
        piece.strokes.append(Stroke(frame, tone="ink", fill="sheet"))
        piece.words.append(Words(at + 15, y1 + 4, fuse.replace(" A", ""), size=11, anchor="middle", mono=True))
    half = run.parallel * (width + 2) / 2
    if lift:
        # Between two ribbons there is no room for words: both go to the outer side.
        piece.words.append(Words(x1 - 4, y1 - half - 3, f"{run.tag} {amps:.1f} A", size=11, anchor="end", mono=True))
        return piece
    piece.words.append(Words(x1 - 4, y1 - half - 3, run.tag, size=11, anchor="end", mono=True))
    piece.words.append(Words(x1 - 4, y1 + half + 10, f"{amps:.1f} A", size=11, anchor="end", mono=True, tone="soft"))
    return piece


def _from_behind(
    piece: Piece, run: RunReport, start: tuple[float, float], end: tuple[float, float], tone: Tone, fuse: str
) -> None:
    """A charger's supply: along its own row, which other boxes keep clear of, and round to the charger's far side."""
    (x0, y0), (x1, y1) = start, end
    width = copper_width(run.wire.diameter_mm)
    for k in range(run.parallel):
        shift = (k - (run.parallel - 1) / 2) * (width + 2)
        here, there = y0 + shift, y1 + shift
        piece.strokes.append(Stroke([(x0, here), (x1, here)], tone=tone, width=width))
        curve = [(x1, here), (x1 + BEND, here), (x1 + BEND, there), (x1, there)]
        piece.strokes.append(Stroke(curve, tone=tone, width=width, curve=True))
    if fuse:
        at = x0 + 12
        frame = [(at, y0 - 8), (at + 30, y0 - 8), (at + 30, y0 + 8), (at, y0 + 8), (at, y0 - 8)]
        piece.strokes.append(Stroke(frame, tone="ink", fill="sheet"))
        piece.words.append(Words(at + 15, y0 + 4, fuse.replace(" A", ""), size=11, anchor="middle", mono=True))


def _part(
    one: str, spot: _Spot, part: PartReport | None, load: LoadReport | None, state_id: str | None, *, loose: bool
) -> Piece:
    x, y = _box_at(spot)
    name, tag = (part.name, part.tag) if part is not None else (load.name, load.tag) if load is not None else (one, "")
    verdict = part.verdict if part is not None else load.verdict if load is not None else "good"
    under, tone = tag, _GRADE[verdict]
    if part is not None and part.kind not in ("battery", "panel", "alternator", "charger"):
        under += f"  {part.through_a:.0f} A" + (f" of {part.rated_a:g}" if part.rated_a else "")
    elif load is not None:
        state = load.states[state_id] if state_id is not None else load.worst
        under += f"  {state.voltage_v:.2f} V" if state.voltage_v else "  dead"
    piece = Piece(f"{name}, {under}", subject=one)
    piece.box(x, y, BOX_W, BOX_H, tone="soft" if tone == "line" else tone, fill="zinc" if loose else "sheet")
    piece.words.append(Words(x + 6, y + 14, _short(name, 18), size=12, bold=part is not None))
    piece.words.append(Words(x + 6, y + 27, under, size=11, tone="soft" if tone == "line" else tone, mono=True))
    return piece


def _returns(drawing: Drawing, plan: Plan, report: Report) -> None:
    """Negatives alone, shunt and bonds: a line of their own below."""
    own = [run for run in report.runs if run.role == "return"]
    if not own:
        return
    y = drawing.height + 12
    heading = Piece("Negatives of their own")
    heading.words.append(Words(LEFT, y, "Negatives of their own", tone="soft", size=12, bold=True))
    drawing.pieces.append(heading)
    for k, run in enumerate(own):
        at = y + 22 + 22 * k
        piece = Piece(
            f"{run.tag}, {run.start_label} to {run.finish_label}: {_wire(run)}, {run.verdict}", subject=run.id
        )
        width = copper_width(run.wire.diameter_mm)
        piece.strokes.append(Stroke([(LEFT, at - 4), (LEFT + 60, at - 4)], tone="ink", width=width))
        piece.words.append(
            Words(LEFT + 70, at, f"{run.tag}  {run.start_label} → {run.finish_label}  {_wire(run)}", size=12, mono=True)
        )
        drawing.pieces.append(piece)
    drawing.height = y + 22 * len(own) + 24
