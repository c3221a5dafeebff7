"""Wiring diagram of both legs, a sheet a hub: every positive, negative and bond as a wire of its own."""

from __future__ import annotations

import math
import string
import textwrap
from dataclasses import dataclass

from lucernis.core.circuit.switching import SwitchingPlan
from lucernis.core.harness.harness import harness_of
from lucernis.core.harness.pieces import CutPiece, one_pole
from lucernis.core.pictures.connections import short, sleeve, wire_strokes
from lucernis.core.pictures.drawing import Drawing, Piece, Stroke, Words, copper_width
from lucernis.core.pictures.symbols import draw_symbol
from lucernis.core.pictures.wiring_layout import SheetPlan, Strand, sheets_of
from lucernis.core.sizing.fusing import far_key
from lucernis.errors import UnknownRow
from lucernis.plan.model import Busbar, Part, Plan, Run, State
from lucernis.plan.terminals import has_legs
from lucernis.plan.units import told_length

_LEFT, _TOP, _ROW = 34.0, 64.0, 68.0
_BOX_W, _GAP_W, _STUB_W, _REF_W = 150.0, 240.0, 200.0, 240.0
# Rails of a pair of bars inside its box, from its right edge: the positive nearer, as its wires leave above.
_RAILS = (16.0, 36.0)
# Negative under positive on a row.
_LEG = 30.0
_RAIL_MM2 = 35.0
ROW_NAMES = string.ascii_uppercase
COLUMNS = ["Run", "From", "To", "Positive", "Negative", "Size", "Fuse"]


@dataclass(frozen=True, slots=True)
class SheetName:
    """A sheet of the wiring diagram, to be chosen from."""

    id: str
    name: str


def wiring_sheets(plan: Plan) -> list[SheetName]:
    """The sheets of a plan's wiring diagram, in order."""
    return [SheetName(one.id, one.name) for one in sheets_of(harness_of(plan).plan)]


class _Draughtsman:
    """Draws one sheet."""

    def __init__(self, plan: Plan, sheets: list[SheetPlan], state: State | None) -> None:
        harness = harness_of(plan)
        self.plan, self.sheets, self.sized = plan, sheets, harness.sized
        self.holders = harness.holders
        self.parts = {part.id: part for part in plan.parts}
        self.pieces: dict[str, list[CutPiece]] = {run.id: [] for run in plan.runs}
        for piece in harness.pieces:
            for run_id in piece.runs:
                self.pieces[run_id].append(piece)
        self.number = {sheet.id: at for at, sheet in enumerate(sheets, start=1)}
        self.home: dict[str, SheetPlan] = {}
        for sheet in sheets:
            for part in sheet.spot:
                self.home.setdefault(part, sheet)
        switching = SwitchingPlan(plan)
        self.contacts = {part for part, _ in switching.contacts}
        self.closed = {part for part, _ in (switching.in_state(state) if state else switching.ordinary).closed}

    def _x(self, column: int) -> float:
        return _LEFT + column * (_BOX_W + _GAP_W)

    def _box(self, part: Part, column: int, row: int, rows: int) -> Piece:
        x, y = self._x(column), _TOP + row * _ROW
        told = ""
        if part.id in self.contacts:
            told = "closed" if part.id in self.closed else "open"
        piece = Piece(f"{part.tag} {part.name}{f', {told}' if told else ''}", subject=part.id)
        height = rows * _ROW - 14
        # A part of one pole ends above the negative that passes it by.
        if one_pole(part) and rows == 1:
            height = _LEG + 4
        piece.box(
            x, y - 14, _BOX_W, height, tone="ink", fill="zinc" if part.kind in ("busbar", "fuse_block") else "sheet"
        )
        paired = is_pair(part)
        # Beside rails a name has room for less, on two lines; the tag comes under it.
        names = textwrap.wrap(part.name, 12)[:2] if paired and height > 2 * _LEG else [part.name]
        most = 12 if paired else 19
        for line, name in enumerate(names):
            piece.words.append(Words(x + 8, y + 2 + 16 * line, short(name, most), size=13, bold=True))
        if told:
            piece.words.append(Words(x + 62, y + 16, told, size=12, tone="soft"))
            knife = y + 12
            piece.strokes.append(Stroke([(x + 8, knife), (x + 22, knife)], width=1.5))
            tip = knife if told == "closed" else knife - 8
            piece.strokes.append(Stroke([(x + 22, knife), (x + 40, tip)], width=1.5))
            piece.strokes.append(Stroke([(x + 40, knife), (x + 54, knife)], width=1.5))
        elif height > 40:
            tag_y = y + 2 + 16 * len(names)
            piece.words.append(Words(x + 8, tag_y, short(part.tag, 12), size=12, mono=True, tone="soft"))
            if not paired:
                draw_symbol(piece, part, x + _BOX_W - 40, y + 20)
        if paired:
            colours = self.plan.wire_colours
            for sign, off, colour in zip("+−", _RAILS, (colours.positive, colours.negative), strict=True):
                rail = x + _BOX_W - off
                piece.strokes += wire_strokes([(rail, y + 2), (rail, y + height - 20)], colour, _RAIL_MM2)
                piece.words.append(Words(rail, y - 2, sign, size=13, anchor="middle", bold=True))
        return piece

    def _to_rail(self, part: Part, column: int, y: float, sign: str) -> None:
        """From a bar of a pair to the edge of its box, over the other bar."""
        if not is_pair(part):
            return
        edge, colours = self._x(column) + _BOX_W, self.plan.wire_colours
        off, colour = (_RAILS[0], colours.positive) if sign == "+" else (_RAILS[1], colours.negative)
        self.over.strokes += wire_strokes([(edge - off, y), (edge, y)], colour, 2.5)
        dot = [(edge - off + dx, y + dy) for dx, dy in ((-4, 0), (0, -4), (4, 0), (0, 4), (-4, 0))]
        self.over.strokes.append(Stroke(dot, fill="ink"))

    def _fuse(self, piece: Piece, x: float, y: float, key: str) -> None:
        made = self.holders.get(key)
        if made is None:
            return
        piece.box(x - 11, y - 6, 22, 12, tone="ink")
        piece.strokes.append(Stroke([(x - 11, y), (x + 11, y)], width=1.2))
        piece.words.append(Words(x, y - 12, f"{made.rating_a:g} A", size=12, anchor="middle"))

    def _terminal(self, run: Run, part: str) -> str:
        end = run.start if run.start.part == part else run.finish
        if end.way is not None:
            return f"way {end.way}"
        return end.terminal or ""

    def _strand(self, strand: Strand) -> Piece:
        run, part = strand.run, self.parts[strand.here]
        other = self.parts[run.finish.part if run.start.part == part.id else run.start.part]
        negative = next((one for one in self.pieces[run.id] if one.leg[0] == "−"), None)
        x, y = self._x(strand.column) + _BOX_W, _TOP + strand.row * _ROW + 6
        end = x + (_GAP_W if strand.there is not None else _STUB_W)
        size = self.sized.chosen[run.id].size
        colours = self.plan.wire_colours
        count = f"{run.parallel} × " if run.parallel > 1 else ""
        piece = Piece(f"{run.tag} {run.name or ''}: {part.name} to {other.name}, {count}{size.label}", subject=run.id)
        if run.legs != "negative":
            piece.strokes += wire_strokes([(x, y), (end, y)], colours.positive, size.area_mm2)
            self._sign(y, "+", colours.positive, end)
            self._to_rail(part, strand.column, y, "+")
        home = self._home(run)
        if home:
            self.over.words.append(Words(end - 52, y + 28, f"− {home}", size=12, anchor="end"))
        if run.legs in ("both", "negative") and negative is not None and not home:
            low = y + (_LEG if run.legs == "both" else 0)
            self._sign(low, "−", colours.negative, end)
            self._to_rail(part, strand.column, low, "−")
            piece.strokes += wire_strokes([(x, low), (end, low)], colours.negative, size.area_mm2)
            passes = negative is not None and len(negative.runs) > 1
            if passes and strand.there is not None and not has_two_poles(other):
                # The negative goes on under the part.
                piece.strokes += wire_strokes([(end, low), (end + _BOX_W, low)], colours.negative, size.area_mm2)
        wide = sleeve(piece, x + 40, y, run.tag, colours.negative if run.legs == "negative" else colours.positive)
        over = y - 5 - copper_width(math.sqrt(4 * size.area_mm2 / math.pi)) / 2
        told = f"{count}{size.label}, {told_length(run.length_m, self.plan.units)}"
        piece.words.append(Words(x + 46 + wide, over, told, size=12, mono=True))
        if terminal := self._terminal(run, part.id):
            # Over the box of the part, which is painted after the wires.
            self.over.words.append(Words(x - 6, y - 1, terminal, size=12, anchor="end"))
        starts_here = run.start.part == part.id
        near, far = (run.id, far_key(run.id)) if starts_here else (far_key(run.id), run.id)
        if run.legs != "negative":
            self._fuse(piece, x + 20, y, near)
            if strand.there is not None:
                self._fuse(piece, end - 26, y, far)
        if strand.there is None:
            where = self.home.get(other.id)
            told = other.name + (f", {self._terminal(run, other.id)}" if self._terminal(run, other.id) else "")
            piece.words.append(Words(end + 8, y + 4, f"→ {short(told, 30)}", size=13))
            if where is not None and where.id != self._sheet.id:
                told = f"sheet {self.number[where.id]}, {grid_name(where, other.id)}: {short(where.name, 20)}"
                piece.words.append(Words(end + 24, y + 19, told, size=12, tone="soft"))
        return piece

    def _home(self, run: Run) -> str:
        """Where the negative of a coil goes that does not follow its positive; empty elsewhere."""
        ends = {run.start.part, run.finish.part}
        for one in self.pieces[run.id]:
            if one.leg[0] == "−" and len(one.runs) == 1 and not {one.start.part_id, one.finish.part_id} <= ends:
                return f"from {one.start.part}"
        return ""

    def _sign(self, y: float, sign: str, colour: str, end: float) -> None:
        """The pole and the colour in words beside the wire, to be read in black and white too."""
        self.over.words.append(Words(end - 52, y + 13, f"{sign} {colour}", size=12, anchor="end"))

    def _width(self, sheet: SheetPlan) -> float:
        boxes = [self._x(column) + _BOX_W for column, _, _ in sheet.spot.values()]
        stubs = [self._x(one.column) + _BOX_W + _STUB_W + _REF_W for one in sheet.strands if one.there is None]
        return max([*boxes, *stubs, 400.0]) + 14

    def _grid(self, sheet: SheetPlan) -> Piece:
        """Letters of the rows and numbers of the columns, by which other sheets refer to a part."""
        piece = Piece("Grid")
        for row in range(max(1, sheet.rows)):
            piece.words.append(Words(10, _TOP + row * _ROW + 6, ROW_NAMES[row % 26], size=12, tone="soft"))
        for column in range(1 + max((spot[0] for spot in sheet.spot.values()), default=0)):
            middle = self._x(column) + _BOX_W / 2
            piece.words.append(Words(middle, _TOP - 20, f"{column + 1}", size=12, tone="soft", anchor="middle"))
        return piece

    def draw(self, sheet: SheetPlan, state_name: str) -> Drawing:
        """The sheet."""
        self._sheet, self.over = sheet, Piece("Terminals")
        drawing = Drawing(
            kind="wiring",
            title=f"Sheet {self.number[sheet.id]} of {len(self.sheets)}: {sheet.name}",
            note=f"Both legs, copper true to scale. Contacts: {state_name}. An arrow leads to where a wire goes on.",
            width=self._width(sheet),
            height=_TOP + max(1, sheet.rows) * _ROW + 10,
            columns=COLUMNS,
        )
        head = Piece("Title")
        head.words.append(Words(_LEFT, 24, drawing.title, size=16, bold=True))
        drawing.pieces += [head, self._grid(sheet)]
        drawing.pieces += [self._strand(strand) for strand in sheet.strands]
        drawing.pieces += [self._box(self.parts[part], *spot) for part, spot in sheet.spot.items()]
        drawing.pieces.append(self.over)
        for strand in sheet.strands:
            run = strand.run
            own = [one for one in self.holders.values() if one.run == run.id]
            fuse = "; ".join(f"{one.what}, {one.where}" for one in own)
            negative = self._home(run) or ("yes" if any(one.leg[0] == "−" for one in self.pieces[run.id]) else "")
            positive = {"negative": "", "series": "link"}.get(run.legs, "yes")
            drawing.rows.append(
                [
                    run.tag, self.parts[run.start.part].name, self.parts[run.finish.part].name, positive, negative,
                    self.sized.chosen[run.id].size.label, fuse,
                ]
            )  # fmt: skip
        return drawing


def is_pair(part: Part) -> bool:
    """Whether a part is a positive and a negative bar."""
    return isinstance(part, Busbar) and part.bars == "both"


def grid_name(sheet: SheetPlan, part: str) -> str:
    """Where a part stands on its sheet, as ``C2``: row by letter, column by number."""
    column, row, _ = sheet.spot[part]
    return f"{ROW_NAMES[row % 26]}{column + 1}"


def has_two_poles(part: Part) -> bool:
    """Whether a pair lands on a part with both its wires."""
    return not one_pole(part) and all(has_legs(part))


def wiring_sheet(plan: Plan, sheet: str | None, state: State | None) -> Drawing:
    """One sheet of the wiring diagram.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.
    sheet : str or None
        Its id; the first where None.
    state : State or None
        Whose contacts are drawn; at rest and closed where None.

    Returns
    -------
    Drawing
        A hub at the left, what hangs on it in chains to the right; where a wire leaves the sheet an arrow names the
        part and its sheet.

    Raises
    ------
    UnknownRow
        If there is no such sheet.
    """
    plan = harness_of(plan).plan
    sheets = sheets_of(plan)
    found = next((one for one in sheets if sheet is None or one.id == sheet), None)
    if found is None:
        known = ", ".join(one.id for one in sheets) or "none: the plan has no parts"
        raise UnknownRow(f"no sheet {sheet!r}", field="subject", value=sheet, allowed=known)
    return _Draughtsman(plan, sheets, state).draw(found, state.name if state is not None else "everything closed")
