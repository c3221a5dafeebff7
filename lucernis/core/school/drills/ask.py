"""The one door to the drills: a skill, a level, a seed and a practice set in, a question out."""

from __future__ import annotations

import importlib
import zlib
from functools import lru_cache

from lucernis.core.school.dice import Dice
from lucernis.core.school.drills.drill import LEVELS, MAKERS, Drill, SchoolSays, answer_text, skills
from lucernis.errors import UnknownRow
from lucernis.practice.rules import load_sets

for _module in ("sizes", "choosing", "looking", "craft"):
    importlib.import_module(f"lucernis.core.school.drills.{_module}")


@lru_cache(maxsize=64)
def drill(skill: str, level: int, seed: int, practice: str) -> Drill:
    """A question.

    Parameters
    ----------
    skill : str
        One of `skills`.
    level : int
        1 to 4.
    seed : int
        Which of all questions, >= 0.
    practice : str
        The learner's practice set.

    Returns
    -------
    Drill
        The same every time.

    Raises
    ------
    UnknownRow
        If there is no such skill, level or practice set.
    """
    known = [one.id for one in skills()]
    if skill not in known:
        raise UnknownRow(f"no skill {skill!r}", field="skill", value=skill, allowed=", ".join(known))
    if level not in LEVELS:
        raise UnknownRow(f"no level {level}", field="level", value=level, allowed="1 to 4")
    sets = load_sets()
    if practice not in sets:
        raise UnknownRow(f"no practice set {practice!r}", field="practice", value=practice, allowed=", ".join(sets))
    return MAKERS[skill](_dice(skill, level, seed), level, sets[practice])


def _dice(skill: str, level: int, seed: int) -> Dice:
    return Dice(zlib.crc32(skill.encode()), level, seed)


def by_every_school(skill: str, level: int, seed: int, practice: str) -> list[SchoolSays]:
    """What each practice set answers to a question, where they disagree.

    Parameters
    ----------
    skill : str
        One of `skills`.
    level : int
        1 to 4.
    seed : int
        Which of all questions, >= 0.
    practice : str
        The learner's practice set.

    Returns
    -------
    list of SchoolSays
        Empty where all answer the same, or where the facts themselves go by the school.
    """
    asked = drill(skill, level, seed, practice)
    others = [(one, MAKERS[skill](_dice(skill, level, seed), level, one)) for one in load_sets().values()]
    # Only a question whose facts do not change with the school can be compared.
    alike = [
        SchoolSays(one.label, answer_text(other))
        for one, other in others
        if other.question == asked.question or skill == "where_fuse"
    ]
    return alike if len({one.answer for one in alike}) > 1 else []
