"""Where everything stands on the step-down map: a column by its stage, a row by the loads behind it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field

from lucernis.core.circuit.terminals import part_id_of
from lucernis.core.circuit.topology import Topology
from lucernis.plan.model import Plan

CHARGER_ROOM = 0.4
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


@dataclass(slots=True)
class Spot:
    column: int
    row: float


@dataclass(slots=True)
class Standing:
    """A point being placed: what it feeds is waiting, and the rows of what has been placed."""

    point: str
    column: int
    waiting: Iterator[str]
    rows: list[float] = field(default_factory=list)


class Layout:
    """Every fed part gets a column by its stage and a row by the loads behind it."""

    def __init__(self, plan: Plan, topology: Topology) -> None:
        self.plan, self.topology = plan, topology
        self.spots: dict[str, Spot] = {}
        self._next_row = 0.0
        roots = [
            part.id
            for part in plan.parts
            if part.kind == "battery" or (part.kind == "panel" and topology.root_of.get(part.id) == part.id)
        ]
        behind = {root: charger for root in roots if (charger := self._supplies(root)) is not None}
        for root in roots:
            if root not in behind:
                self._place(root, 0)
        # What supplies the lowest charger stands highest, so that supplies lie within each other and never cross.
        rows = {one: spot.row for one, spot in self.spots.items()}
        for root in sorted(behind, key=lambda one: -rows.get(behind[one], 0.0)):
            self._place(root, 0)
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

    def _supplies(self, root: str) -> str | None:
        """The charger a battery or panel feeds and nothing else, if it does."""
        ahead = list(self.topology.fed_runs.get(root, ()))
        ends: set[str] = set()
        while ahead:
            finish = self.topology.finish_of[ahead.pop()]
            further = self.topology.fed_runs.get(finish, ())
            if not further:
                ends.add(part_id_of(finish))
            ahead += further
        only = ends.pop() if len(ends) == 1 else None
        return only if only is not None and self.parts_kind(only) == "charger" else None

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

    def _standing(self, point: str, column: int) -> Standing:
        fed = point in self.topology.feeder_of
        at = max(column, _STAGE[self.topology.part_at(point).kind]) if fed else column
        return Standing(point, at, (self.topology.finish_of[one] for one in self.topology.fed_runs.get(point, ())))

    def _settle(self, here: Standing) -> float:
        rows = here.rows
        if not rows:
            # Two ribbons meet at a charger, each with its words: it needs more room above and below.
            room = CHARGER_ROOM if self.topology.part_at(here.point).kind == "charger" else 0.0
            rows = [self._next_row + room]
            self._next_row += 1 + 2 * room
        # What hangs behind a load lies in line with it; everything else stands in the middle of what it feeds.
        load = self.topology.part_at(here.point).kind == "load"
        spot = Spot(here.column, rows[0] if load else sum(rows) / len(rows))
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
