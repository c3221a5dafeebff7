"""Puts the lists of a report in the order in which its plan has them: computed is in an order of its own."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Protocol, TypeVar

from lucernis.core.report import Report
from lucernis.plan.model import Plan


class _Named(Protocol):
    @property
    def id(self) -> str: ...


_Any = TypeVar("_Any", bound=_Named)


def _like(listed: Iterable[_Named], things: Sequence[_Any]) -> list[_Any]:
    at = {one.id: number for number, one in enumerate(listed)}
    return sorted(things, key=lambda one: at[one.id])


def as_listed(report: Report, plan: Plan) -> Report:
    """The report with runs, loads, blocks, parts, points, channels and states as a plan lists them.

    Parameters
    ----------
    report : Report
        Filled from the plan in order; its lists are sorted in place.
    plan : Plan
        The plan as it was given.

    Returns
    -------
    Report
        The same. Findings stay as they are: gravest first.
    """
    report.runs = _like(plan.runs, report.runs)
    report.loads = _like(plan.parts, report.loads)
    report.blocks = _like(plan.parts, report.blocks)
    report.parts = _like(plan.parts, report.parts)
    part_at = {part.id: number for number, part in enumerate(plan.parts)}
    report.nodes.sort(key=lambda one: part_at[one.part])
    report.channels = _like(plan.channels, report.channels)
    state_of = {one.state_id: number for number, one in enumerate(report.summary.states)}
    states = [state.id for state in plan.states]
    for node in report.nodes:
        node.voltage_v = [node.voltage_v[state_of[one]] for one in states]
        node.live_from = [node.live_from[state_of[one]] for one in states]
    for run in report.runs:
        run.states = {one: run.states[one] for one in states}
    for load in report.loads:
        load.states = {one: load.states[one] for one in states}
    at = {one.state_id: one for one in report.summary.states}
    report.summary.states = [at[one] for one in states]
    run_at = {run.id: number for number, run in enumerate(plan.runs)}
    for channel in report.channels:
        channel.runs.sort(key=lambda one: run_at[one])
    return report
