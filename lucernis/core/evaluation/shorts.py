"""Shorts of a plan in one operating state, for those who ask; the report itself has those with every contact closed."""

from __future__ import annotations

from typing import Literal

from lucernis.core.circuit.switching import find_state
from lucernis.core.evaluation.distribution_report import fault_report
from lucernis.core.faults.body import study_body
from lucernis.core.faults.study import FaultStudy, study_faults
from lucernis.core.layout.laid import laid_out
from lucernis.core.report import BondReport, ShortsReport
from lucernis.core.sizing.sized import sized_plan
from lucernis.plan.model import Plan

ShortTo = Literal["negative", "body"]


def shorts_in_state(plan: Plan, state_id: str | None, to: ShortTo = "negative") -> ShortsReport:
    """Every short with the contacts of a state.

    Parameters
    ----------
    plan : Plan
        The plan.
    state_id : str or None
        A state; None for every contact closed.
    to : str
        ``negative``: each to its own negative; ``body``: each to the body.

    Returns
    -------
    ShortsReport
        What is dead in that state has no shorts; a body that carries nothing says so.

    Raises
    ------
    UnknownRow
        If there is no such state.
    """
    state = find_state(plan, state_id)
    plan = laid_out(plan)
    sized = sized_plan(plan)
    study: FaultStudy | None
    if to == "body":
        body = study_body(plan, sized, state)
        study, reason = body.study, body.reason
        tags = {run.id: run.tag for run in plan.runs}
        bonds = [
            BondReport(one.run_id, tags[one.run_id], one.reached_c, one.limit_c, tags.get(one.by, ""))
            for one in body.bonds
        ]
    else:
        study, reason, bonds = study_faults(plan, sized, state), "", []
    return ShortsReport(
        state_id=state_id,
        runs={run: [fault_report(sized, one) for one in faults] for run, faults in study.of_run.items()}
        if study
        else {},
        points={point: fault_report(sized, one) for point, one in study.of_point.items()} if study else {},
        reason=reason,
        bonds=bonds,
    )
