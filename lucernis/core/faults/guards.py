"""What guards each point of the distribution, and what it has to carry; the ends of runs stand in the sizing room."""

from __future__ import annotations

from lucernis.core.sizing.both_ends import RunGuard
from lucernis.core.sizing.choice import Sized
from lucernis.core.sizing.fusing import nearest_fuses
from lucernis.plan.model import Plan, Run


class Guards:
    """Looks along the positives of a plan, every contact closed."""

    def __init__(self, plan: Plan, sized: Sized) -> None:
        self.plan, self.sized = plan, sized
        self.nearest = nearest_fuses(sized.topology)

    def of_run(self, run: Run) -> RunGuard:
        """What guards a run from both ends."""
        return self.sized.both.of_run(run)

    def through_a(self, point: str) -> float:
        """What passes a feed point: all that can be on together behind it, at most what its fuse lets through. [A]"""
        feeder = self.sized.topology.feeder_of.get(point)
        if feeder is None:
            return 0.0
        wanted = self.sized.carry_a(feeder)
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
