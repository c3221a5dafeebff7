"""The one door to the drills: a skill, a level, a seed and a practice set in, a question out."""

from __future__ import annotations

import importlib
import zlib
from functools import lru_cache

from lucernis.core.school.dice import Dice
from lucernis.core.school.drills.drill import LEVELS, MAKERS, Drill, SchoolSays, answer_text, skills
from lucernis.errors import UnknownRow
from lucernis.practice.rules import load_sets

for _module in ("sizes", "choosing", "looking"):
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
        The learner's practice set; where the others answer otherwise, they are told beside.

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
    numbers = (zlib.crc32(skill.encode()), level, seed)
    found = MAKERS[skill](Dice(*numbers), level, sets[practice])
    # The same facts under every school: only a question whose facts do not change with the school can be compared.
    others = [(one, MAKERS[skill](Dice(*numbers), level, one)) for one in sets.values()]
    alike = [
        (one.label, answer_text(other))
        for one, other in others
        if other.question == found.question or skill == "where_fuse"
    ]
    if len({text for _, text in alike}) > 1:
        found.schools = [SchoolSays(label, text) for label, text in alike]
    return found
