"""What an edit would change: two reports side by side, before anything is stored."""

from __future__ import annotations

from dataclasses import dataclass

from lucernis.core.evaluation.compare import RunChange, run_changes
from lucernis.core.report import Finding, Report


@dataclass(frozen=True, slots=True)
class Preview:
    """Findings that go and that come, runs that change or are new, and the counts before and after."""

    gone: list[Finding]
    new: list[Finding]
    runs: list[RunChange]
    added_runs: list[str]
    before_stop: int
    after_stop: int
    before_fix: int
    after_fix: int
    before_copper_kg: float
    after_copper_kg: float
    changes: list[str]


def preview(before: Report, after: Report, changes: list[str]) -> Preview:
    """Compare a plan's report with that of the edited plan.

    Parameters
    ----------
    before : Report
        As it stands.
    after : Report
        As it would be.
    changes : list of str
        What the edit changes in the document, in words.

    Returns
    -------
    Preview
        Only open findings count.
    """
    old = {one.id: one for one in before.findings if one.waived is None}
    new = {one.id: one for one in after.findings if one.waived is None}
    tags = {run.id for run in before.runs}
    return Preview(
        gone=[one for key, one in old.items() if key not in new],
        new=[one for key, one in new.items() if key not in old],
        runs=[one for one in run_changes(before, after) if one.changed],
        added_runs=[run.tag for run in after.runs if run.id not in tags],
        before_stop=before.summary.open_stop,
        after_stop=after.summary.open_stop,
        before_fix=before.summary.open_fix,
        after_fix=after.summary.open_fix,
        before_copper_kg=before.summary.copper_kg,
        after_copper_kg=after.summary.copper_kg,
        changes=changes,
    )
