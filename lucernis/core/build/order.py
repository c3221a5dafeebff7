"""The order of work: every step from the dead vehicle to the last plug, none before what it needs."""

from __future__ import annotations

from dataclasses import dataclass

from lucernis.core.build.connecting import connections
from lucernis.core.build.ending import closings, crimps, shut
from lucernis.core.build.power_up import power_up
from lucernis.core.build.preparing import cuts, dead, holes, mounted_holders, mounts, pulls, seals
from lucernis.core.build.steps import Step
from lucernis.core.build.work import Work
from lucernis.plan.model import Plan


@dataclass(frozen=True, slots=True)
class Order:
    """All steps, each after what it needs; phase by phase, and within one by place and channel along one walk."""

    steps: list[Step]
    power_up: list[Step]
    """A list of its own, for when all the rest is done."""


def order_of_work(plan: Plan) -> Order:
    """Everything there is to do.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.

    Returns
    -------
    Order
        Holes before pulling, pulling before ends, ends before a channel is closed over them, negatives and bonds before
        positives, far ends before near ones, walls closed over what is landed, battery negatives last; panels in the
        first power-up, once their controller has its battery.
    """
    work = Work(plan)
    fastened = [*mounts(work), *mounted_holders(work)]
    landed = connections(work, {step.id for step in fastened})
    wired = [step for step in landed if step.phase in ("negatives", "positives")]
    batteries = [step for step in landed if step.phase == "batteries"]
    steps = [
        dead(work), *holes(work), *fastened, *cuts(work), *pulls(work), *seals(work), *crimps(work), *closings(work),
        *wired, *shut(work, wired), *batteries,
    ]  # fmt: skip
    panels = [step for step in landed if step.phase == "sun"]
    return Order(steps, power_up(work, [step.id for step in batteries], panels))
