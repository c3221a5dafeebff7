"""Which fuses stand between a run and the batteries that can feed it, from each of its ends."""

from __future__ import annotations

from collections import deque
from collections.abc import Mapping
from dataclasses import dataclass

from lucernis.core.circuit.terminals import has_positive, part_id_of
from lucernis.core.circuit.topology import Topology
from lucernis.core.sizing.fusing import far_key, fed_by_start
from lucernis.plan.model import Battery, Plan, Run


@dataclass(frozen=True, slots=True)
class EndGuard:
    """One end of a run: keys of the fuses between it and the batteries that can feed it from there.

    `bare` is True where a battery is reached without any fuse; then all of the run is unprotected from that end,
    else only the wire up to its own fuse, `unprotected_m`. `fed` is False where no battery lies beyond that end.
    """

    fed: bool
    bare: bool
    fuses: tuple[str, ...]
    unprotected_m: float


@dataclass(frozen=True, slots=True)
class RunGuard:
    """Both ends of a run, as it is drawn."""

    start: EndGuard
    finish: EndGuard


class BothEnds:
    """Looks along the positives of a plan, every contact closed."""

    def __init__(self, plan: Plan, topology: Topology) -> None:
        self.plan, self.topology = plan, topology
        self._touching: Mapping[str, list[tuple[Run, str]]] | None = None
        self._known: dict[str, RunGuard] = {}

    def _runs_at(self, point: str) -> list[tuple[Run, str]]:
        if self._touching is None:
            touching: dict[str, list[tuple[Run, str]]] = {}
            for run in self.plan.runs:
                if has_positive(run) and run.id not in self.topology.spares:
                    start, finish = self.topology.ends(run)
                    touching.setdefault(start, []).append((run, finish))
                    touching.setdefault(finish, []).append((run, start))
            self._touching = touching
        return self._touching.get(point, [])

    def _key(self, run: Run, *, at_start: bool) -> str | None:
        fuse = run.fuse_at_start if at_start else run.fuse_at_finish
        if fuse is None:
            return None
        return run.id if fed_by_start(self.topology, run) == at_start else far_key(run.id)

    def _beyond(self, run: Run, point: str, own: str | None, own_m: float) -> EndGuard:
        """Walk from one end of a run away from it until fuses or batteries are met."""
        parts = self.topology.parts
        found: list[str] = []
        fed = bare = False
        # What lies beyond a fuse is followed only to see whether a battery is there at all.
        queue: deque[tuple[str, str | None]] = deque([(point, own)])
        seen = {(point, own)}
        while queue:
            here, guard = queue.popleft()
            if isinstance(parts[part_id_of(here)], Battery):
                fed = True
                if guard is None:
                    bare = True
                elif guard not in found:
                    found.append(guard)
                continue
            for other, there in self._runs_at(here):
                if other.id == run.id:
                    continue
                leaves_by_start = self.topology.ends(other)[0] == here
                keys = [self._key(other, at_start=at_start) for at_start in (leaves_by_start, not leaves_by_start)]
                first = guard or next((key for key in keys if key is not None), None)
                if (there, first) not in seen:
                    seen.add((there, first))
                    queue.append((there, first))
        unprotected_m = run.length_m if fed and bare else own_m if own is not None and fed else 0.0
        return EndGuard(fed, bare, tuple(found), unprotected_m)

    def of_run(self, run: Run) -> RunGuard:
        """What guards a run from both ends."""
        if run.id in self._known:
            return self._known[run.id]
        ends = self.topology.ends(run)
        sides = []
        for at_start, point in zip((True, False), ends, strict=True):
            fuse = run.fuse_at_start if at_start else run.fuse_at_finish
            if run.id not in self.topology.both_fed and fed_by_start(self.topology, run) != at_start:
                sides.append(EndGuard(fed=False, bare=False, fuses=(), unprotected_m=0.0))
                continue
            own = self._key(run, at_start=at_start)
            sides.append(self._beyond(run, point, own, fuse.distance_m if fuse is not None else 0.0))
        self._known[run.id] = RunGuard(*sides)
        return self._known[run.id]
