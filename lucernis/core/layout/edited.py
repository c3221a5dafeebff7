"""Edits on a plan whose runs follow channels: what cuts a run or joins two reckons with the lengths of their ways."""

from __future__ import annotations

from lucernis.core.layout.laid import laid_out
from lucernis.plan.edits import Edit, apply_edits
from lucernis.plan.model import Plan


def edited(plan: Plan, edits: list[Edit]) -> Plan:
    """Carry out edits in order; all or none.

    Parameters
    ----------
    plan : Plan
        The plan as typed.
    edits : list of Edit
        What to do.

    Returns
    -------
    Plan
        The new plan, valid. Of a run that follows channels the length last known is as it was, unless an edit changed
        it: two hands that edit different things never meet in it.

    Raises
    ------
    LucernisError
        As `apply_edits`.
    """
    lengths = {run.id: run.length_m for run in laid_out(plan).runs}
    changed = {run.id: run for run in plan.runs if run.length_m != lengths[run.id]}
    if not changed:
        return apply_edits(plan, edits)
    known = tuple(
        run.model_copy(update={"length_m": lengths[run.id], "length_as_typed": None}) if run.id in changed else run
        for run in plan.runs
    )
    after = apply_edits(plan.model_copy(update={"runs": known}), edits)
    runs = tuple(
        run.model_copy(
            update={"length_m": changed[run.id].length_m, "length_as_typed": changed[run.id].length_as_typed}
        )
        if run.id in changed and run.length_m == lengths[run.id] and run.length_as_typed is None
        else run
        for run in after.runs
    )
    return after.model_copy(update={"runs": runs})
