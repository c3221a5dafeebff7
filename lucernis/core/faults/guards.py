"""What guards each point of the distribution, and what it has to carry; the ends of runs stand in the sizing room."""

from __future__ import annotations

import numpy as np

from lucernis.core.sizing.both_ends import RunGuard
from lucernis.core.sizing.choice import Sized
from lucernis.core.sizing.fusing import nearest_fuses
from lucernis.plan.model import Part, Plan, Run

_IN_THE_NEGATIVE = ("busbar", "shunt", "chassis_point")


class Guards:
    """Looks along the positives of a plan, every contact closed."""

    def __init__(self, plan: Plan, sized: Sized) -> None:
        self.plan, self.sized = plan, sized
        self.nearest = nearest_fuses(sized.topology)

    def of_run(self, run: Run) -> RunGuard:
        """What guards a run from both ends."""
        return self.sized.both.of_run(run)

    def through_a(self, point: str) -> float:
        """What passes a feed point: all that can be on together behind it, at most what its fuse lets through; through
        a bar, a shunt or a bolt in the negative what comes back, as solved. [A]"""
        feeder = self.sized.topology.feeder_of.get(point)
        part = self.sized.topology.parts.get(point)
        back_a = self.back_a(part) if part is not None and part.kind in _IN_THE_NEGATIVE else 0.0
        if feeder is None:
            return back_a
        wanted = self.sized.carry_a(feeder)
        guard = self.nearest.get(point)
        fuse = self.sized.fuses.get(guard) if guard is not None else None
        # A computed fuse follows the load, so it never holds it back; a pinned one may.
        if fuse is not None and fuse.lasting_a is not None:
            return max(back_a, min(wanted, fuse.lasting_a))
        return max(back_a, wanted)

    def back_a(self, part: Part) -> float:
        """The most that comes back through a part in any state, inverters at their rating, chargers at work. [A]

        What comes in goes out, but at a bolt in the body, whose other way is the body.
        No leg carries for long what the fuse of its positive does not let through.
        """
        sized = self.sized
        touching = [(k, run) for k, run in enumerate(self.plan.runs) if part.id in (run.start.part, run.finish.part)]
        at = [2 * k + 1 for k, _ in touching]
        let_a = np.array([self._passes_a(run.id) for _, run in touching])
        results = [*sized.rated.values(), *([sized.charging] if sized.charging is not None else [])]
        inward = np.array([1.0 if run.finish.part == part.id else -1.0 for _, run in touching])
        most = 0.0
        for one in results if at else ():
            legs = np.clip(one.solution.conductor_a[at], -let_a, let_a) * inward
            comes, goes = float(legs[legs > 0].sum()), float(-legs[legs < 0].sum())
            most = max(most, comes + goes if part.kind == "chassis_point" else min(comes, goes))
        return most

    def _passes_a(self, run_id: str) -> float:
        """What the fuse of a run, or of the positive it returns for, lets through for ever. [A]"""
        positive = self.sized.returns.leader_of.get(run_id, run_id)
        case = self.sized.cases.get(positive)
        fuse = self.sized.fuses.get(case.protector) if case is not None and case.protector is not None else None
        return fuse.lasting_a if fuse is not None and fuse.lasting_a is not None else float("inf")

    def lasting_a(self, point: str) -> float | None:
        """What the fuse before a feed point lets through for ever; None without one. [A]"""
        guard = self.nearest.get(point)
        fuse = self.sized.fuses.get(guard) if guard is not None else None
        return fuse.lasting_a if fuse is not None else None
