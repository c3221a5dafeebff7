"""Shorts of a plan in one operating state, for those who ask; the report itself has those with every contact closed."""

from __future__ import annotations

from lucernis.core.circuit.switching import find_state
from lucernis.core.evaluation.distribution_report import fault_report
from lucernis.core.faults.study import study_faults
from lucernis.core.layout.laid import laid_out
from lucernis.core.report import ShortsReport
from lucernis.core.sizing.sized import sized_plan
from lucernis.plan.model import Plan


def shorts_in_state(plan: Plan, state_id: str | None) -> ShortsReport:
    """Every short with the contacts of a state.

    Parameters
    ----------
    plan : Plan
        The plan.
    state_id : str or None
        A state; None for every contact closed.

    Returns
    -------
    ShortsReport
        What is dead in that state has no shorts.

    Raises
    ------
    UnknownRow
        If there is no such state.
    """
    state = find_state(plan, state_id)
    plan = laid_out(plan)
    sized = sized_plan(plan)
    study = study_faults(plan, sized, state)
    return ShortsReport(
        state_id=state_id,
        runs={run: [fault_report(sized, one) for one in faults] for run, faults in study.of_run.items()},
        points={point: fault_report(sized, one) for point, one in study.of_point.items()},
    )
