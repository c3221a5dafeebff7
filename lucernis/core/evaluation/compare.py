"""What another practice set would change: the same plan evaluated under both, run by run."""

from __future__ import annotations

from dataclasses import dataclass

from lucernis.core.evaluation.evaluate import evaluate
from lucernis.core.report import Report, RunReport
from lucernis.errors import UnknownRow
from lucernis.plan.model import Plan
from lucernis.practice.rules import load_sets, resolve_rules


@dataclass(frozen=True, slots=True)
class RunShort:
    """A run in one line."""

    wire_label: str
    fuse_a: float | None
    conductor_drop_to_end_frac: float
    verdict: str


@dataclass(frozen=True, slots=True)
class RunChange:
    """One run under both sets."""

    id: str
    tag: str
    name: str
    before: RunShort
    after: RunShort
    changed: bool


@dataclass(frozen=True, slots=True)
class Comparison:
    """A plan under its own rules and under another set without overrides."""

    before_set: str
    before_label: str
    after_set: str
    after_label: str
    runs: list[RunChange]
    changed: int
    before_copper_kg: float
    after_copper_kg: float
    before_stop: int
    after_stop: int
    rules: list[tuple[str, str, str]]


def _short(run: RunReport) -> RunShort:
    return RunShort(
        run.wire.label, run.fuse.rating_a if run.fuse else None, run.worst.conductor_drop_to_end_frac, run.verdict
    )


def run_changes(before: Report, after: Report) -> list[RunChange]:
    """The runs two reports have in common, each in both."""
    later = {run.id: run for run in after.runs}
    changes = []
    for old in before.runs:
        if old.id not in later:
            continue
        first, second = _short(old), _short(later[old.id])
        differs = (first.wire_label, first.fuse_a, first.verdict) != (second.wire_label, second.fuse_a, second.verdict)
        changes.append(RunChange(old.id, old.tag, old.name or old.finish_label, first, second, differs))
    return changes


def compare_sets(plan: Plan, set_name: str, before: Report | None = None) -> Comparison:
    """Evaluate a plan under another practice set and list what differs.

    Parameters
    ----------
    plan : Plan
        The plan.
    set_name : str
        The other set; the plan's overrides do not apply to it.
    before : Report, optional
        The plan's own report, if it is at hand.

    Returns
    -------
    Comparison
        Every run, before and after.

    Raises
    ------
    UnknownRow
        If there is no such set.
    """
    if set_name not in load_sets():
        raise UnknownRow(f"no practice set {set_name!r}", field="set", value=set_name, allowed=", ".join(load_sets()))
    before = before or evaluate(plan)
    after = evaluate(plan, resolve_rules(set_name, {}))
    changes = run_changes(before, after)
    rules = [
        (one.label, one.shown, two.shown)
        for one, two in zip(before.rules, after.rules, strict=True)
        if one.shown != two.shown
    ]
    return Comparison(
        before_set=before.practice_set,
        before_label=before.practice_label,
        after_set=after.practice_set,
        after_label=after.practice_label,
        runs=changes,
        changed=sum(1 for change in changes if change.changed),
        before_copper_kg=before.summary.copper_kg,
        after_copper_kg=after.summary.copper_kg,
        before_stop=before.summary.open_stop,
        after_stop=after.summary.open_stop,
        rules=rules,
    )
