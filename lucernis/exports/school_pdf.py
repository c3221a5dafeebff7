"""A teacher's sheet, and a certificate of what was done and nothing else."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from reportlab.lib.units import mm
from reportlab.platypus import Spacer

from lucernis.exports.paper import PaperSize, Stamp, make_pdf, para
from lucernis.exports.ruled import ruled

_KIND = {"mistake": "Find the mistake", "fault": "Find the fault", "letter": "Plan it"}


@dataclass(frozen=True, slots=True)
class SkillLine:
    """A skill: level, answers and right ones."""

    title: str
    level: int
    answers: int
    rights: int


@dataclass(frozen=True, slots=True)
class CaseLine:
    """A case that was handed in, or is open."""

    kind: str
    seed: int
    level: int
    points: float | None
    date: str


def _stamp(title: str, name: str, practice: str, date: str) -> Stamp:
    return Stamp(title, name, "", "", 1, date, practice)


def _skills(lines: Sequence[SkillLine]) -> list[list[str]]:
    return [
        [
            one.title,
            f"{one.level} of 4",
            str(one.answers),
            f"{round(100 * one.rights / one.answers)} %" if one.answers else "",
        ]
        for one in lines
    ]


def teachers_sheet_pdf(
    name: str,
    practice: str,
    skills: Sequence[SkillLine],
    slips: Sequence[tuple[str, int]],
    cases: Sequence[CaseLine],
    date: str,
    size: PaperSize,
) -> bytes:
    """What a teacher wants to know of a learner: skills, usual mistakes, cases with their numbers to be done again.

    Parameters
    ----------
    name : str
        The learner.
    practice : str
        Practice set the learner learns by.
    skills : sequence of SkillLine
        All skills.
    slips : sequence of (str, int)
        Usual mistakes and how often.
    cases : sequence of CaseLine
        Newest first.
    date : str
        Of the sheet.
    size : str
        ``a4`` or ``letter``.

    Returns
    -------
    bytes
        The PDF.
    """
    story = [
        para("Skills", "head"),
        ruled(["Skill", "Level", "Answers", "Right"], _skills(skills), [80, 25, 25, 25], size, wide=False),
        Spacer(0, 4 * mm),
        para("Usual mistakes", "head"),
    ]
    if slips:
        story.append(
            ruled(
                ["What was done", "Times"], [[text, str(times)] for text, times in slips], [130, 25], size, wide=False
            )
        )
    else:
        story.append(para("None that has a name."))
    story += [Spacer(0, 4 * mm), para("Cases", "head")]
    rows = [
        [_KIND[one.kind], str(one.seed), str(one.level), "open" if one.points is None else f"{one.points:g}", one.date]
        for one in cases
    ]
    if rows:
        story.append(ruled(["Case", "Number", "Level", "Points", "Date"], rows, [55, 30, 20, 25, 30], size, wide=False))
        story.append(para("The same kind, level and number give the same case again.", "small"))
    else:
        story.append(para("No case was begun."))
    return make_pdf(story, _stamp("teacher's sheet", name, practice, date), size, wide=False)


def certificate_pdf(
    name: str, practice: str, skills: Sequence[SkillLine], cases: Sequence[CaseLine], date: str, size: PaperSize
) -> bytes:
    """A certificate of what was done: answers given, levels reached, cases handed in with their points.

    Parameters
    ----------
    name : str
        The learner.
    practice : str
        Practice set the learner learns by.
    skills : sequence of SkillLine
        All skills; those without an answer are left out.
    cases : sequence of CaseLine
        Those handed in are counted.
    date : str
        Of the certificate.
    size : str
        ``a4`` or ``letter``.

    Returns
    -------
    bytes
        The PDF.
    """
    done = [one for one in skills if one.answers]
    handed = [one for one in cases if one.points is not None]
    story = [
        para(name, "title"),
        Spacer(0, 3 * mm),
        para("has answered, at the bench of simulated systems, by the practice set named below:"),
        Spacer(0, 3 * mm),
    ]
    story.append(
        ruled(["Skill", "Level", "Answers", "Right"], _skills(done), [80, 25, 25, 25], size, wide=False)
        if done
        else para("Nothing yet.")
    )
    story += [Spacer(0, 4 * mm), para("and handed in these cases:")]
    if handed:
        rows = [[_KIND[one.kind], str(one.level), str(one.seed), f"{one.points:g} of 100", one.date] for one in handed]
        story.append(ruled(["Case", "Level", "Number", "Points", "Date"], rows, [55, 20, 30, 30, 30], size, wide=False))
    else:
        story.append(para("None yet."))
    story += [
        Spacer(0, 6 * mm),
        para(
            "It tells what was done here and nothing more: no licence, no approval, no proof of work on vehicles.",
            "small",
        ),
    ]
    return make_pdf(story, _stamp("certificate of what was done", name, practice, date), size, wide=False)
