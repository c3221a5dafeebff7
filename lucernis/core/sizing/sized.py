"""The sizes of the plans looked at last: report, workings, pictures and days of one plan are told by one choice."""

from __future__ import annotations

from functools import lru_cache

from lucernis.core.sizing.choice import Sized, size_plan
from lucernis.core.sizing.itself import Itself
from lucernis.plan.model import Plan
from lucernis.practice.rules import Rules, resolve_rules

# Those of a large plan take tens of megabytes.
_MOST = 4


def plan_rules(plan: Plan) -> Rules:
    """The rules in force for a plan: its practice set with its overrides."""
    return resolve_rules(plan.practice.set, {one.rule: (one.value, one.reason) for one in plan.practice.overrides})


@lru_cache(maxsize=_MOST)
def _sized(this: Itself[Plan]) -> Sized:
    return size_plan(this.thing, plan_rules(this.thing))


def sized_plan(plan: Plan) -> Sized:
    """A plan sized by its own rules, once as long as it is among those asked for last.

    Parameters
    ----------
    plan : Plan
        A plan whose references hold.

    Returns
    -------
    Sized
        As `size_plan` gives it.
    """
    return _sized(Itself(plan))
