"""The rules a plan is judged by."""

from __future__ import annotations

from lucernis.plan.model import Plan
from lucernis.practice.rules import Rules, resolve_rules


def plan_rules(plan: Plan) -> Rules:
    """The rules in force for a plan: its practice set with its overrides."""
    return resolve_rules(plan.practice.set, {one.rule: (one.value, one.reason) for one in plan.practice.overrides})
