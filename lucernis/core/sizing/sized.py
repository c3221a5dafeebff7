"""The sizes of the plans looked at last: report, workings, pictures and days of one plan are told by one choice."""

from __future__ import annotations

from functools import lru_cache

from lucernis.core.itself import Itself
from lucernis.core.layout.laid import laid_out
from lucernis.core.sizing.choice import Sized, size_plan
from lucernis.plan.model import Plan
from lucernis.plan.rules import plan_rules

# Those of a large plan take tens of megabytes.
_MOST = 4


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
    return _sized(Itself(laid_out(plan)))
