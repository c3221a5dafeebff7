"""Who feeds whom: the plan's parts and runs as a graph from its batteries outward. No figures here.

Contacts count as closed: what a state opens stands in `switching.py`, how the negatives get back in `returns.py`.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Mapping
from dataclasses import dataclass, field

from lucernis.core.circuit.terminals import feed_point, has_positive, part_id_of, point
from lucernis.plan.model import Battery, Busbar, FuseBlock, Joint, Load, Part, Plan, Run
from lucernis.plan.terminals import terminals

# Where a line of runs ends, however few go on from there.
_BRANCHING = (Battery, Busbar, FuseBlock)


@dataclass(frozen=True, slots=True)
class Topology:
    """The feeding tree of a plan, over the feed points of `terminals.py`.

    `order` lists tree runs from the battery outward. `feeder_of` maps a point to the run that feeds it, `start_of` a
    run to the point it is fed from (which need not be the run's own start), `behind` a run to the consumers fed
    through it (loads, coils of relays, terminals of chargers), `loads_behind` to the loads among them, `parts` an id
    to its part, `root_of` a point to the battery or panel it hangs on. Runs in `closing` join two points that are both
    fed already, so that those in `both_fed` can be fed from either end; runs in `dead` hang on nothing, `spares` are
    capped; `returns` are negatives alone and links in series.
    """

    order: tuple[str, ...]
    feeder_of: dict[str, str]
    start_of: dict[str, str]
    finish_of: dict[str, str]
    fed_runs: dict[str, tuple[str, ...]]
    behind: dict[str, tuple[str, ...]]
    loads_behind: dict[str, tuple[str, ...]]
    closing: tuple[str, ...]
    both_fed: frozenset[str]
    dead: tuple[str, ...]
    spares: frozenset[str]
    returns: tuple[str, ...]
    runs: dict[str, Run]
    parts: dict[str, Part]
    consumers: tuple[str, ...]
    ends_of: dict[str, tuple[str, str]]
    root_of: dict[str, str]
    # Ways that were asked for already: each is that of the point before it and one run more.
    _paths: dict[str, tuple[str, ...]] = field(default_factory=dict, compare=False, repr=False)
    _lines: dict[str, tuple[str, ...]] = field(default_factory=dict, compare=False, repr=False)
    _drawing: frozenset[str] = field(default=frozenset(), compare=False, repr=False)

    def part_at(self, point_name: str) -> Part:
        """The part a point belongs to."""
        return self.parts[part_id_of(point_name)]

    def fed_part(self, run: Run) -> Part:
        """The part a run gets its current from; that at its start where nothing feeds it."""
        return self.parts[part_id_of(self.start_of.get(run.id, run.start.part))]

    def far_part(self, run: Run) -> Part:
        """The part a run takes its current to; that at its finish where nothing feeds it."""
        return self.parts[part_id_of(self.finish_of.get(run.id, run.finish.part))]

    def onward(self, point_name: str) -> str | None:
        """The run that takes all of a run's current on from where it ends: from a joint, a switch, a relay. None where
        it branches, where something draws, and at batteries, bars and blocks."""
        fed = self.fed_runs.get(point_name, ())
        if len(fed) != 1 or point_name in self._drawing or isinstance(self.part_at(point_name), _BRANCHING):
            return None
        return fed[0]

    def line(self, run: Run) -> tuple[str, ...]:
        """Runs in a row with one current, this one among them, from the battery outward; itself off the tree."""
        if run.id not in self._lines:
            if run.id not in self.finish_of or run.id in self.closing:
                return (run.id,)
            way = [run.id]
            while (before := self.feeder_of.get(self.start_of[way[0]])) and self.onward(self.start_of[way[0]]):
                way.insert(0, before)
            while after := self.onward(self.finish_of[way[-1]]):
                way.append(after)
            self._lines.update(dict.fromkeys(way, tuple(way)))
        return self._lines[run.id]

    def line_end(self, run: Run) -> str:
        """The point all of a run's line leads to; that at its finish where nothing feeds it."""
        last = self.line(run)[-1]
        return self.finish_of.get(last, self.ends_of[last][1])

    def line_end_part(self, run: Run) -> Part:
        """The part there."""
        return self.part_at(self.line_end(run))

    def from_panel(self, run: Run) -> bool:
        """Whether what a run carries comes from panels, by whatever joints."""
        roots = {self.root_of.get(one, "") for one in self.ends_of[run.id]} | {run.start.part, run.finish.part}
        return any(one in self.parts and self.parts[one].kind == "panel" for one in roots)

    def ends(self, run: Run) -> tuple[str, str]:
        """Feed points at the start and the finish of a run."""
        return self.ends_of[run.id]


def is_spare(run: Run, parts: Mapping[str, Part]) -> bool:
    """Whether a run is a spare: one end capped, the other in a way of a block that has no fuse yet, so that nothing is
    on it. A wire that is capped and hangs on a bar or a post is live."""
    if run.fuse_at_start is not None or run.fuse_at_finish is not None:
        return False
    ends = (parts[run.start.part], parts[run.finish.part])
    capped = [isinstance(part, Joint) and part.form == "cap" for part in ends]
    return any(capped) and (all(capped) or any(isinstance(part, FuseBlock) for part in ends))


def _joined(
    plan: Plan, ends_of: dict[str, tuple[str, str]], spares: frozenset[str]
) -> dict[str, list[tuple[Run, str]]]:
    """For each feed point the runs that touch it, with the point at their other end."""
    touching: dict[str, list[tuple[Run, str]]] = {part.id: [] for part in plan.parts}
    for run in plan.runs:
        if not has_positive(run) or run.id in spares:
            continue
        start, finish = ends_of[run.id]
        touching.setdefault(start, []).append((run, finish))
        touching.setdefault(finish, []).append((run, start))
    return touching


def trace(plan: Plan) -> Topology:
    """Follow the wires from every battery outward, nearest first, then from panels that have a charger before them.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.

    Returns
    -------
    Topology
        The tree, and what does not belong to it.
    """
    parts = {part.id: part for part in plan.parts}
    ends_of = {
        run.id: (
            feed_point(parts[run.start.part], run.start, "start"),
            feed_point(parts[run.finish.part], run.finish, "finish"),
        )
        for run in plan.runs
    }
    spares = frozenset(run.id for run in plan.runs if is_spare(run, parts))
    touching = _joined(plan, ends_of, spares)
    roots = [part.id for part in plan.parts if part.kind == "battery"]
    panels = deque(part.id for part in plan.parts if part.kind == "panel")
    root_of = {root: root for root in roots}
    feeder_of: dict[str, str] = {}
    start_of: dict[str, str] = {}
    finish_of: dict[str, str] = {}
    fed_runs: dict[str, list[str]] = {name: [] for name in touching}
    order: list[str] = []
    reached = set(roots)
    queue = deque(roots)
    used: set[str] = set()
    closing: list[str] = []
    held: deque[str] = deque()
    while queue or held or panels:
        if not queue and held:
            # What joins two sides is passed last, so that each side keeps what hangs on it.
            queue.append(held.popleft())
        elif not queue:
            panel = panels.popleft()
            if panel not in reached:
                reached.add(panel)
                root_of[panel] = panel
                queue.append(panel)
            continue
        here = queue.popleft()
        for run, there in touching[here]:
            if run.id in used:
                continue
            used.add(run.id)
            if there in reached:
                closing.append(run.id)
                # Of two ends that are both fed the one nearer to its battery counts as the way in, however it is drawn.
                start_of[run.id], finish_of[run.id] = here, there
                continue
            reached.add(there)
            order.append(run.id)
            root_of[there] = root_of[here]
            feeder_of[there] = run.id
            start_of[run.id], finish_of[run.id] = here, there
            fed_runs[here].append(run.id)
            (held if parts[part_id_of(there)].kind == "isolator" else queue).append(there)
    loads = {part.id for part in plan.parts if isinstance(part, Load)}
    others = {
        name
        for part in plan.parts
        for name in _other_consumers(part)
        if name in touching and (name != part.id or touching[name])
    }
    behind: dict[str, tuple[str, ...]] = dict.fromkeys(closing, ())
    for run_id in reversed(order):
        end = finish_of[run_id]
        own = (end,) if end in loads or end in others else ()
        behind[run_id] = own + tuple(one for next_run in fed_runs[end] for one in behind[next_run])
    return Topology(
        order=tuple(order),
        feeder_of=feeder_of,
        start_of=start_of,
        finish_of=finish_of,
        fed_runs={name: tuple(runs) for name, runs in fed_runs.items()},
        behind=behind,
        loads_behind={run: tuple(one for one in some if one in loads) for run, some in behind.items()}
        if others
        else behind,
        closing=tuple(closing),
        both_fed=_both_fed(closing, start_of, finish_of, feeder_of),
        dead=tuple(run.id for run in plan.runs if has_positive(run) and run.id not in used and run.id not in spares),
        spares=spares,
        returns=tuple(run.id for run in plan.runs if not has_positive(run)),
        runs={run.id: run for run in plan.runs},
        parts=parts,
        consumers=tuple(
            dict.fromkeys(
                one
                for part in plan.parts
                for one in (part.id, *_other_consumers(part))
                if one in loads or one in others
            )
        ),
        ends_of=ends_of,
        root_of=root_of,
        _drawing=frozenset(loads | others),
    )


def _other_consumers(part: Part) -> tuple[str, ...]:
    """Points that draw or give without being loads: coils, and the terminals of chargers."""
    if part.kind == "relay":
        return (f"{part.id}:coil",)
    if part.kind == "charger":
        return tuple(point(part.id, terminal) for terminal in terminals(part))
    return ()


def _both_fed(
    closing: list[str], start_of: dict[str, str], finish_of: dict[str, str], feeder_of: dict[str, str]
) -> frozenset[str]:
    """Runs on a ring, batteries taken as joined: current can come from either end."""

    def way_up(here: str) -> list[str]:
        way = []
        while here in feeder_of:
            way.append(feeder_of[here])
            here = start_of[feeder_of[here]]
        return way

    found: set[str] = set()
    for run in closing:
        found |= {run} | set(way_up(start_of[run])) ^ set(way_up(finish_of[run]))
    return frozenset(found)


def path_runs(topology: Topology, point_name: str) -> tuple[str, ...]:
    """Tree runs from the battery to a point, battery first; empty for a battery or a point nothing feeds."""
    known, ahead, here = topology._paths, list[str](), point_name
    while here not in known and here in topology.feeder_of:
        ahead.append(here)
        here = topology.start_of[topology.feeder_of[here]]
    path = known.get(here, ())
    for name in reversed(ahead):
        path = known[name] = (*path, topology.feeder_of[name])
    return path
