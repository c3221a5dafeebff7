"""How a search for mistakes is graded: found, missed, false alarms, and whether the mend is clean."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from lucernis.core.checks.codes import CODES
from lucernis.core.evaluation.judged import findings_of
from lucernis.core.report import every
from lucernis.core.school.breaking.van import good_van
from lucernis.core.school.mistakes import Mistake, MistakeCase, keys
from lucernis.plan.model import Plan
from lucernis.practice.rules import load_sets, resolve_rules

# Half for what was found, half for what was mended; points off for each false alarm and each new fault.
_FOUND, _MENDED, _ALARM, _NEW = 50.0, 50.0, 10.0, 15.0
# The right place under another reason is worth so much of finding it.
_PLACE_FRAC = 0.4


@dataclass(frozen=True, slots=True)
class Mark:
    """What a learner says is wrong: a code of the checks, and at what."""

    subject: str
    code: str


@dataclass(slots=True)
class MistakeGrade:
    """One mistake as it was dealt with: ``found``, only its ``place``, or ``missed``; whether it is mended."""

    mistake: Mistake
    title: str
    why: str
    outcome: str
    mended: bool


@dataclass(frozen=True, slots=True)
class SetSays:
    """What a practice set has to say of the van as it is handed in: how many of each weight."""

    label: str
    stops: int
    fixes: int
    looks: int


@dataclass(slots=True)
class Grade:
    """A search graded, of 100.

    `alarms` are marks of nothing; `brought` what the mend brought in anew; `schools` what each practice set has to say
    of the van, where they disagree, if it was asked (`by_every_set`).
    """

    points: float
    mistakes: list[MistakeGrade]
    alarms: list[Mark]
    brought: list[str]
    clean: bool
    schools: list[SetSays] = field(default_factory=list)


def grade(case: MistakeCase, marks: Sequence[Mark], now: Plan) -> Grade:
    """Grade what a learner marked and mended.

    Parameters
    ----------
    case : MistakeCase
        What was put in.
    marks : sequence of Mark
        What the learner says is wrong.
    now : Plan
        The van as the learner hands it in.

    Returns
    -------
    Grade
        A mark counts for a mistake by any code it shows itself under, at any subject it is found at. What was to be
        looked at before anything was broken is no alarm.
    """
    before = keys(good_van(case.van).report.findings)
    findings = findings_of(now)
    still = {(one.code, one.subject): one for one in every(findings)}
    used: set[Mark] = set()
    found: list[MistakeGrade] = []
    for mistake in case.mistakes:
        here = [mark for mark in marks if mark.subject in mistake.subjects]
        right = [mark for mark in here if mark.code in mistake.codes]
        used |= {*here}
        outcome = "found" if right else "place" if here else "missed"
        mended = not any(
            code in mistake.codes and subject in mistake.subjects and (code, subject) not in before
            for code, subject in still
        )
        code = CODES[mistake.code]
        found.append(MistakeGrade(mistake, code.title, code.why, outcome, mended))
    alarms = [mark for mark in marks if mark not in used and (mark.code, mark.subject) not in before]
    theirs = {(code, subject) for one in case.mistakes for code in one.codes for subject in one.subjects}
    brought = sorted(
        {
            f"{one.tag or one.subject}: {one.what}"
            for (code, subject), one in still.items()
            if (code, subject) not in before | theirs and one.severity != "look"
        }
    )
    weights = [one.mistake.hard for one in found]
    whole = float(sum(weights))
    worth = {"found": 1.0, "place": _PLACE_FRAC, "missed": 0.0}
    points = _FOUND * sum(worth[one.outcome] * w for one, w in zip(found, weights, strict=True)) / whole
    points += _MENDED * sum(w for one, w in zip(found, weights, strict=True) if one.mended) / whole
    points -= _ALARM * len(alarms) + _NEW * len(brought)
    clean = all(one.mended for one in found) and not brought
    return Grade(round(min(max(points, 0.0), 100.0), 1), found, alarms, brought, clean)


def by_every_set(plan: Plan) -> list[SetSays]:
    """The same van judged under each practice set; empty where all say the same."""
    found = []
    for name, one in load_sets().items():
        weights = [each.severity for each in findings_of(plan, resolve_rules(name, {})) if each.waived is None]
        found.append(SetSays(one.label, weights.count("stop"), weights.count("fix"), weights.count("look")))
    return found if len({(one.stops, one.fixes, one.looks) for one in found}) > 1 else []
