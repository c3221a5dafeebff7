"""What a meter reads at every point in every state of a plan, by the solve for reading, and what is dead."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from lucernis.core.circuit.terminals import part_id_of
from lucernis.core.prove.expect import foresee
from lucernis.core.prove.frame import frame
from lucernis.core.prove.living import live
from lucernis.core.prove.words import number_text
from lucernis.core.report import NodeReport
from lucernis.plan.model import Plan


@dataclass(frozen=True, slots=True)
class Cell:
    """A point in a state: volts from and to, None where no battery reaches it. [V]"""

    value_v: float | None
    low_v: float | None
    high_v: float | None
    text: str
    band: str


@dataclass(frozen=True, slots=True)
class BoardRow:
    """A point with a cell a state, in the plan's order."""

    id: str
    part: str
    tag: str
    label: str
    cells: tuple[Cell, ...]


_DEAD = Cell(None, None, None, "dead", "")


def _cell(value_v: float, low_v: float, high_v: float) -> Cell:
    return Cell(value_v, low_v, high_v, number_text(value_v), f"{number_text(low_v)} to {number_text(high_v)}")


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
    readings = []
    for node in nodes:
        plus = f"+{node.id}" if node.id in wiring.pos else f"+{node.part}"
        minus = f"-{node.id}" if node.id in wiring.neg else f"-{part_id_of(node.id)}"
        readings.append(made.volts(plus, minus, node.label, part=node.part))
    columns = [foresee(live(made, made.situations[f"state:{state.id}"]), readings) for state in made.plan.states]
    return [
        BoardRow(
            node.id, node.part, node.tag, node.label,
            tuple(
                _DEAD if node.voltage_v[k] is None
                else _cell(float(column.value[row]), float(column.low[row]), float(column.high[row]))
                for k, column in enumerate(columns)
            ),
        )
        for row, node in enumerate(nodes)
    ]  # fmt: skip
