"""Which parts share a sheet of the wiring diagram, and where each stands: a hub at the left, chains to its right."""

from __future__ import annotations

import itertools
from collections import deque
from dataclasses import dataclass, replace

from lucernis.plan.model import Plan, Run

# So many rows a sheet: more are hard to follow by finger. Practice.
ROWS = 13
# So many parts side by side: more are too small on paper.
MOST_COLUMNS = 4
_HUBS = ("busbar", "fuse_block")
# A part with more runs than a way in and a way out is one where one looks for a wire.
_MANY = 4


@dataclass(frozen=True, slots=True)
class Strand:
    """A run on a sheet: from a part in one column to a part in the next, on a row. One that leaves it, or leads to a
    part elsewhere on it, ends in a reference: `there` is None.
    """

    run: Run
    here: str
    there: str | None
    column: int
    row: int


@dataclass(frozen=True, slots=True)
class SheetPlan:
    """One sheet: its hub, the rows of parts, and the runs on it."""

    id: str
    name: str
    hub: str
    spot: dict[str, tuple[int, int, int]]
    """Part to its column, first row and rows it takes."""
    strands: tuple[Strand, ...]
    rows: int


def _hubs(plan: Plan) -> list[str]:
    count: dict[str, int] = {}
    for run in plan.runs:
        for end in (run.start, run.finish):
            count[end.part] = count.get(end.part, 0) + 1
    found = [part.id for part in plan.parts if part.kind in _HUBS or count.get(part.id, 0) >= _MANY]
    if not found and plan.parts:
        found = [max((part.id for part in plan.parts), key=lambda one: (count.get(one, 0), one))]
    return found


def _homes(plan: Plan, hubs: list[str]) -> dict[str, str]:
    """Each part to the hub it hangs on: the nearest along the runs, of equals the one that stands later in the plan."""
    beside: dict[str, list[str]] = {part.id: [] for part in plan.parts}
    for run in plan.runs:
        beside[run.start.part].append(run.finish.part)
        beside[run.finish.part].append(run.start.part)
    home = {hub: hub for hub in hubs}
    queue = deque(reversed(hubs))
    while queue:
        here = queue.popleft()
        for there in beside[here]:
            if there not in home:
                home[there] = home[here]
                queue.append(there)
    # What hangs on nothing stands on the first sheet.
    return {part.id: home.get(part.id, hubs[0]) for part in plan.parts}


class _Layer:
    """Lays one hub with what hangs on it out in rows: a tree from the hub, and references for the rest."""

    def __init__(self, plan: Plan, hub: str, members: list[str]) -> None:
        self.hub, self.members = hub, members
        self.at: dict[str, list[Run]] = {part.id: [] for part in plan.parts}
        for run in plan.runs:
            self.at[run.start.part].append(run)
            self.at[run.finish.part].append(run)
        self.above: dict[str, str] = {}
        self.spot: dict[str, tuple[int, int, int]] = {}
        self.strands: list[Strand] = []
        self.cursor = 0

    def lay(self) -> None:
        """The hub, what hangs on it, and below it what hangs on nothing there or too far to the right."""
        roots = [self.hub, *(part for part in self.members if part != self.hub)]
        for root in roots:
            if root not in self.spot:
                self._grow(root)
                self._part(root, 0)

    def _grow(self, root: str) -> None:
        """Which part hangs on which."""
        column = {root: 0}
        queue = deque([root])
        while queue:
            here = queue.popleft()
            for run in self.at[here]:
                there = _other(run, here)
                free = there in self.members and there not in self.spot and there not in column
                if free and there != self.hub and column[here] < MOST_COLUMNS - 1:
                    column[there], self.above[there] = column[here] + 1, here
                    queue.append(there)

    def _part(self, part: str, column: int, least: int = 1) -> None:
        """A part from the next free row on, with all that hangs on it; it takes `least` rows or more."""
        first = self.cursor
        self.spot[part] = (column, first, least)
        for run in sorted(self.at[part], key=lambda run: _order(part, run)):
            there = _other(run, part)
            if self.above.get(part) == there:
                continue
            if self.above.get(there) != part:
                self.strands.append(Strand(run, part, None, column, self.cursor))
                self.cursor += 1
            elif there not in self.spot:
                beside = [one for one in self.at[part] if _other(one, part) == there]
                self.strands += [Strand(one, part, there, column, self.cursor + at) for at, one in enumerate(beside)]
                self._part(there, column + 1, len(beside))
        self.cursor = max(self.cursor, first + least)
        self.spot[part] = (column, first, self.cursor - first)


def _other(run: Run, part: str) -> str:
    return run.finish.part if run.start.part == part else run.start.part


def _order(part: str, run: Run) -> tuple[int, int, str]:
    end = run.start if run.start.part == part else run.finish
    return (0 if end.way is None else 1, end.way or 0, run.tag)


def _pages(layer: _Layer, name: str) -> list[SheetPlan]:
    """A hub's rows over as many sheets as they need, cut between what hangs on the hub itself."""
    hub = layer.hub
    roots = {spot[1] for part, spot in layer.spot.items() if spot[0] == 0 and part != hub}
    starts = sorted({strand.row for strand in layer.strands if strand.here == hub} | roots | {0})
    pages: list[list[tuple[int, int]]] = [[]]
    for start, end in itertools.pairwise([*starts, layer.cursor]):
        if pages[-1] and end - pages[-1][0][0] > ROWS:
            pages.append([])
        pages[-1].append((start, end))
    found = []
    hub_end = layer.spot[hub][1] + layer.spot[hub][2]
    for at, page in enumerate(pages):
        first, last = page[0][0], page[-1][1]
        spot = {
            part: (column, row - first, rows)
            for part, (column, row, rows) in layer.spot.items()
            if part != hub and first <= row < last
        }
        if first < hub_end:
            spot[hub] = (0, 0, min(last, hub_end) - first)
        strands = tuple(replace(one, row=one.row - first) for one in layer.strands if first <= one.row < last)
        page_name = name if len(pages) == 1 else f"{name}, {at + 1} of {len(pages)}"
        found.append(SheetPlan(hub if at == 0 else f"{hub}.{at + 1}", page_name, hub, spot, strands, last - first))
    return found


def sheets_of(plan: Plan) -> list[SheetPlan]:
    """The sheets of a plan's wiring diagram.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.

    Returns
    -------
    list of SheetPlan
        A sheet or more for each hub, in the order of the plan; each run stands as a strand between two parts on one of
        them, or as a reference on those of both its ends.
    """
    hubs = _hubs(plan)
    if not hubs:
        return []
    home = _homes(plan, hubs)
    names = {part.id: part.name for part in plan.parts}
    found = []
    for hub in hubs:
        layer = _Layer(plan, hub, [part.id for part in plan.parts if home[part.id] == hub])
        layer.lay()
        found += _pages(layer, names[hub])
    return found
