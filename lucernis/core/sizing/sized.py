"""The sizes of the plans looked at last: report, workings, pictures and days of one plan are told by one choice."""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache

from lucernis.core.circuit.in_order import in_order
from lucernis.core.itself import Itself
from lucernis.core.layout.laid import laid_out, layout_of
from lucernis.core.sizing.choice import Sized, as_listed, choose_sizes, systems_of, whole
from lucernis.plan.model import Plan
from lucernis.plan.rules import plan_rules
from lucernis.practice.rules import Rules

# Those of a large plan take tens of megabytes.
_MOST = 4


@lru_cache(maxsize=2 * _MOST)
def _system(this: Itself[Plan]) -> Sized:
    return choose_sizes(this.thing, plan_rules(this.thing))


@lru_cache(maxsize=_MOST)
def _apart(this: Itself[Plan]) -> tuple[Plan, ...]:
    return systems_of(layout_of(this.thing))


@lru_cache(maxsize=_MOST)
def _sized(this: Itself[Plan]) -> Sized:
    return whole(this.thing, [sized for _, sized in sized_systems(this.thing)])


@lru_cache(maxsize=_MOST)
def _listed(laid: Itself[Plan], ordered: Itself[Plan]) -> Sized:
    return as_listed(laid.thing, _sized(ordered))


def sized_systems(plan: Plan) -> list[tuple[Plan, Sized]]:
    """The systems of a plan in order that nothing joins, each as a plan with its sizes.

    Parameters
    ----------
    plan : Plan
        Laid out and in order.

    Returns
    -------
    list of (Plan, Sized)
        One where all is joined.
    """
    return _beside([(one, _system(Itself(one))) for one in _apart(Itself(plan))])


def systems_by(plan: Plan, rules: Rules) -> list[tuple[Plan, Sized]]:
    """The same by other rules than the plan's own, nothing remembered."""
    return _beside([(one, choose_sizes(one, rules)) for one in systems_of(layout_of(plan, rules))])


def _beside(some: list[tuple[Plan, Sized]]) -> list[tuple[Plan, Sized]]:
    """Each with the sizes of the others, whose wires lie in the same channels."""
    if len(some) == 1:
        return some
    chosen = {name: option for _, sized in some for name, option in sized.chosen.items()}
    return [(plan, replace(sized, beside=chosen)) for plan, sized in some]


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
    layout = layout_of(plan)
    # However a plan is listed, its sizes are chosen once.
    ordered = laid_out(in_order(layout.typed))
    return _sized(Itself(ordered)) if ordered is layout.plan else _listed(Itself(layout.plan), Itself(ordered))
