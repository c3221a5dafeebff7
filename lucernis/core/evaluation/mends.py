"""Mends tried before they are offered: carried out, judged, and completed by what they ask for besides.

A check names what would mend its finding; whether that does it, and brings nothing as grave, only the whole plan tells.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from lucernis.core.evaluation.judged import findings_of
from lucernis.core.report import SEVERITY_ORDER, Finding, Fix, every
from lucernis.errors import LucernisError
from lucernis.plan.edits import Edit, apply_edits
from lucernis.plan.model import Plan

# A mend that asks for more than so many others besides is a rebuild, and not offered.
_MOST_BESIDES = 4


def _each(findings: Iterable[Finding]) -> dict[str, Finding]:
    """Findings by id, those folded under them too."""
    return {one.id: one for one in every(findings)}


class _Judged:
    """Edited plans that were judged already: mends of several findings often are the same."""

    def __init__(self, plan: Plan) -> None:
        self.plan = plan
        self.subjects = {"plan", *(one.id for one in (*plan.parts, *plan.runs, *plan.channels))}
        self.known: dict[str, dict[str, Finding] | None] = {}

    def after(self, edits: list[Edit]) -> dict[str, Finding] | None:
        key = repr(edits)
        if key not in self.known:
            try:
                self.known[key] = _each(findings_of(apply_edits(self.plan, edits)))
            except LucernisError:
                self.known[key] = None
        return self.known[key]


def _rank(one: Finding) -> int:
    return SEVERITY_ORDER[one.severity]


def _as_grave(
    judged: _Judged, before: Mapping[str, Finding], after: Mapping[str, Finding], wanted: Finding
) -> list[Finding]:
    """What still stands in the way: the finding itself unless it is lighter now, and what came and is as grave."""
    here = after.get(wanted.id)
    stays = [here] if here is not None and _rank(here) <= _rank(wanted) else []
    gone = {one.code for key, one in before.items() if key not in after and key != wanted.id}
    new = [one for key, one in after.items() if key not in before and _rank(one) <= _rank(wanted)]
    # Of a run that was cut a fault that was there already shows at its new piece.
    return stays + [one for one in new if one.code not in gone or one.subject in judged.subjects]


def _completed(judged: _Judged, before: Mapping[str, Finding], wanted: Finding, fix: Fix) -> Fix | None:
    """A mend with what it asks for besides, or None where it does not do."""
    label, edits = fix.label, list(fix.edits)
    for _ in range(_MOST_BESIDES + 1):
        after = judged.after(edits)
        if after is None:
            return None
        left = _as_grave(judged, before, after, wanted)
        if not left:
            return Fix(label, edits)
        more = next(
            (
                other
                for one in left
                for other in one.fixes
                if not any(edit in edits for edit in other.edits) and not _undoes(edits, other.edits)
            ),
            None,
        )
        if more is None:
            return None
        edits += more.edits
        label = f"{label}, {more.label[:1].lower()}{more.label[1:]}"
    return None


def _undoes(edits: list[Edit], others: list[Edit]) -> bool:
    """Whether some edits set again what others have set already: two mends that contradict."""

    def at(edit: Edit) -> tuple[object, ...]:
        return (edit.op, getattr(edit, "run", None) or getattr(edit, "subject", None), getattr(edit, "end", None))

    return bool({at(edit) for edit in edits} & {at(edit) for edit in others})


def tried_mends(plan: Plan, finding_id: str, findings: list[Finding] | None = None) -> list[Fix]:
    """The mends of a finding that do what they say.

    Parameters
    ----------
    plan : Plan
        The plan.
    finding_id : str
        The finding, as the report names it; folded ones too.
    findings : list of Finding, optional
        Those of the plan, where they are known already.

    Returns
    -------
    list of Fix
        Each, carried out, takes the finding away or makes it lighter, and brings nothing as grave; where that needs
        more than the check named, the rest goes with it. Empty where none does.
    """
    before = _each(findings_of(plan) if findings is None else findings)
    wanted = before.get(finding_id)
    if wanted is None or wanted.waived is not None:
        return []
    judged, done = _Judged(plan), list[Fix]()
    for fix in wanted.fixes:
        made = _completed(judged, before, wanted, fix)
        if made is not None and all(made.edits != one.edits for one in done):
            done.append(made)
    return done
