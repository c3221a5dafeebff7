"""What a meter reads at every point in every state of a plan, by the solve for reading, what is dead and what keeps
the rest alive."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from lucernis.core.circuit.giving import source_points
from lucernis.core.circuit.live_from import listed
from lucernis.core.circuit.supplies import held_v
from lucernis.core.circuit.terminals import part_id_of
from lucernis.core.prove.expect import Foreseen, foresee
from lucernis.core.prove.frame import frame
from lucernis.core.prove.living import live
from lucernis.core.prove.words import number_text
from lucernis.core.report import NodeReport
from lucernis.plan.model import Plan


@dataclass(frozen=True, slots=True)
class Cell:
    """A point in a state: volts from and to, None where no battery reaches it. [V]

    `live_from` names every source that reaches it. It is dead only where that is empty: without a battery a charger
    holds it at its own volts, which nobody reckons closely.
    """

    value_v: float | None
    low_v: float | None
    high_v: float | None
    text: str
    band: str
    live_from: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class BoardRow:
    """A point with a cell a state, in the plan's order."""

    id: str
    part: str
    tag: str
    label: str
    cells: tuple[Cell, ...]


_DEAD = Cell(None, None, None, "dead", "")


def _read(found: Foreseen, row: int, sources: tuple[str, ...]) -> Cell:
    value_v, low_v, high_v = float(found.value[row]), float(found.low[row]), float(found.high[row])
    band = f"{number_text(low_v)} to {number_text(high_v)}"
    return Cell(value_v, low_v, high_v, number_text(value_v), band, sources)


def _held(plan: Plan, sources: tuple[str, ...]) -> Cell:
    """What sources hold alone that no battery steadies: live, and about where."""
    # Two parts may have one name: of those that can give the highest counts.
    high = held_v(plan, [part for part in plan.parts if part.name in sources and source_points(part)])
    return Cell(None, None, high, "live", f"up to {number_text(high)} from {listed(sources)}", sources)


def cell_text(cell: Cell) -> str:
    """A cell in words: its volts, `dead`, or `live` with what holds it."""
    return f"live from {listed(cell.live_from)}" if cell.text == "live" else cell.text


def reading_board(plan: Plan, nodes: Sequence[NodeReport]) -> list[BoardRow]:
    """What a meter reads at every point in every state.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.
    nodes : sequence of NodeReport
        Its points, and what is dead where.

    Returns
    -------
    list of BoardRow
        Volts with the band that holds 95 of 100 readings.
    """
    made = frame(plan)
    wiring = made.sized.wiring
    root_of, batteries = made.sized.topology.root_of, [part.id for part in plan.parts if part.kind == "battery"]
    readings, from_home = [], []
    for node in nodes:
        plus = f"+{node.id}" if node.id in wiring.pos else f"+{node.part}"
        minus = f"-{node.id}" if node.id in wiring.neg else f"-{part_id_of(node.id)}"
        readings.append(made.volts(plus, minus, node.label, part=node.part))
        # A point without a negative of its own is read against its battery's.
        home = root_of.get(node.id) or root_of.get(node.part) or next(iter(batteries), node.part)
        from_home.append(made.volts(plus, f"-{home}", node.label, part=node.part))
    columns = []
    for state in made.plan.states:
        there = live(made, made.situations[f"state:{state.id}"])
        columns.append((foresee(there, readings), foresee(there, from_home)))
    return [
        BoardRow(
            node.id, node.part, node.tag, node.label,
            tuple(
                _DEAD if not node.live_from[k]
                else _held(plan, tuple(node.live_from[k])) if node.voltage_v[k] is None
                else _read(own if not own.floating[row] else home, row, tuple(node.live_from[k]))
                for k, (own, home) in enumerate(columns)
            ),
        )
        for row, node in enumerate(nodes)
    ]  # fmt: skip
