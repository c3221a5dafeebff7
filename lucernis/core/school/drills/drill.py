"""A question and its answer, and how an answer is judged."""

from __future__ import annotations

import math
import re
import tomllib
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import cache
from importlib.resources import files
from typing import Literal

from lucernis.core.school.dice import Dice
from lucernis.errors import NotUnderstood
from lucernis.practice.rules import PracticeSet

Kind = Literal["number", "one", "several"]
# A typed number is right within this much, unless a question says otherwise.
CLOSE_FRAC = 0.02
LEVELS = (1, 2, 3, 4)


@dataclass(frozen=True, slots=True)
class Skill:
    """Something that is trained."""

    id: str
    title: str
    about: str


@cache
def skills() -> tuple[Skill, ...]:
    """All skills, in the order a beginner meets them."""
    raw = tomllib.loads((files("lucernis.core.school") / "skills.toml").read_text(encoding="utf-8"))
    return tuple(Skill(name, one["title"], one["about"]) for name, one in raw.items())


@dataclass(frozen=True, slots=True)
class Wrong:
    """A usual mistake: the answer it leads to, and what was done."""

    answer: str
    text: str


@dataclass(frozen=True, slots=True)
class SchoolSays:
    """What a practice set answers."""

    label: str
    answer: str


@dataclass(slots=True)
class Drill:
    """A question with everything that judges it.

    `right` holds a number as text, or the ids of the choices that are right. `working` are its steps, `picture` is an
    SVG to look at, empty for none.
    """

    skill: str
    question: str
    kind: Kind
    right: tuple[str, ...]
    working: list[str]
    unit: str = ""
    choices: list[tuple[str, str]] = field(default_factory=list)
    mistakes: list[Wrong] = field(default_factory=list)
    also_right: tuple[str, ...] = ()
    close_frac: float = CLOSE_FRAC
    columns: list[str] = field(default_factory=list)
    rows: list[list[str]] = field(default_factory=list)
    picture: str = ""


Make = Callable[[Dice, int, PracticeSet], Drill]
MAKERS: dict[str, Make] = {}


def makes(skill: str) -> Callable[[Make], Make]:
    """Register what makes questions of a skill."""

    def register(function: Make) -> Make:
        MAKERS[skill] = function
        return function

    return register


@dataclass(frozen=True, slots=True)
class JudgedAnswer:
    """An answer judged; `mistake` names the usual one where it is that."""

    right: bool
    answer: str
    mistake: str
    working: list[str]


def number_in(text: str) -> float:
    """A typed number, with a comma or a point, whatever unit stands behind it.

    Raises
    ------
    NotUnderstood
        If there is none.
    """
    found = re.match(r"^\s*([+-]?\d+(?:[.,]\d+)?)", text.replace("−", "-"))
    if found is None:
        raise NotUnderstood(f"{text[:40]!r} is not a number", field="answer", value=text[:40], allowed="a number")
    return float(found.group(1).replace(",", "."))


def text_of(value: float) -> str:
    """A number as an answer is written: three digits."""
    return f"{float(f'{value:.3g}'):g}"


def _close(given: float, wanted: float, share: float) -> bool:
    # What rounds to the same three digits is the same answer.
    return math.isclose(
        given, wanted, rel_tol=share, abs_tol=0.5 * 10 ** (math.floor(math.log10(abs(wanted) or 1)) - 2)
    )


def answer_text(drill: Drill) -> str:
    """The right answer in words."""
    if drill.kind == "number":
        return f"{drill.right[0]} {drill.unit}".strip()
    labels = dict(drill.choices)
    return ", ".join(labels[one] for one in drill.right) or "none of them"


def judge_answer(drill: Drill, given: Sequence[str]) -> JudgedAnswer:
    """Judge an answer.

    Parameters
    ----------
    drill : Drill
        The question.
    given : sequence of str
        A typed number, or the ids of what was chosen.

    Returns
    -------
    JudgedAnswer
        With the working, and the usual mistake where the answer is what it leads to.

    Raises
    ------
    NotUnderstood
        If a number is wanted and none was given, or a choice is none of those offered.
    """
    mistake = ""
    if drill.kind == "number":
        value = number_in(given[0] if given else "")
        right = _close(value, float(drill.right[0]), drill.close_frac)
        if not right:
            near = [one for one in drill.mistakes if _close(value, float(one.answer), drill.close_frac)]
            mistake = near[0].text if near else ""
    else:
        offered = {name for name, _ in drill.choices}
        strange = [one for one in given if one not in offered]
        if strange or (drill.kind == "one" and len(given) != 1):
            raise NotUnderstood(
                "not one of the answers", field="answer", value=list(given)[:3], allowed=", ".join(sorted(offered))
            )
        right = set(given) == set(drill.right) or (drill.kind == "one" and given[0] in drill.also_right)
        if not right:
            chosen = ",".join(sorted(given))
            mistake = next((one.text for one in drill.mistakes if one.answer == chosen), "")
            if not mistake:
                mistake = next(
                    (one.text for one in drill.mistakes if one.answer in given and one.answer not in drill.right), ""
                )
    return JudgedAnswer(right, answer_text(drill), mistake, drill.working)
