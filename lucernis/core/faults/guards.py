"""Which fuse guards a run from each of its ends, and what a point of the distribution has to carry."""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass

from lucernis.core.circuit.terminals import has_positive, part_id_of
from lucernis.core.sizing.fusing import far_key, fed_by_start, nearest_fuses
from lucernis.core.sizing.search import Sized
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


def _own_key(sized: Sized, run: Run, *, at_start: bool) -> str | None:
    fuse = run.fuse_at_start if at_start else run.fuse_at_finish
    if fuse is None:
        return None
    return run.id if fed_by_start(sized.topology, run) == at_start else far_key(run.id)


class Guards:
    """Looks along the positives of a plan, every contact closed."""

    def __init__(self, plan: Plan, sized: Sized) -> None:
        self.plan, self.sized = plan, sized
        self._touching: dict[str, list[tuple[Run, str]]] | None = None
        self.nearest = nearest_fuses(sized.topology)

    def _runs_at(self, point: str) -> list[tuple[Run, str]]:
        if self._touching is None:
            self._touching = {}
            for run in self.plan.runs:
                if has_positive(run):
                    start, finish = self.sized.topology.ends(run)
                    self._touching.setdefault(start, []).append((run, finish))
                    self._touching.setdefault(finish, []).append((run, start))
        return self._touching.get(point, [])

    def _beyond(self, run: Run, point: str, own: str | None, own_m: float) -> EndGuard:
        """Walk from one end of a run away from it until fuses or batteries are met."""
        parts = self.sized.topology.parts
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
                keys = [_own_key(self.sized, other, at_start=at_start) for at_start in (True, False)]
                first = guard or next((key for key in keys if key is not None), None)
                if (there, first) not in seen:
                    seen.add((there, first))
                    queue.append((there, first))
        unprotected_m = run.length_m if fed and bare else own_m if own is not None and fed else 0.0
        return EndGuard(fed, bare, tuple(found), unprotected_m)

    def of_run(self, run: Run) -> RunGuard:
        """What guards a run from both ends."""
        ends = self.sized.topology.ends(run)
        sides = []
        for at_start, point in zip((True, False), ends, strict=True):
            fuse = run.fuse_at_start if at_start else run.fuse_at_finish
            own = _own_key(self.sized, run, at_start=at_start)
            if run.id not in self.sized.topology.both_fed and fed_by_start(self.sized.topology, run) != at_start:
                sides.append(EndGuard(fed=False, bare=False, fuses=(), unprotected_m=0.0))
                continue
            sides.append(self._beyond(run, point, own, fuse.distance_m if fuse is not None else 0.0))
        return RunGuard(*sides)

    def through_a(self, point: str) -> float:
        """What passes a feed point: all that can be on together behind it, at most what its fuse lets through. [A]"""
        feeder = self.sized.topology.feeder_of.get(point)
        if feeder is None:
            return 0.0
        wanted = self.sized.demand.design_current_a[feeder]
        guard = self.nearest.get(point)
        fuse = self.sized.fuses.get(guard) if guard is not None else None
        # A computed fuse follows the load, so it never holds it back; a pinned one may.
        if fuse is not None and fuse.lasting_a is not None:
            return min(wanted, fuse.lasting_a)
        return wanted

    def lasting_a(self, point: str) -> float | None:
        """What the fuse before a feed point lets through for ever; None without one. [A]"""
        guard = self.nearest.get(point)
        fuse = self.sized.fuses.get(guard) if guard is not None else None
        return fuse.lasting_a if fuse is not None else None
